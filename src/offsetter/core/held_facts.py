"""What a job was decided with: the measures that its blanks and machines had then, until somebody takes the new ones.

Only what stations reckon with is held. A name, a price, what a tank holds, the readings of a probe or the words of a load card are
always as they are today.
"""

from collections.abc import Iterable, Mapping
from typing import Any, Literal

from offsetter.core.decisions import Pins, Way
from offsetter.core.facts import Blank, Feed, HeldFact, Oven, Press, Printer, PrintMode, Shop
from offsetter.core.facts.shop import HeldSort
from offsetter.core.quantities import a_heat, a_length
from offsetter.core.sentences import say
from offsetter.core.values import Finding, Frozen, Patch

HELD: dict[HeldSort, dict[str, str]] = {
    "blanks": {
        "kind": say("what it is"), "fibres": "fibres", "colour": "colour", "thickness_mm": "thickness", "scorch_c": "scorching", "coated": "coating",
        "material": "material", "foil": "foil", "up_by": say("which way is up"), "stretch": "stretch", "items": say("things to a piece"),
        "obstacles": say("what stands up"), "places": "places", "sizes": "measures",
    },
    "printers": {"plate_shift_mm": say("plates' shift"), "takes": say("what is sent to it"), "modes": "modes", "feeds": "media"},
    "presses": {
        "kind": "kind", "platen_width_mm": say("platen's width"), "platen_height_mm": say("platen's height"), "highest_c": say("highest heat"), "opens_mm": "opening",
    },
    "ovens": {"width_mm": "width", "length_mm": "length", "highest_c": say("highest heat")},
}  # fmt: skip
"""Field to what it is called in a sentence."""
FEED_HELD = {
    "media": "medium", "kind": "kind", "media_mm": "width", "length_mm": "length", "printable_mm": say("printed width"), "margin_mm": "margin",
}  # fmt: skip
MOST_SAID = 4
MODE_HELD = {"dpi": say("dots an inch"), "white_passes": say("passes of white")}

MACHINES_HELD: tuple[HeldSort, ...] = ("printers", "presses", "ovens")

Held = Blank | Printer | Press | Oven


def pins_of(ids: Iterable[str], sorts: Iterable[HeldSort], shop: Shop, known: Mapping[str, int]) -> Pins:
    """Version of each thing that is named: as it was pinned, or its newest where it was not."""
    pins = {}
    for fact_id in dict.fromkeys(ids):
        newest = next((v for s in sorts if (v := shop.versions.get(f"{s}/{fact_id}"))), 0)
        if newest:
            pins[fact_id] = min(known.get(fact_id, newest), newest)
    return pins


def pinned_by(way: Way, shop: Shop) -> Pins:
    return pins_of(filter(None, (way.printer, way.press, way.oven)), MACHINES_HELD, shop, way.pins)


def as_then(now: Held, then: Held) -> Held:
    """A fact as it is today, with the measures that it had then. What came since (a mode, a feed, a size, a value that nobody had
    given) stays."""
    given = {f: getattr(then, f) for f in HELD[_sort_of(now)]}
    held: dict[str, Any] = {f: v for f, v in given.items() if v not in ("", None)}
    if isinstance(now, Printer) and isinstance(then, Printer):
        modes = {m.id: m for m in then.modes}
        held["modes"] = tuple(_with(m, modes.get(m.id), MODE_HELD) for m in now.modes)
        held["feeds"] = tuple(_with(f, then.feed(f.method), FEED_HELD) for f in now.feeds)
    elif isinstance(now, Blank) and isinstance(then, Blank):
        held["sizes"] = now.sizes | then.sizes
    return now.model_copy(update=held)


def changes(now: Held, then: Held) -> tuple[str, ...]:
    """What is otherwise today, in words. then: as as_then gives it."""
    said: list[str] = []
    for field, name in HELD[_sort_of(now)].items():
        was, is_now = getattr(then, field), getattr(now, field)
        if was == is_now:
            continue
        if field == "feeds" and isinstance(now, Printer) and isinstance(then, Printer):
            said += [
                s
                for a, b in zip(then.feeds, now.feeds, strict=True)
                for s in _inside(a, b, FEED_HELD, f"{b.media.replace('-', ' ')}: ")
            ]
        elif field == "modes" and isinstance(now, Printer) and isinstance(then, Printer):
            said += [
                s for a, b in zip(then.modes, now.modes, strict=True) for s in _inside(a, b, MODE_HELD, f"{b.name}: ")
            ]
        elif field == "sizes" and isinstance(now, Blank) and isinstance(then, Blank):
            said.append(
                say("size {sizes}", sizes=", ".join(s for s in then.sizes if then.sizes[s] != now.sizes.get(s)))
            )
        else:
            said.append(_told(field, name, was, is_now))
    return tuple(said)


def newer_measures(held: Iterable[HeldFact], station: Literal["order", "method"], pins: Pins) -> list[Finding]:
    """What a job goes on with as it was, each with the key that takes it as it is."""
    return [
        Finding(
            code=f"measures-{h.id}", severity="caution", message=say("{name} measures otherwise today: {changes}", name=h.name, changes='; '.join(h.changes[:MOST_SAID])),
            why=say("This job goes on with what it was decided with until you take the new measures."), fix_text=say("Take it as it is now"),
            patch=Patch(station=station, changes={"pins": {**pins, h.id: h.newest}}),
        )
        for h in held
    ]  # fmt: skip


def held_shop(shop: Shop, facts: Iterable[tuple[HeldSort, Held, int]]) -> Shop:
    """The shop as a job sees it. facts: sort, a thing as it was then, and the version it was; such as measure today what they did
    then are left as they are."""
    seen: dict[str, dict[str, Any]] = {}
    held: list[HeldFact] = []
    for sort, then, version in facts:
        now = getattr(shop, sort)[then.id]
        kept = as_then(now, then)
        said = changes(now, kept)
        if said:
            seen.setdefault(sort, dict(getattr(shop, sort)))[then.id] = kept
            held.append(
                HeldFact(
                    sort=sort,
                    id=then.id,
                    name=now.name,
                    version=version,
                    newest=shop.versions[f"{sort}/{then.id}"],
                    changes=said,
                )
            )
    return shop.model_copy(update={**seen, "held": tuple(held)}) if held else shop


def _sort_of(fact: Held) -> HeldSort:
    return {Blank: "blanks", Printer: "printers", Press: "presses", Oven: "ovens"}[type(fact)]  # type: ignore[return-value]


def _with(now: Feed | PrintMode, then: Feed | PrintMode | None, fields: Iterable[str]) -> Feed | PrintMode:
    return now if then is None else now.model_copy(update={f: getattr(then, f) for f in fields})


def _inside(then: Frozen, now: Frozen, fields: Mapping[str, str], of: str) -> list[str]:
    both = ((f, name, getattr(then, f), getattr(now, f)) for f, name in fields.items())
    return [_told(f, of + name, was, is_now) for f, name, was, is_now in both if was != is_now]


def _told(field: str, name: str, was: object, now: object) -> str:
    if isinstance(was, int | float) and isinstance(now, int | float) and not isinstance(now, bool):
        if field.endswith("_mm"):
            decimals = 2 if max(abs(was), abs(now)) < 10 else 1
            return say("{name} {was}, now {now}", name=name, was=a_length(was, decimals), now=a_length(now, decimals))
        if field.endswith("_c"):
            return say("{name} {was}, now {now}", name=name, was=a_heat(was), now=a_heat(now))
        return say("{name} {was}, now {now}", name=name, was=f"{was:g}", now=f"{now:g}")
    return name
