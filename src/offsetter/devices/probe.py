"""A probe on the shop's network, spoken to by HTTP. One for colour is sent a chart as CGATS text and answers with the same patches
measured; one for heat answers with its log as CSV."""

import http.client
import time

from offsetter.core.compute.chart import Chart
from offsetter.core.compute.heat_log import Logged
from offsetter.core.facts import Lab, Probe
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.devices.address import checked_address
from offsetter.formats.cgats import MOST_BYTES, read_measurements, write_chart
from offsetter.formats.heat_log import read_log

ANSWERS_WITHIN_S = 30.0
PART = 1 << 16
KEPT = say("Nothing was measured.")


def measure_chart(probe: Probe, ports: frozenset[int], chart: Chart) -> dict[str, Lab]:
    """Label to Lab of every patch that the probe read. Raises Refusal when it does not answer, or with nonsense."""
    answer = _asked(probe, ports, write_chart(chart).encode(), say("measure by hand and bring the file"))
    return read_measurements(answer, say("answer of {name}", name=probe.name))


def log_of(probe: Probe, ports: frozenset[int]) -> tuple[Logged, ...]:
    """What a probe for heat has logged. Raises Refusal when it does not answer, or with nonsense."""
    return read_log(_asked(probe, ports, None, say("type its readings")), probe.name)


def _asked(probe: Probe, ports: frozenset[int], body: bytes | None, otherwise: str) -> bytes:
    """body: sent to it; None: it is only asked."""
    if not probe.address:
        raise Refusal("probe-by-hand", say("The probe “{name}” is not on the network.", name=probe.name), KEPT, say("Say at Machines where it is, or {otherwise}.", otherwise=otherwise))  # fmt: skip
    at = checked_address(probe.address, ports, "http")
    silent = Refusal("probe-silent", say("The probe “{name}” does not answer.", name=probe.name), KEPT,
                     say("Look whether it is switched on and on the shop's network, or {otherwise}.", otherwise=otherwise))  # fmt: skip
    line = http.client.HTTPConnection(at.ip, at.port, timeout=ANSWERS_WITHIN_S)
    try:
        host = f"[{at.host}]" if ":" in at.host else at.host
        line.request("GET" if body is None else "POST", at.path, body, {"Host": f"{host}:{at.port}", "Content-Type": "text/plain"})  # fmt: skip
        answer = line.getresponse()
        # Redirects are not followed: what was checked is this machine.
        if answer.status != 200:
            raise silent
        end, data = time.monotonic() + ANSWERS_WITHIN_S, bytearray()
        while part := answer.read1(PART):
            data += part
            if len(data) > MOST_BYTES or time.monotonic() > end:
                raise Refusal("probe-babbles", say("The probe “{name}” sends more than it could have measured, or too slowly.", name=probe.name), KEPT, say("Start it again."))  # fmt: skip
        return bytes(data)
    except (OSError, http.client.HTTPException) as gone:
        raise silent from gone
    finally:
        line.close()
