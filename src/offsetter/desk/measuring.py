"""Test charts made, measured by hand or by a probe, held against their profile, and conditions corrected from them."""

import secrets
from typing import Any

from offsetter.core.compute.chart import STRIP_COLUMNS, Chart, condition_patches, lay_chart, strip_labs
from offsetter.core.compute.cielab import hex_of_lab
from offsetter.core.compute.colour import Colours
from offsetter.core.compute.correction import correction_of, expected, judged
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.compute.reach import nearest_reachable
from offsetter.core.compute.tone import DRIFT_LIMIT, DifferenceReport, report_of
from offsetter.core.facts import Condition, Drift, Feed, Lab, Measurement, Profile, Shop
from offsetter.core.facts.inks import FOUR, split_off
from offsetter.core.sentences import a_day, say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.conditions import KEPT, Conditions
from offsetter.desk.jobs import Jobs
from offsetter.desk.probes import Probes
from offsetter.formats.cgats import read_measurements, write_chart
from offsetter.formats.chart_pdf import write_chart_pdf
from offsetter.store.shop import ShopStore


class MeasurementView(Frozen):
    """A measured chart, patch by patch, beside the one before it."""

    measurement: Measurement
    chart: Chart
    report: DifferenceReport
    shown: dict[str, tuple[str, str]]
    """Label to how a screen shows what was asked and what came."""
    before: Measurement | None
    before_report: DifferenceReport | None
    can_correct: str
    """Why it cannot be corrected from; empty: it can."""


