"""Printers spoken to by IPP: our stand-ins before the public conformance suites, our client before Debian's own printer simulator, and
both before a client that we did not write."""

import asyncio
import os
import shutil
import subprocess
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta, timezone

import pytest
from database import free_port
from hypothesis import given, settings
from hypothesis import strategies as st
from pyipp import IPP
from reportlab.pdfgen.canvas import Canvas
from standins.kinds import KINDS
from standins.serving import Machines

from offsetter.core.printer_told import Told, channel_of
from offsetter.core.sentences import shown
from offsetter.devices.address import Address
from offsetter.devices.ipp_message import BadMessage, Message, Tag, Value, decode, encode, of
from offsetter.devices.printer import Printer, Wanted, told_of


@pytest.fixture(scope="module")
def machines():
    made = Machines(speed=1000)
    yield made
    made.close()


@pytest.fixture(scope="module")
def page(tmp_path_factory):
    path = tmp_path_factory.mktemp("page") / "page.pdf"
    drawn = Canvas(str(path), pagesize=(300, 300), invariant=1)
    drawn.rect(50, 50, 200, 200, fill=1)
    drawn.save()
    return path


def client_at(port: int, path: str, host: str = "127.0.0.1") -> Printer:
    return Printer(Address(uri=f"ipp://{host}:{port}{path}", host=host, ip="127.0.0.1", port=port, path=path))


# Debian's cups-ipp-utils. The suite for driverless printing wants sample pictures that Debian does not ship: of it the test of every
# operation and attribute that such a printer must have is run.
@pytest.mark.parametrize(("suite", "fewest"), [("get-printer-attributes", 1), ("ipp-1.1", 30), ("ipp-2.0", 31), ("ipp-everywhere", 32)])  # fmt: skip
@pytest.mark.parametrize("name", ["petrel", "puffin"])
def test_the_stand_ins_pass_the_public_conformance_suites(machines, page, suite, fewest, name):
    done = subprocess.run(["ipptool", "-t", "-f", page, machines.uri(name), f"{suite}.test"], capture_output=True, text=True, timeout=150)  # fmt: skip
    assert "[FAIL]" not in done.stdout, done.stdout
    assert done.stdout.count("[PASS]") >= fewest, done.stdout


@pytest.mark.parametrize("name", sorted(KINDS))
def test_a_client_that_we_did_not_write_reads_the_stand_ins_as_ours_does(machines, name):
    async def asked():
        async with IPP("127.0.0.1", port=machines.port, base_path=f"/ipp/{name}") as client:
            return await client.printer()

    # In a thread of its own: a browser of another test may run a loop in this one.
    with ThreadPoolExecutor(1) as aside:
        theirs = aside.submit(asyncio.run, asked()).result(30)
    ours = client_at(machines.port, f"/ipp/{name}").ask()
    assert {m.name: m.level for m in theirs.markers} == {s.name: round(s.level_pct) for s in ours.supplies}
    assert (theirs.state.printer_state, theirs.info.printer_info) == ({"ready": "idle"}.get(ours.state, ours.state), ours.name)  # fmt: skip


