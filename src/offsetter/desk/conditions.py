"""Print conditions: profiles kept, assigned to a printer, medium and mode, and every version of what was corrected there."""

import json
from collections.abc import Callable
from typing import Any

from offsetter.core.compute.colour import Colours, DriverColours, transforms_of
from offsetter.core.facts import Condition, Drift, Feed, Measurement, Printer, Profile, Shop, condition_id
from offsetter.core.facts.inks import name_of
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.desk.jobs import Jobs
from offsetter.intake.icc import MOST_BYTES
from offsetter.intake.receive import in_child
from offsetter.store.shop import GONE, ShopStore

KEPT = say("The shop's colour is as it was.")


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
    fits: tuple[str, ...]
    """Profiles that are for what it is sent."""
    condition: Condition | None
    measurements: tuple[Measurement, ...]
    """Oldest first."""
    drift: Drift | None


def fits(profile: Profile, printer: Printer) -> bool:
    """It is for what the printer is sent: RGB, or inks that it holds."""
    return profile.space == "RGB" if printer.takes == "rgb" else profile.inks_on(printer) is not None


class Conditions:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs
        self._known: Bounded[Colours | DriverColours] = Bounded(8)

    def add_profile(self, name: str, data: bytes, by: str) -> Profile:
        """Keep a profile that prints can be made with. Raises Refusal with the reason for any other."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "profile"
        if len(data) > MOST_BYTES:
            raise Refusal(
                "too-large",
                say("“{name}” is larger than {most_bytes} MB.", name=name, most_bytes=MOST_BYTES // 2**20),
                KEPT,
                say("Make the profile with smaller tables."),
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
            ShopStore(session).replace("profiles", file_hash, profile.model_dump(mode="json"))
        return profile

    def remove_profile(self, profile_id: str) -> None:
        """Take a profile out of the list; its bytes stay for the prints that were made with it."""
        shop, _ = self._jobs.shop()
        if profile_id == self._jobs.profile or profile_id not in shop.profiles:
            raise Refusal(
                "not-ours-to-take",
                say("This profile cannot be taken away."),
                KEPT,
                say("Choose one that was added here."),
            )
        used = next((c for c in shop.conditions.values() if c.profile == profile_id), None)
        if used is not None:
            raise Refusal(
                "profile-in-use",
                say("{name} prints {media} with it.", name=shop.printers[used.printer].name, media=used.media),
                KEPT,
                say("Assign another there first."),
            )
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            ShopStore(session).replace("profiles", profile_id, {GONE: True})

    def assign(self, printer: str, media: str, mode: str, profile_id: str, by: str) -> Condition:
        """A profile for one printer, medium and mode. What was corrected with another one goes: it was corrected to that one."""
        shop, _ = self._jobs.shop()
        machine, _ = self.feed(shop, printer, media, mode)
        profile = shop.profiles.get(profile_id)
        if profile is None:
            raise Refusal("no-such-profile", say("The shop has no such profile."), KEPT, say("Add it first."))
        if machine.takes == "rgb" and not fits(profile, machine):
            raise Refusal("wrong-profile", say("“{name}” is for {space}, and {name2} separates by itself and is sent RGB.", name=profile.name, space=profile.space, name2=machine.name), KEPT,
                          say("Choose a profile for RGB."))  # fmt: skip
        if not fits(profile, machine):
            its = ", ".join(name_of(i) for i in profile.inks) or profile.space
            raise Refusal("wrong-profile", say("“{name}” is for {its}, and {name2} holds {inks}.", name=profile.name, its=its, name2=machine.name, inks=', '.join(name_of(i) for i in machine.inks)), KEPT,
                          say("Choose a profile for its inks, or say at Machines what it holds."))  # fmt: skip
        said = say("given the profile “{name}”", name=profile.name)
        return self.change(
            printer, media, mode, by, lambda _: {"profile": profile_id, "curves": (), "why": said, "measurement": ""}
        )

    def all(self, measured: list[Measurement]) -> tuple[ConditionView, ...]:
        """Every printer on every medium in every mode that the shop has."""
        shop, _ = self._jobs.shop()
        found = []
        for printer in shop.printers.values():
            for media in dict.fromkeys(f.media for f in printer.offers):
                for mode in printer.modes:
                    key = condition_id(printer.id, media, mode.id)
                    found.append(ConditionView(
                        id=key, printer=printer.id, printer_name=printer.name, media=media, mode=mode.id, mode_name=mode.name, takes=printer.takes, fits=tuple(p.id for p in shop.profiles.values() if fits(p, printer)),
                        methods=tuple(f.method for f in printer.offers if f.media == media), condition=shop.conditions.get(key),
                        measurements=tuple(m for m in measured if m.condition == key and m.kind == "condition"), drift=shop.drift.get(key),
                    ))  # fmt: skip
        return tuple(sorted(found, key=lambda c: (not c.measurements, c.condition is None, c.printer_name, c.media)))

    def with_profile(self, shop: Shop, printer: str, media: str, mode: str) -> tuple[Condition, Profile]:
        self.feed(shop, printer, media, mode)
        found = shop.condition(printer, media, mode)
        if found is None or found.profile not in shop.profiles:
            raise Refusal("no-profile-yet", say("No profile is assigned to {name} on {media}.", name=shop.printers[printer].name, media=media), KEPT,
                          say("Assign one first: a chart is judged against it."))  # fmt: skip
        return found, shop.profiles[found.profile]

    def feed(self, shop: Shop, printer: str, media: str, mode: str) -> tuple[Printer, Feed]:
        machine = shop.printers.get(printer)
        feed = next((f for f in machine.feeds if f.media == media), None) if machine else None
        if machine is None or feed is None or mode not in {m.id for m in machine.modes}:
            raise Refusal(
                "not-owned", say("The shop has no such printer, medium and mode."), KEPT, say("Choose one of the list.")
            )
        return machine, feed

    def transforms(self, profile_id: str) -> Colours | DriverColours:
        found = self._known.get(profile_id)
        if found is None:
            found = self._known[profile_id] = transforms_of(self._base.files.original(profile_id).read_bytes())
        return found

    def change(
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
