"""The shop's probes: charts measured, and the heat of a press read from a log."""

from typing import Literal

from offsetter.core.compute.chart import Chart
from offsetter.core.compute.heat_log import HeatRuns, Logged, runs_of
from offsetter.core.facts import Lab, Probe
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.jobs import Jobs
from offsetter.devices.probe import log_of, measure_chart

SHOWN = 600
"""Of a log, newest first, on the screen."""


class HeatLog(Frozen):
    probe: str
    name: str
    log: tuple[Logged, ...]
    runs: HeatRuns | None
    """None while the log holds no whole heating and cooling."""
    lacks: str = ""
    """Why not, in words."""


class Probes:
    def __init__(self, jobs: Jobs, loopback_ports: frozenset[int]) -> None:
        """loopback_ports: of this machine, that may be spoken to."""
        self._jobs, self._ports = jobs, loopback_ports

    def of(self, measures: Literal["colour", "heat"]) -> tuple[Probe, ...]:
        """Those that answer on the network."""
        probes = self._jobs.shop()[0].probes.values()
        return tuple(p for p in probes if p.measures == measures and p.address and not p.retired)

    def measured(self, probe_id: str, chart: Chart) -> tuple[Probe, dict[str, Lab]]:
        probe = self._one(probe_id, "colour")
        return probe, measure_chart(probe, self._ports, chart)

    def heat(self, probe_id: str) -> HeatLog:
        probe = self._one(probe_id, "heat")
        log = log_of(probe, self._ports)
        try:
            runs, lacks = runs_of(log), ""
        except Refusal as no:
            runs, lacks = None, f"{no.happened} {no.to_do}"
        return HeatLog(probe=probe.id, name=probe.name, log=log[-SHOWN:], runs=runs, lacks=lacks)

    def _one(self, probe_id: str, measures: Literal["colour", "heat"]) -> Probe:
        found = self._jobs.shop()[0].probes.get(probe_id)
        if found is None or found.measures != measures:
            raise Refusal("no-such-probe", say("The shop has no such probe for {measures}.", measures=measures), say("Nothing was measured."), say("Choose one at Machines, or measure by hand."))  # fmt: skip
        return found
