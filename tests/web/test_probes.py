"""Probes over the network, and the simulated press, oven and cutter: what they are is found again from outside."""

import io
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

import numpy as np
import pytest
from PIL import Image, ImageChops
from standins import cutter
from standins.heat import ROOM_C, Hall

from offsetter.core.compute.heat import fit_press
from offsetter.core.compute.heat_log import runs_of
from offsetter.core.values import Refusal
from offsetter.devices.address import checked_address
from offsetter.formats.heat_log import read_log
from tests.web.conftest import Counter, give_probes
from tests.web.test_cut_lines import vinyl

CLOCK = [0.0]
HALF_HOUR_S = 1800


def lived(machine: str = "press", set_c: float = 160.0) -> Hall:
    """Heated from cold for half an hour, then left to cool for another."""
    CLOCK[0] = 0.0
    hall = Hall(now=lambda: CLOCK[0])
    hall.hold(machine)
    for celsius in (set_c, None):
        hall.set(machine, celsius)
        CLOCK[0] += HALF_HOUR_S
        hall.live()
    return hall


@pytest.mark.parametrize("machine", ["press", "oven"])
def test_a_log_gives_back_the_heater_and_the_loss_that_made_it(machine: str):
    hall = lived(machine)
    runs = runs_of(read_log(hall.csv().encode(), "probe"))
    assert runs.room_c == pytest.approx(ROOM_C, abs=0.3)
    by = {r: tuple((x.minute, x.celsius) for x in runs.readings if x.run == r) for r in ("heating", "cooling")}
    assert by["heating"][0][0] == by["cooling"][0][0] == 0
    assert by["heating"][-1][1] < 160, "where the thermostat holds it says nothing of its power"
    assert by["cooling"][-1][0] == pytest.approx(30, abs=1.5)
    found, true = fit_press(by["heating"], by["cooling"], runs.room_c or 0), hall.heated[machine]
    assert found.q_c_per_min == pytest.approx(true.power, rel=0.02)
    assert found.k_per_min == pytest.approx(true.loss, rel=0.03)


def test_half_a_log_says_which_half_is_missing():
    hall = lived()
    log = read_log(hall.csv().encode(), "probe")
    hottest = max(range(len(log)), key=lambda at: log[at].celsius)
    for part, missing in ((log[: hottest + 1], "cooling"), (log[hottest:], "heating"), (log[:4], "heating"), ((), "nothing")):  # fmt: skip
        with pytest.raises(Refusal, match=missing):
            runs_of(part)
    again = [r.model_copy(update={"minute": r.minute + 60}) for r in log[:60]]
    ends = runs_of((*log, *again)).readings[-1]
    assert ends.celsius < 26, "heated once more it is no cooling any more"
    assert ends.minute <= 30.5


@pytest.mark.parametrize(
    "data",
    [b"", b"minute\n1\n", b"minute,celsius\n1,nan\n", b"minute,celsius\n1,1e400\n", b"minute,celsius\n2,20\n1,21\n", b"minute,celsius\n1\n",
     b"minute,celsius\n1,900\n", b"\xff\xfe\x00", b"minute,celsius,celsius\n1,2,3\n", b"minute,celsius\n" + b"".join(b"%d,20\n" % n for n in range(20_001))],
)  # fmt: skip
def test_what_is_no_log_is_refused(data: bytes):
    with pytest.raises(Refusal) as no:
        read_log(data, "Whimbrel")
    assert no.value.code == "bad-log"


def test_a_press_takes_its_readings_from_a_probe(counter: Counter, machines):
    give_probes(counter, machines)
    machines.hall = lived()
    log = counter.get("/api/probes/whimbrel/log").json()
    assert log["runs"]["room_c"] == pytest.approx(ROOM_C, abs=0.3)
    press = counter.get("/api/shop").json()["presses"][0]["id"]
    before = counter.get(f"/api/presses/{press}/heat").json()
    answer = counter.client.put(f"/api/presses/{press}/readings", json=log["runs"], headers=counter.headers)
    assert answer.status_code == 200, answer.text
    assert answer.json()["model"]["q_c_per_min"] == pytest.approx(machines.hall.heated["press"].power, rel=0.02)
    old = {"room_c": before["room_c"], "readings": before["readings"]}
    assert counter.client.put(f"/api/presses/{press}/readings", json=old, headers=counter.headers).status_code == 200
    machines.hall.hold("oven")
    assert "nothing" in counter.get("/api/probes/whimbrel/log").json()["lacks"]
    assert counter.get("/api/probes/kittiwake/log").json()["code"] == "no-such-probe", "that one is for colour"


