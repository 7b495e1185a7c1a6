"""The shop's colour: profiles kept and assigned, charts made and measured, conditions corrected and watched, customers' colours."""

import json
import secrets
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from offsetter.core.compute.chart import STRIP_COLUMNS, Chart, condition_patches, lay_chart, strip_labs
from offsetter.core.compute.cielab import hex_of_lab
from offsetter.core.compute.colour import Colours, DriverColours, transforms_of
from offsetter.core.compute.correction import correction_of, expected, judged
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.compute.reach import nearest_reachable
from offsetter.core.compute.tone import DRIFT_LIMIT, DifferenceReport, report_of
from offsetter.core.facts import (
    BrandColour,
    Condition,
    Drift,
    Feed,
    Lab,
    Measurement,
    Method,
    Printer,
    Profile,
    Shop,
    condition_id,
)
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.newest import Newest
from offsetter.devices.probe import measure_chart
from offsetter.formats.cgats import read_measurements, write_chart
from offsetter.formats.chart_pdf import write_chart_pdf
from offsetter.intake.icc import MOST_BYTES
from offsetter.intake.receive import in_child
from offsetter.store.shop import GONE, ShopStore

KEPT = "The shop's colour is as it was."


class ConditionView(Frozen):
    """A printer on a medium in a mode: what is assigned, and how it has been since."""

    id: str
    printer: str
    printer_name: str
    media: str
    mode: str
    mode_name: str
    methods: tuple[str, ...]
    takes: str
    condition: Condition | None
    measurements: tuple[Measurement, ...]
    """Oldest first."""
    drift: Drift | None


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


