"""A colour probe on the network: it is sent a chart as CGATS text, and answers with the same patches measured.

One connection a chart: the chart's text, then end of sending; the answer's text, then end.
"""

import re
import socket

from offsetter.core.compute.chart import Chart
from offsetter.core.facts import Lab
from offsetter.core.values import Refusal
from offsetter.formats.cgats import MOST_BYTES, read_measurements, write_chart

CONNECTS_WITHIN_S, ANSWERS_WITHIN_S = 3.0, 30.0
_ADDRESS = re.compile(r"^([A-Za-z0-9.-]{1,120}):(\d{1,5})$")


def measure_chart(name: str, address: str, chart: Chart) -> dict[str, Lab]:
    """Label to Lab of every patch that the probe read. Raises Refusal when it does not answer, or with nonsense."""
    parts = _ADDRESS.match(address)
    if parts is None or not 0 < int(parts[2]) < 65536:
        raise Refusal(
            "bad-address", f"“{address}” is no address of a probe.", "Nothing was measured.", "Give it as host:port."
        )
    silent = Refusal("probe-silent", f"The probe “{name}” does not answer.", "Nothing was measured.",
                     "Look whether it is switched on and on the shop's network, or measure by hand and bring the file.")  # fmt: skip
    try:
        with socket.create_connection((parts[1], int(parts[2])), CONNECTS_WITHIN_S) as line:
            line.settimeout(ANSWERS_WITHIN_S)
            line.sendall(write_chart(chart).encode())
            line.shutdown(socket.SHUT_WR)
            answer = bytearray()
            while block := line.recv(65536):
                answer += block
                if len(answer) > MOST_BYTES:
                    raise Refusal(
                        "probe-babbles",
                        f"The probe “{name}” sends more than a chart holds.",
                        "Nothing was measured.",
                        "Start it again.",
                    )
    except OSError as gone:
        raise silent from gone
    return read_measurements(bytes(answer), f"answer of {name}")