@pytest.fixture(scope="module")
def simulator(tmp_path_factory):
    """Debian's printer simulator; it wants a message bus of its own to start, and no other service."""
    folder, port = tmp_path_factory.mktemp("simulator"), free_port()
    bus = f"unix:path={folder}/bus"
    (folder / "spool").mkdir()
    dbus = subprocess.Popen(["dbus-daemon", "--session", f"--address={bus}", "--nofork", "--nopidfile"])
    end = time.monotonic() + 20
    while not (folder / "bus").exists():
        assert time.monotonic() < end
        time.sleep(0.05)
    printer = subprocess.Popen(
        ["ippeveprinter", "-r", "off", "-n", "localhost", "-p", str(port), "-d", str(folder / "spool"), "-k", "-c", shutil.which("true"),
         "-f", "application/pdf,image/jpeg,image/pwg-raster,application/octet-stream", "Probe"],
        env={**os.environ, "DBUS_SYSTEM_BUS_ADDRESS": bus}, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    client = client_at(port, "/ipp/print", "localhost")
    while True:
        try:
            client.ask()
            break
        except Exception:
            assert time.monotonic() < end + 20
            time.sleep(0.1)
    yield client
    printer.kill()
    dbus.kill()


def test_our_client_reads_and_prints_on_a_printer_that_we_did_not_write(simulator, page):
    told = simulator.ask()
    assert (told.state, told.is_hindered) == ("ready", False)
    assert [(s.channel, s.level_pct, s.fills_up) for s in told.supplies] == [("", 25, True), ("K", 75, False)]
    assert any((round(t.width_mm), round(t.length_mm)) in ((210, 297), (216, 279)) for t in told.trays)
    assert {"copies", "media-col"} <= set(told.heeds)
    assert "print-scaling" not in told.heeds, "this one cannot be told to print at 100 %, and is not asked to"
    number = simulator.print(page, Wanted(name="R7 tees 4f2a", by="Ada"), told.heeds)
    end = time.monotonic() + 30
    while (job := simulator.job(number)) is None or job.state != "done":
        assert time.monotonic() < end, job
        time.sleep(0.1)
    assert simulator.find("R7 tees 4f2a") == job
    assert simulator.job(number + 500) is None


VALUES = st.one_of(
    st.builds(lambda n: Value(Tag.INTEGER, n), st.integers(-(2**31), 2**31 - 1)),
    st.builds(lambda b: Value(Tag.BOOLEAN, b), st.booleans()),
    st.builds(lambda t: Value(Tag.TEXT, t), st.text(max_size=40)),
    st.builds(lambda b: Value(Tag.OCTETS, b), st.binary(max_size=40)),
    st.builds(lambda a, b: Value(Tag.RANGE, (a, b)), st.integers(0, 9), st.integers(0, 9)),
    st.builds(lambda a: Value(Tag.RESOLUTION, (a, a, 3)), st.integers(1, 4800)),
    st.builds(lambda h: Value(Tag.DATE, datetime(2026, 3, 4, 5, 6, 7, tzinfo=timezone(timedelta(minutes=h)))), st.integers(-700, 700)),
    st.just(Value(Tag.NO_VALUE, None)),
)  # fmt: skip
NAMES = st.text("abcdefghij-", min_size=1, max_size=12)


def with_collections(values):
    members = st.dictionaries(NAMES, st.lists(values, min_size=1, max_size=3).map(tuple), max_size=3)
    return st.one_of(values, st.builds(lambda m: Value(Tag.COLLECTION, m), members))


@settings(max_examples=150, deadline=None)
@given(st.dictionaries(NAMES, st.lists(with_collections(with_collections(VALUES)), min_size=1, max_size=3).map(tuple), max_size=5), st.binary(max_size=30))  # fmt: skip
def test_every_message_comes_back_as_it_went(attributes, document):
    sent = Message(0x0B, 77, ((Tag.OPERATION, {}), (Tag.PRINTER, attributes)))
    read, at = decode(encode(sent) + document)
    assert (read, (encode(sent) + document)[at:]) == (sent, document)


@settings(max_examples=400, deadline=None)
@given(st.binary(max_size=200))
def test_bytes_that_are_no_message_are_refused_and_nothing_else(data):
    for tried in (data, encode(Message(0, 1, ((Tag.PRINTER, {"a": of(Tag.TEXT, "b")}),)))[:-1] + data):
        try:
            read, at = decode(tried)
            assert 0 < at <= len(tried)
            told_of(read.group(Tag.PRINTER))
        except BadMessage:
            pass


# RFC 3805, prtMarkerSuppliesLevel: -1 other, -2 unknown, -3 some remaining.
@pytest.mark.parametrize(("level", "pct", "has_some", "lied"), [(42, 42, False, ""), (0, 0, False, ""), (-1, None, False, ""), (-2, None, False, ""), (-3, None, True, ""), (150, None, False, "150 %"), (-9, None, False, "-9 %")])  # fmt: skip
def test_a_level_is_a_share_or_is_not_known(level, pct, has_some, lied):
    said = {"marker-names": of(Tag.NAME, "Black ink"), "marker-colors": of(Tag.NAME, "#000000"), "marker-types": of(Tag.KEYWORD, "ink-tank"), "marker-levels": of(Tag.INTEGER, level)}  # fmt: skip
    black = told_of(said).supply("K")
    assert (black.level_pct, black.has_some, black.lied) == (pct, has_some, lied)


def test_supplies_are_read_from_either_list_and_waste_counts_the_other_way():
    octets = [b"index=1;class=supplyThatIsConsumed;type=toner;unit=percent;maxcapacity=100;level=75;colorantname=black;",
              b"index=2;class=receptacleThatIsFilled;type=wasteToner;unit=percent;maxcapacity=100;level=30;colorantname=none;",
              b"index=3;class=supplyThatIsConsumed;type=ink;unit=tenthsOfMilliliters;maxcapacity=2000;level=500;colorantname=cyan;"]  # fmt: skip
    black, waste, cyan = told_of({"printer-supply": of(Tag.OCTETS, *octets)}).supplies
    assert (black.channel, black.level_pct) == ("K", 75)
    assert (waste.channel, waste.level_pct, waste.fills_up) == ("", 30, True)
    assert (cyan.channel, cyan.level_pct) == ("C", 25)


@pytest.mark.parametrize(("name", "colour", "channel"), [("Cyan Cartridge", "", "C"), ("Tank 5", "#FFFFFF", "W"), ("Maintenance box", "#000000", ""), ("Photo black", "", "K"), ("Drum", "#00FFFF", "")])  # fmt: skip
def test_a_container_is_known_by_its_name_or_its_colour(name, colour, channel):
    assert channel_of(name, colour) == channel


def test_a_stopped_printer_says_why_in_a_technicians_words():
    told = Told(state="stopped", reasons=("media-empty-error", "cover-open-error", "vendor-gremlin-warning"))
    assert shown(told.said) == "out of paper; cover open; “vendor gremlin”"
    assert shown(Told(state="ready", reasons=("marker-supply-low-warning",)).said) == "ready, ink or toner low"