def test_only_the_owner_says_what_is_spoken_to_and_only_the_shops_own_network_is(counter: Counter, machines):
    give_probes(counter, machines)

    def at(address: str, who: Counter = counter):
        return who.client.put("/api/machines/probes/whimbrel", json={"address": address}, headers=who.headers)

    assert at("http://10.0.0.9", counter.as_person("Noor")).json()["code"] == "owner-address"
    renamed = counter.as_person("Noor").client.put("/api/machines/probes/whimbrel", json={"name": "Whimbrel"}, headers=counter.as_person("Noor").headers)  # fmt: skip
    assert renamed.status_code == 200
    for address, code in (("", "probe-by-hand"), ("http://169.254.169.254/", "foreign-address"), ("http://127.0.0.1:9/", "foreign-address"),
                          ("ipp://10.0.0.9/", "bad-address"), ("https://10.0.0.9/", "no-tls-probe"), ("http://a b/", "bad-address")):  # fmt: skip
        assert at(address).status_code == 200
        assert counter.get("/api/probes/whimbrel/log").json()["code"] == code, address
    give_probes(counter, machines)


class Odd(BaseHTTPRequestHandler):
    """Answers as no probe does, by the path that is asked."""

    def do_GET(self) -> None:
        away = self.path == "/away"
        self.send_response(302 if away else 200)
        if away:
            self.send_header("Location", "/log")
        self.end_headers()
        if self.path == "/babbles":
            self.wfile.write(b"minute,celsius\n" + b"1,20\n" * 2_000_000)
        elif self.path == "/log":
            self.wfile.write(b"minute,celsius\n1,20\n")

    def log_message(self, *_: object) -> None:
        pass


def test_a_probe_that_is_none_is_said(app, counter: Counter, machines):
    odd = HTTPServer(("127.0.0.1", 0), Odd)
    threading.Thread(target=odd.serve_forever, daemon=True).start()
    port = odd.server_address[1]
    probes = app.state.services.probes
    ports, probes._ports = probes._ports, frozenset({port})
    try:
        assert checked_address(f"http://127.0.0.1:{port}/log", frozenset({port}), "http").path == "/log"
        for path, code in (("away", "probe-silent"), ("babbles", "probe-babbles"), ("words", "bad-log")):
            body = {"address": f"http://127.0.0.1:{port}/{path}"}
            assert (
                counter.client.put("/api/machines/probes/whimbrel", json=body, headers=counter.headers).status_code
                == 200
            )
            assert counter.get("/api/probes/whimbrel/log").json()["code"] == code, path
        odd.shutdown()
        odd.server_close()
        assert counter.get("/api/probes/whimbrel/log").json()["code"] == "probe-silent"
    finally:
        probes._ports = ports
        give_probes(counter, machines)


def test_a_cutter_answers_the_test_cut_of_a_run(counter: Counter):
    job = vinyl(counter)
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.follow(f"run-{run['id']}")
    data = counter.get(f"/api/runs/{run['id']}/cut.dxf").content
    outlines = cutter.test_cut_of(data)
    spans = sorted(max(x for x, _ in line) - min(x for x, _ in line) for line in outlines)
    assert spans == pytest.approx([8, 12], abs=0.1), "a circle in a square"
    answers = {fault: cutter.answer(data, fault) for fault in cutter.SAID}
    pictures = {f: Image.open(io.BytesIO(a)).convert("RGB") for f, a in answers.items()}
    for fault, picture in pictures.items():
        if fault:
            assert np.any(np.asarray(ImageChops.difference(picture, pictures[""]))[:600]), fault
    with pytest.raises(ValueError, match="no test cut"):
        cutter.test_cut_of(data.replace(b"TEST", b"LEFT"))
    with pytest.raises(ValueError, match="no DXF"):
        cutter.test_cut_of(b"words")