class ColourRoom:
    def __init__(self, base: Base, jobs: Jobs, probes: dict[str, str]) -> None:
        self._base, self._jobs, self.probes = base, jobs, probes
        self._known: Newest[Colours | DriverColours] = Newest(8)

    # Profiles

    def add_profile(self, name: str, data: bytes, by: str) -> Profile:
        """Keep a profile that prints can be made with. Raises Refusal with the reason for any other."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "profile"
        if len(data) > MOST_BYTES:
            raise Refusal(
                "too-large",
                f"“{name}” is larger than {MOST_BYTES // 2**20} MB.",
                KEPT,
                "Make the profile with smaller tables.",
            )
        file_hash = self._base.files.keep(data)
        out = self._base.files.derived("profiles", file_hash)
        if not out.exists():
            in_child("icc", name, KEPT, str(self._base.files.original(file_hash)), name, str(out))
        profile = Profile.model_validate(
            {**json.loads(out.read_text()), "id": file_hash, "added_at": self._base.now(), "added_by": by}
        )
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            self._put(session, "profiles", file_hash, profile.model_dump(mode="json"))
        return profile

    def remove_profile(self, profile_id: str) -> None:
        """Take a profile out of the list; its bytes stay for the prints that were made with it."""
        shop, _ = self._jobs.shop()
        if profile_id == self._jobs.profile or profile_id not in shop.profiles:
            raise Refusal(
                "not-ours-to-take", "This profile cannot be taken away.", KEPT, "Choose one that was added here."
            )
        used = next((c for c in shop.conditions.values() if c.profile == profile_id), None)
        if used is not None:
            raise Refusal(
                "profile-in-use",
                f"{shop.printers[used.printer].name} prints {used.media} with it.",
                KEPT,
                "Assign another there first.",
            )
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            self._put(session, "profiles", profile_id, {GONE: True})

    def assign(self, printer: str, media: str, mode: str, profile_id: str, by: str) -> Condition:
        """A profile for one printer, medium and mode. What was corrected with another one goes: it was corrected to that one."""
        shop, _ = self._jobs.shop()
        machine, _ = self._feed(shop, printer, media, mode)
        profile = shop.profiles.get(profile_id)
        if profile is None:
            raise Refusal("no-such-profile", "The shop has no such profile.", KEPT, "Add it first.")
        wants = "RGB" if machine.takes == "rgb" else "CMYK"
        if profile.space != wants:
            how = "separates by itself and is sent RGB" if wants == "RGB" else "is sent ink shares"
            raise Refusal(
                "wrong-profile",
                f"“{profile.name}” is for {profile.space}, and {machine.name} {how}.",
                KEPT,
                f"Choose a profile for {wants}.",
            )
        said = f"given the profile “{profile.name}”"
        return self._change(
            printer, media, mode, by, lambda _: {"profile": profile_id, "curves": (), "why": said, "measurement": ""}
        )

    # Charts and measurements

    def make_chart(self, printer: str, media: str, mode: str) -> Chart:
        """The chart of a whole condition, sized to what its printer takes, through the corrections in force."""
        shop, _ = self._jobs.shop()
        condition, profile = self._condition(shop, printer, media, mode)
        machine, feed = self._feed(shop, printer, media, mode)
        patches = [(group, asked, None) for group, asked in condition_patches(profile.space)]
        title = f"{machine.name}, {media}, {mode}, {self._base.now():%d %b %Y}"
        return self._keep_chart(shop, condition, profile, feed, patches, "condition", title)

    def make_strip(self, printer: str, media: str, mode: str, target: Lab, title: str) -> Chart:
        """A colour and its neighbours as a test strip: the one that looks right says what to ask for."""
        shop, _ = self._jobs.shop()
        condition, profile = self._condition(shop, printer, media, mode)
        _, feed = self._feed(shop, printer, media, mode)
        colours = self._transforms(profile.id)
        spec = ColourSpec(
            profile="", ink_limit_pct=condition.ink_limit_pct or self._method(shop, feed).ink_limit_pct or 400
        )
        patches = [("mixed", nearest_reachable(colours, lab, spec).device_pct, lab) for lab in strip_labs(target)]
        return self._keep_chart(shop, condition, profile, feed, patches, "strip", title)

    def chart(self, chart_id: str) -> Chart:
        with self._base.session() as session:
            body = ShopStore(session).body("charts", chart_id)
        if body is None:
            raise Refusal("no-such-chart", "The shop has no such chart.", KEPT, "Make it again at Colour.")
        return Chart.model_validate(body)

    def chart_pdf(self, chart_id: str) -> bytes:
        return write_chart_pdf(self.chart(chart_id))

    def chart_text(self, chart_id: str) -> str:
        return write_chart(self.chart(chart_id))

    def shown(self, chart: Chart) -> dict[str, str]:
        """Label to how a screen shows what a patch should look like."""
        return {label: hex_of_lab(lab) for label, lab in expected(chart, self._transforms(chart.profile)).items()}

    def measured_by_hand(self, chart_id: str, name: str, data: bytes, by: str) -> Measurement:
        """Measurements from a file, CGATS text or CSV."""
        chart = self.chart(chart_id)
        return self._measured(chart, read_measurements(data, name[:120]), name[:120], by)

    def measured_by_probe(self, chart_id: str, probe: str, by: str) -> Measurement:
        """Measurements from a probe on the shop's network."""
        chart = self.chart(chart_id)
        if probe not in self.probes:
            raise Refusal(
                "no-such-probe", f"The shop has no probe “{probe}”.", KEPT, "Measure by hand and bring the file."
            )
        return self._measured(chart, measure_chart(probe, self.probes[probe], chart), probe, by)

    def look(self, measurement_id: str) -> MeasurementView:
        """A measured chart with its report, and the measurement before it on the same condition."""
        one = self._measurement(measurement_id)
        shop, _ = self._jobs.shop()
        chart, readings = self.chart(one.chart), self._readings(one)
        meant = expected(chart, self._transforms(chart.profile))
        earlier = [m for m in self.measurements() if m.condition == one.condition and m.at < one.at]
        before = earlier[-1] if earlier else None
        condition = shop.conditions.get(one.condition)
        cannot = ""
        if chart.space != "CMYK":
            cannot = "This printer separates by itself: its own driver's calibration, or a profile made anew from this file, brings it back."
        elif condition is None or condition.profile != chart.profile:
            cannot = "The condition has another profile since: print and measure its chart again."
        elif condition.measurement == one.id:
            cannot = "The condition is corrected from this measurement already."
        return MeasurementView(
            measurement=one, chart=chart, report=judged(chart, self._transforms(chart.profile), readings),
            shown={p.label: (hex_of_lab(meant[p.label]), hex_of_lab(readings[p.label])) for p in chart.patches}, before=before,
            before_report=judged(c, self._transforms(c.profile), self._readings(before)) if before and (c := self.chart(before.chart)) else None,
            can_correct=cannot,
        )  # fmt: skip

    def correct(self, measurement_id: str, by: str) -> Condition:
        """A condition corrected from a measured chart: tones, and the ink it holds. Jobs go on with the version they pinned."""
        view = self.look(measurement_id)
        if view.can_correct:
            raise Refusal("cannot-correct", view.can_correct, "The condition is as it was.", "Go on without.")
        chart, readings = view.chart, self._readings(view.measurement)
        colours = self._transforms(chart.profile)
        if not isinstance(colours, Colours):
            raise Refusal(
                "cannot-correct",
                "This printer separates by itself.",
                "The condition is as it was.",
                "Use its own driver.",
            )
        curves, limit = correction_of(chart, colours, readings)
        at = self._base.now()
        shop, _ = self._jobs.shop()
        known = shop.conditions[view.measurement.condition]
        said = f"corrected on {at:%d %b} from {view.measurement.count} patches"
        made = self._change(known.printer, known.media, known.mode, by, lambda now: {
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

    def conditions(self) -> tuple[ConditionView, ...]:
        """Every printer on every medium in every mode that the shop has."""
        shop, _ = self._jobs.shop()
        all_measured = self.measurements()
        found = []
        for printer in shop.printers.values():
            for media in dict.fromkeys(f.media for f in printer.feeds):
                for mode in printer.modes:
                    key = condition_id(printer.id, media, mode.id)
                    found.append(ConditionView(
                        id=key, printer=printer.id, printer_name=printer.name, media=media, mode=mode.id, mode_name=mode.name, takes=printer.takes,
                        methods=tuple(f.method for f in printer.feeds if f.media == media), condition=shop.conditions.get(key),
                        measurements=tuple(m for m in all_measured if m.condition == key), drift=shop.drift.get(key),
                    ))  # fmt: skip
        return tuple(sorted(found, key=lambda c: (not c.measurements, c.condition is None, c.printer_name, c.media)))

    # Customers' colours

    def put_brand(self, brand_id: str, body: dict[str, Any]) -> BrandColour:
        try:
            brand = BrandColour.model_validate({**body, "id": brand_id})
        except ValidationError as wrong:
            first = wrong.errors()[0]
            raise Refusal("bad-colour", f"This colour cannot be: {first['loc'][0] if first['loc'] else ''} {first['msg'].removeprefix('Value error, ')}.",
                          "Nothing was saved.", "Give a customer, a name, and L, a and b.") from wrong  # fmt: skip
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            self._put(session, "brand_colours", brand_id, brand.model_dump(mode="json"))
        return brand

    def remove_brand(self, brand_id: str) -> None:
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            self._put(session, "brand_colours", brand_id, {GONE: True})

    def pick(self, name: str, data: bytes, spots: tuple[float, float, float, float]) -> Lab:
        """The colour of a spot on a photograph, against a white spot in the same light. Raises Refusal."""
        if len(data) > MOST_BYTES:
            raise Refusal(
                "too-large",
                f"“{name}” is larger than {MOST_BYTES // 2**20} MB.",
                "Nothing was taken from it.",
                "Send a smaller photograph.",
            )
        file_hash = self._base.files.keep(data)
        out = self._base.files.derived("picks", digest(file_hash, spots))
        if not out.exists():
            in_child(
                "pick",
                name[:120],
                "Nothing was taken from it.",
                str(self._base.files.original(file_hash)),
                name[:120],
                str(out),
                *map(str, spots),
            )
        light, a, b = json.loads(out.read_text())
        return light, a, b

    # Helpers

    def _measured(self, chart: Chart, readings: dict[str, Lab], probe: str, by: str) -> Measurement:
        report = judged(chart, self._transforms(chart.profile), readings)
        own = {p.label: readings[p.label] for p in chart.patches}
        now = self._base.now()
        # The first measurement after a correction is what later ones are held against.
        alike = [
            m
            for m in self.measurements()
            if m.condition == chart.condition and m.condition_version == chart.condition_version
        ]
        drift = None
        if alike:
            first = alike[0]
            at = {self.chart(first.chart).patches[i].asked: lab for i, lab in enumerate(self._readings(first).values())}
            same = {p.label: at[p.asked] for p in chart.patches if p.asked in at}
            drift = report_of(same, own).mean if same else None
        one = Measurement(
            id=secrets.token_hex(6), chart=chart.id, condition=chart.condition, condition_version=chart.condition_version, probe=probe, at=now, by=by,
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
            raise Refusal("no-such-measurement", "The shop has no such measurement.", KEPT, "Choose one of the list.")
        return Measurement.model_validate(body)

    def _readings(self, one: Measurement) -> dict[str, Lab]:
        return read_measurements(self._base.files.original(one.file).read_bytes(), "the measurement")

    def _keep_chart(
        self, shop: Shop, condition: Condition, profile: Profile, feed: Feed, patches: list[Any], kind: str, title: str
    ) -> Chart:
        method = self._method(shop, feed)
        chart = lay_chart(patches, feed, condition.curves, most_columns=STRIP_COLUMNS if kind == "strip" else 99, kind=kind, title=title, space=profile.space, condition=condition.id,
                          condition_version=condition.version, profile=profile.id, mirrored=method.mirror, white=method.white == "plate")  # fmt: skip
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            if store.body("charts", chart.id) is None:
                store.put("charts", chart.id, chart.model_dump(mode="json"))
        return chart

    def _condition(self, shop: Shop, printer: str, media: str, mode: str) -> tuple[Condition, Profile]:
        self._feed(shop, printer, media, mode)
        found = shop.condition(printer, media, mode)
        if found is None or found.profile not in shop.profiles:
            raise Refusal("no-profile-yet", f"No profile is assigned to {shop.printers[printer].name} on {media}.", KEPT,
                          "Assign one first: a chart is judged against it.")  # fmt: skip
        return found, shop.profiles[found.profile]

    def _feed(self, shop: Shop, printer: str, media: str, mode: str) -> tuple[Printer, Feed]:
        machine = shop.printers.get(printer)
        feed = next((f for f in machine.feeds if f.media == media), None) if machine else None
        if machine is None or feed is None or mode not in {m.id for m in machine.modes}:
            raise Refusal(
                "not-owned", "The shop has no such printer, medium and mode.", KEPT, "Choose one of the list."
            )
        return machine, feed

    def _method(self, shop: Shop, feed: Feed) -> Method:
        return shop.methods[feed.method]

    def _transforms(self, profile_id: str) -> Colours | DriverColours:
        found = self._known.get(profile_id)
        if found is None:
            found = self._known[profile_id] = transforms_of(self._base.files.original(profile_id).read_bytes())
        return found

    def _change(
        self, printer: str, media: str, mode: str, by: str, changes: Callable[[dict[str, Any]], dict[str, Any]]
    ) -> Condition:
        """A newer version of a condition, the older ones kept."""
        key = condition_id(printer, media, mode)
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            store.lock()
            now = store.body("conditions", key) or {
                "id": key,
                "version": 0,
                "printer": printer,
                "media": media,
                "mode": mode,
            }
            body = {**now, **changes(now), "version": now["version"] + 1, "at": self._base.now(), "by": by}
            made = Condition.model_validate(body)
            store.put("conditions", key, made.model_dump(mode="json"), made.version)
        return made

    @staticmethod
    def _put(session: Session, kind: str, fact_id: str, body: dict[str, Any]) -> None:
        """A newer row that says all there is to say: nothing of the one before stays."""
        store = ShopStore(session)
        store.put(kind, fact_id, body, store.newest(kind, fact_id) + 1)
