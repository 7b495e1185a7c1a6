"""A printer's nozzles over time: what its checks showed, and the next step on the cleaning ladder."""

from datetime import datetime
from typing import Literal

from offsetter.core.facts import Method, Printer
from offsetter.core.facts.inks import WHITE, name_of
from offsetter.core.sentences import capitalised, listed, say, say_many
from offsetter.core.values import Frozen
from offsetter.core.wording import several

Cleaning = Literal["light", "normal", "strong"]


class Rung(Frozen):
    """One cleaning; what it takes is from memory until the shop has measured it."""

    id: Cleaning
    minutes: int
    ink_ml: float


LADDER = (Rung(id="light", minutes=3, ink_ml=2.0), Rung(id="normal", minutes=5, ink_ml=6.0), Rung(id="strong", minutes=8, ink_ml=15.0))  # fmt: skip
REST_H = 12
"""After the whole ladder: from memory; ink that dried on softens in its own wet."""


class Checked(Frozen):
    """A check that was read, or a cleaning that was done."""

    id: str
    at: datetime
    by: str
    kind: Literal["check", "cleaning"]
    missing: dict[str, tuple[int, ...]] = {}
    lines: int = 0
    picture: str = ""
    cleaning: Cleaning | None = None

    @property
    def out(self) -> int:
        return sum(len(n) for n in self.missing.values())


class NextStep(Frozen):
    said: str
    why: str
    rung: Rung | None = None
    """The cleaning to do; None: none."""


def channels_of(printer: Printer, methods: dict[str, Method]) -> tuple[str, ...]:
    """What its heads carry; none where it prints with toner."""
    own = [methods[f.method] for f in printer.feeds if f.method in methods]
    if not own or all(m.colorant == "toner" for m in own):
        return ()
    white = (WHITE,) if any(m.white == "plate" for m in own) else ()
    return (*printer.inks, *white)


SHOWS_FROM_PCT = 0.5
"""Coverage of a channel from which a missing line is seen (from memory)."""


def would_show(history: tuple[Checked, ...], coverage_pct: dict[str, float]) -> tuple[str, bool]:
    """What the last check missed, and whether it would be seen in a print that covers so much; empty: nobody checked, or nothing is out."""
    last = next((c for c in reversed(history) if c.kind == "check"), None)
    out = {c: n for c, n in last.missing.items() if n} if last else {}
    if not out:
        return "", False
    seen = {c: n for c, n in out.items() if coverage_pct.get(c, 0.0) >= SHOWS_FROM_PCT}
    if not seen:
        named = listed(name_of(c) for c in out)
        return say(
            "Lines of {named} are missing, and this print hardly uses it: it would not show.", named=named
        ), False
    told = "; ".join(say("{c} misses {counted}, and this print covers {coverage} % with it", c=name_of(c), counted=several(len(n), 'line'), coverage=f'{coverage_pct[c]:.0f}') for c, n in seen.items())  # fmt: skip
    return say("{told}: stripes would show. Clean first.", told=capitalised(told)), True


def next_step(history: tuple[Checked, ...]) -> NextStep:
    """history: the oldest first."""
    checks = [c for c in history if c.kind == "check"]
    if not checks:
        return NextStep(said=say("Print a nozzle sheet"), why=say("Nobody has looked at this printer's nozzles yet."))
    last = history[-1]
    if last.kind == "cleaning":
        return NextStep(
            said=say("Print a nozzle sheet again"),
            why=say("A {cleaning} cleaning was done since the last one.", cleaning=last.cleaning),
        )
    if not last.out:
        return NextStep(said=say("All nozzles print"), why=say("Nothing is to be done."))
    # Cleanings since all of them printed last.
    since: list[Checked] = []
    for one in reversed(history):
        if one.kind == "check" and not one.out:
            break
        if one.kind == "cleaning":
            since.append(one)
    was = next((c for c in reversed(checks[:-1]) if c.out), None)
    better = was is not None and last.out < was.out and bool(since)
    told = say_many(
        last.out, "{count} line of {lines} is missing", "{count} lines of {lines} are missing", lines=last.lines
    )
    if len(since) >= len(LADDER):
        return NextStep(said=say("Let it rest for {rest_h} hours, then check again", rest_h=REST_H),
                        why=say("{told} after {counted}: another one costs ink and helps less than rest.", told=told, counted=several(len(since), 'cleaning')))  # fmt: skip
    rung = LADDER[len(since)]
    helped = (
        say("the last cleaning helped")
        if better
        else say("the last cleaning did not help")
        if since
        else say("it begins gently")
    )
    return NextStep(said=say("A {id} cleaning: {minutes} min, about {ink} mL of ink", id=rung.id, minutes=rung.minutes, ink=f'{rung.ink_ml:.0f}'), why=f"{told}; {helped}.", rung=rung)  # fmt: skip
