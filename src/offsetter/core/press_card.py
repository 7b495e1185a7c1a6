"""What has to be known before piece one: what differs from how the press was left, and how long pieces really cool."""

from decimal import Decimal

from offsetter.core.acts import Act, Pressed, SetUp, standing
from offsetter.core.compute.cost import covers_of
from offsetter.core.counted_sheets import SheetUse
from offsetter.core.facts import Blank, Oven, Press, Stage
from offsetter.core.quantities import a_length, both_heats
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

LATEST, ENOUGH = 30, 5
QUICKEST = 0.25
"""A touch comes later than the cold: the quicker quarter of the touches says more than the mean. From memory."""


class CardRow(Frozen):
    """One thing on the press to change; left is how it stands."""

    what: str
    left: str
    wanted: str


class Cooling(Frozen):
    planned_s: int
    learned_s: int | None
    touches: int
    """Touches that found a piece cold, of this stage on this blank's kind of cloth."""

    @property
    def wait_s(self) -> int:
        return self.planned_s if self.learned_s is None else self.learned_s


class CardStage(Stage):
    """A stage as a piece goes through it."""

    nth_part: int = 0
    """The how-manieth part of its print is on; 0: the print is whole."""
    covers: tuple[str, ...] = ()
    """Sheets that one press uses up by counting."""


def part_by_part(stages: tuple[Stage, ...], parts: int) -> tuple[CardStage, ...]:
    """All stages for every part that a print is laid together from, after what is done before the first piece alone."""
    whole = tuple(
        CardStage.model_validate({**s.model_dump(), "covers": () if s.temperature_c is None else covers_of(s)})
        for s in stages
    )
    if parts < 2:
        return whole
    once, each = (tuple(s for s in whole if s.first_only is is_first) for is_first in (True, False))
    return once + tuple(
        s.model_copy(update={"name": say("{name}, {n} of {parts} parts", name=s.name, n=n, parts=parts), "nth_part": n})
        for n in range(1, parts + 1)
        for s in each
    )


def beside(overlap_um: int) -> str:
    """How a part is laid to the one that is on already."""
    return (
        say("{overlap} over the one that is on", overlap=a_length(overlap_um / 1000))
        if overlap_um
        else say("edge to edge with the one that is on")
    )


def wanted_set_up(press: Press, stages: tuple[Stage, ...], blank: Blank) -> SetUp:
    """How the press has to stand for the longest hot stage: when pressing, the one that transfers."""
    hot = [s for s in stages if s.temperature_c is not None]
    main = max(hot, key=lambda s: s.time_s, default=None)
    pads = [layer.what for s in hot for layer in s.stack if layer.kind == "pad"]
    return SetUp(
        press=press.id, temperature_c=main.temperature_c if main else None, time_s=main.time_s if main else None,
        pressure=main.pressure if main else "", thickness_mm=blank.thickness_mm, pad=pads[0] if pads else "none",
    )  # fmt: skip


def wanted_oven(oven: Oven, stages: tuple[Stage, ...]) -> SetUp:
    """How an oven has to stand: it has a heat and a timer alone."""
    hot = next(s for s in stages if s.temperature_c is not None)
    return SetUp(press=oven.id, temperature_c=hot.temperature_c, time_s=hot.time_s, pad="none")


def last_set_up(acts: tuple[Act, ...], press: str) -> SetUp | None:
    """How a press was left: the newest standing set-up act of any job."""
    found = [a for a in standing(acts) if isinstance(a.body, SetUp) and a.body.press == press]
    latest = max(found, key=lambda a: (a.at, a.id), default=None)
    return latest.body if latest and isinstance(latest.body, SetUp) else None


def change_over(left: SetUp | None, wanted: SetUp, gauge: dict[str, str]) -> tuple[CardRow, ...]:
    """Only what differs; everything when nobody knows how the press was left."""
    rows = []
    for what, field in (
        ("Heat", "temperature_c"),
        ("Timer", "time_s"),
        ("Pressure", "pressure"),
        ("Height", "thickness_mm"),
        ("Pad", "pad"),
    ):
        now, then = getattr(wanted, field), getattr(left, field) if left else None
        if now in (None, ""):
            continue
        if now != then and not (left is None and field == "pad" and now == "none"):
            rows.append(CardRow(what=what, left=_said(field, then, gauge), wanted=_said(field, now, gauge)))
    return tuple(rows)


FIRST_RECIPE = "film-house"
"""What acts were pressed by before they named their recipe."""


def cooling_of(acts: tuple[Act, ...], stage: Stage, recipe: str) -> Cooling:
    """How long a stage's cooling takes here, from touches by the same recipe; its own time until there are enough of them."""
    pressed = [
        a.body for a in standing(acts) if isinstance(a.body, Pressed) and (a.body.recipe or FIRST_RECIPE) == recipe
    ]
    ran = [r for body in pressed for r in body.stages if r.stage == stage.id][-LATEST:]
    cold = sorted(r.ran_s for r in ran)
    if len(cold) < ENOUGH:
        return Cooling(planned_s=stage.time_s, learned_s=None, touches=len(cold))
    quick = cold[int((len(cold) - 1) * QUICKEST)]
    # Never before the latest moment at which a touch found one still warm.
    warm = max((r.warm_at_s for r in ran if r.warm_at_s is not None), default=0.0)
    return Cooling(planned_s=stage.time_s, learned_s=round(max(quick, warm)), touches=len(cold))


class CoverLeft(Frozen):
    """A sheet that is used up by counting."""

    cover: str
    uses: int
    used: int
    is_known: bool
    """Whether a new one was ever said to be taken here."""

    @property
    def left(self) -> int:
        return max(0, self.uses - self.used)


def covers_left(
    known: dict[str, SheetUse], stages: tuple[Stage, ...], uses: dict[str, tuple[Decimal, int]]
) -> tuple[CoverLeft, ...]:
    """How often each counted sheet of these stages was used since it was taken new. known: those at this press."""
    wanted = dict.fromkeys(c for s in stages if s.temperature_c is not None for c in covers_of(s) if c in uses)
    found = []
    for cover in wanted:
        sheet = known.get(cover)
        found.append(CoverLeft(cover=cover, uses=uses[cover][1], used=sheet.used if sheet else 0,
                               is_known=sheet is not None and sheet.since is not None))  # fmt: skip
    return tuple(found)


def _said(field: str, value: object, gauge: dict[str, str]) -> str:
    if value is None or value == "":
        return say("not known")
    if field == "temperature_c" and isinstance(value, float | int):
        return both_heats(value)
    if field == "time_s":
        return f"{value} s"
    if field == "thickness_mm" and isinstance(value, float | int):
        return say("for {value} of blank", value=a_length(value, None))
    if field == "pressure":
        mark, word = gauge.get(str(value), ""), say(str(value))
        if not mark:
            return word
        return say("{value}, gauge {mark}", value=word, mark=mark) if mark[0].isdigit() else f"{word}: {mark}"
    return str(value)