class Measuring:
    def __init__(self, base: Base, jobs: Jobs, conditions: Conditions, probes: Probes) -> None:
        self._base, self._jobs, self._conditions, self._probes = base, jobs, conditions, probes

    def make_chart(self, printer: str, media: str, mode: str) -> Chart:
        """The chart of a whole condition, sized to what its printer takes, through the corrections in force."""
        shop, _ = self._jobs.shop()
        condition, profile = self._conditions.with_profile(shop, printer, media, mode)
        machine, feed = self._conditions.feed(shop, printer, media, mode)
        patches = [
            (group, asked, None) for group, asked in condition_patches(profile.space, profile.inks_on(machine) or FOUR)
        ]
        title = f"{machine.name}, {media}, {mode}, {self._base.now():%d %b %Y}"
        return self._keep_chart(shop, condition, profile, feed, patches, "condition", title)

    def make_strip(self, printer: str, media: str, mode: str, target: Lab, title: str) -> Chart:
        """A colour and its neighbours as a test strip: the one that looks right says what to ask for."""
        shop, _ = self._jobs.shop()
        condition, profile = self._conditions.with_profile(shop, printer, media, mode)
        _, feed = self._conditions.feed(shop, printer, media, mode)
        colours = self._conditions.transforms(profile.id)
        spec = ColourSpec(
            profile="", ink_limit_pct=condition.ink_limit_pct or shop.methods[feed.method].ink_limit_pct or 400
        )
        patches = [("mixed", nearest_reachable(colours, lab, spec).device_pct, lab) for lab in strip_labs(target)]
        return self._keep_chart(shop, condition, profile, feed, patches, "strip", title)

    def chart(self, chart_id: str) -> Chart:
        with self._base.session() as session:
            body = ShopStore(session).body("charts", chart_id)
        if body is None:
            raise Refusal("no-such-chart", say("The shop has no such chart."), KEPT, say("Make it again at Colour."))
        return Chart.model_validate(body)

    def chart_pdf(self, chart_id: str) -> bytes:
        return write_chart_pdf(self.chart(chart_id))

    def chart_text(self, chart_id: str) -> str:
        return write_chart(self.chart(chart_id))

    def shown(self, chart: Chart) -> dict[str, str]:
        """Label to how a screen shows what a patch should look like."""
        return {
            label: hex_of_lab(lab) for label, lab in expected(chart, self._conditions.transforms(chart.profile)).items()
        }

    def measured_by_hand(self, chart_id: str, name: str, data: bytes, by: str) -> Measurement:
        """Measurements from a file, CGATS text or CSV."""
        chart = self.chart(chart_id)
        return self._measured(chart, read_measurements(data, name[:120]), name[:120], by)

    def measured_by_probe(self, chart_id: str, probe: str, by: str) -> Measurement:
        """Measurements from a probe on the shop's network."""
        chart = self.chart(chart_id)
        read_by, readings = self._probes.measured(probe, chart)
        return self._measured(chart, readings, read_by.name, by)

    def look(self, measurement_id: str) -> MeasurementView:
        """A measured chart with its report, and the measurement before it on the same condition."""
        one = self._measurement(measurement_id)
        shop, _ = self._jobs.shop()
        chart, readings = self.chart(one.chart), self._readings(one)
        meant = expected(chart, self._conditions.transforms(chart.profile))
        earlier = [m for m in self.measurements() if m.condition == one.condition and m.at < one.at]
        before = earlier[-1] if earlier else None
        condition = shop.conditions.get(one.condition)
        cannot = ""
        if chart.space == "RGB":
            cannot = say(
                "This printer separates by itself: its own driver's calibration, or a profile made anew from this file, brings it back."
            )
        elif condition is None or condition.profile != chart.profile:
            cannot = say("The condition has another profile since: print and measure its chart again.")
        elif condition.measurement == one.id:
            cannot = say("The condition is corrected from this measurement already.")
        return MeasurementView(
            measurement=one, chart=chart, report=judged(chart, self._conditions.transforms(chart.profile), readings),
            shown={p.label: (hex_of_lab(meant[p.label]), hex_of_lab(readings[p.label])) for p in chart.patches}, before=before,
            before_report=judged(c, self._conditions.transforms(c.profile), self._readings(before)) if before and (c := self.chart(before.chart)) else None,
            can_correct=cannot,
        )  # fmt: skip

    def correct(self, measurement_id: str, by: str) -> Condition:
        """A condition corrected from a measured chart: tones, and the ink it holds. Jobs go on with the version they pinned."""
        view = self.look(measurement_id)
        if view.can_correct:
            raise Refusal("cannot-correct", view.can_correct, say("The condition is as it was."), say("Go on without."))
        chart, readings = view.chart, self._readings(view.measurement)
        colours = self._conditions.transforms(chart.profile)
        if not isinstance(colours, Colours):
            raise Refusal(
                "cannot-correct",
                say("This printer separates by itself."),
                say("The condition is as it was."),
                say("Use its own driver."),
            )
        curves, limit = correction_of(chart, colours, readings)
        at = self._base.now()
        shop, _ = self._jobs.shop()
        known = shop.conditions[view.measurement.condition]
        said = say("corrected on {at} from {count} patches", at=a_day(at, "short"), count=view.measurement.count)
        made = self._conditions.change(known.printer, known.media, known.mode, by, lambda now: {
            "curves": curves, "ink_limit_pct": limit or now.get("ink_limit_pct"), "why": said, "measurement": measurement_id})  # fmt: skip
        with self._base.session() as session, session.begin():
            # Its next measurement says where it stands now.
            ShopStore(session).change("drift", made.id, mean_delta_e=0.0, at=at.isoformat(), wants_correction=False)
        return made

    def measurements(self) -> list[Measurement]:
        """All of them, oldest first."""
        with self._base.session() as session:
            found = [Measurement.model_validate(b) for b in ShopStore(session).all_of("measurements")]
        return sorted(found, key=lambda m: m.at)

    def _measured(self, chart: Chart, readings: dict[str, Lab], probe: str, by: str) -> Measurement:
        report = judged(chart, self._conditions.transforms(chart.profile), readings)
        own = {p.label: readings[p.label] for p in chart.patches}
        now = self._base.now()
        # The first measurement after a correction is what later ones are held against.
        alike = [
            m
            for m in self.measurements()
            if (m.condition, m.condition_version, m.kind) == (chart.condition, chart.condition_version, "condition")
        ]
        drift = None
        if alike:
            first = alike[0]
            at = {self.chart(first.chart).patches[i].asked: lab for i, lab in enumerate(self._readings(first).values())}
            same = {p.label: at[p.asked] for p in chart.patches if p.asked in at}
            drift = report_of(same, own).mean if same else None
        one = Measurement(
            id=secrets.token_hex(6), chart=chart.id, kind=chart.kind, condition=chart.condition, condition_version=chart.condition_version, probe=probe, at=now, by=by,
            file=self._base.files.keep(write_chart(chart, own).encode()), count=len(own), mean=report.mean, p95=report.p95, worst=report.worst, drift=drift,
        )  # fmt: skip
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            store.put("measurements", one.id, one.model_dump(mode="json"))
            shop, _ = self._jobs.shop()
            current = shop.conditions.get(chart.condition)
            if chart.kind == "condition" and current is not None and current.version == chart.condition_version:
                watch = Drift(mean_delta_e=drift or 0.0, at=now, wants_correction=bool(drift and drift > DRIFT_LIMIT))
                store.change("drift", chart.condition, **watch.model_dump(mode="json"))
        return one

    def _measurement(self, measurement_id: str) -> Measurement:
        with self._base.session() as session:
            body = ShopStore(session).body("measurements", measurement_id)
        if body is None:
            raise Refusal(
                "no-such-measurement", say("The shop has no such measurement."), KEPT, say("Choose one of the list.")
            )
        return Measurement.model_validate(body)

    def _readings(self, one: Measurement) -> dict[str, Lab]:
        return read_measurements(self._base.files.original(one.file).read_bytes(), say("the measurement"))

    def _keep_chart(
        self, shop: Shop, condition: Condition, profile: Profile, feed: Feed, patches: list[Any], kind: str, title: str
    ) -> Chart:
        method, printer = shop.methods[feed.method], shop.printers[condition.printer]
        inks = profile.inks_on(printer) or FOUR
        light = () if profile.space == "RGB" else split_off(printer.inks, inks)
        chart = lay_chart(patches, feed, condition.curves, most_columns=STRIP_COLUMNS if kind == "strip" else 99, kind=kind, title=title, space=profile.space, inks=() if inks == FOUR else inks, light=light, condition=condition.id,
                          condition_version=condition.version, profile=profile.id, mirrored=method.mirror, white=method.white == "plate")  # fmt: skip
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            if store.body("charts", chart.id) is None:
                store.put("charts", chart.id, chart.model_dump(mode="json"))
        return chart
