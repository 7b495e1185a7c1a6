"""From a measured chart to a condition's correction; from a colour that came out off to what to ask for instead."""

from collections.abc import Mapping

import numpy as np

from offsetter.core.compute.chart import Chart
from offsetter.core.compute.cielab import delta_e_2000, hex_of_lab
from offsetter.core.compute.colour import Colours, DriverColours
from offsetter.core.compute.plate_spec import ColourSpec, Shift
from offsetter.core.compute.reach import nearest_reachable
from offsetter.core.compute.tone import DifferenceReport, correcting_curve, ink_limit_of, report_of, tone_values
from offsetter.core.facts import Curve, Lab
from offsetter.core.sentences import say, say_many
from offsetter.core.values import Frozen, Refusal


def expected(chart: Chart, colours: Colours | DriverColours) -> dict[str, Lab]:
    """What the profile says of every patch, as a probe would measure it."""
    asked = np.array([p.asked for p in chart.patches])[None] / 100
    labs = colours.lab_of(asked, "absolute")[0]
    return {p.label: (float(v[0]), float(v[1]), float(v[2])) for p, v in zip(chart.patches, labs, strict=True)}


def judged(chart: Chart, colours: Colours | DriverColours, measured: Mapping[str, Lab]) -> DifferenceReport:
    """The chart against its profile. Patches with more ink than any print gets are left out.

    Raises Refusal that names the patches which are missing.
    """
    missing = [p.label for p in chart.patches if p.label not in measured]
    if missing:
        raise Refusal("patches-missing", say_many(len(missing), "Patch {named} of the chart is missing.", "{count} of the chart's {patches} patches are missing, {named} among them.", patches=len(chart.patches), named=', '.join(missing[:5])),
                      say("Nothing was saved."), say("Measure the chart whole, with this chart's own labels."))  # fmt: skip
    beyond = {p.label for p in chart.patches if p.group == "limit"}
    asked = {label: lab for label, lab in expected(chart, colours).items() if label not in beyond}
    return report_of(asked, measured)


def correction_of(
    chart: Chart, colours: Colours, measured: Mapping[str, Lab]
) -> tuple[tuple[Curve, ...], float | None]:
    """Curves that bring the condition's tones back to its profile's, and the ink it holds (None: all that was tried).

    Raises Refusal for a chart without ramps.
    """
    bare = next((p for p in chart.patches if p.group == "bare"), None)
    ramps = {ink: [p for p in chart.patches if p.group == f"ramp-{ink}"] for ink in chart.channels}
    if bare is None or not all(ramps.values()):
        raise Refusal(
            "no-ramps",
            say("This chart has no ramp of every ink."),
            say("The condition is as it was."),
            say("Print and measure the chart of the whole condition."),
        )
    meant = expected(chart, colours)
    curves = []
    for at, ink in enumerate(chart.channels):
        steps = ramps[ink]
        labels = [bare.label, *(p.label for p in steps)]
        solid = steps[-1].label
        curves.append(correcting_curve(
            [0.0, *(p.asked[at] for p in steps)], [0.0, *(p.printed[at] for p in steps)],
            tone_values(ink, [measured[n] for n in labels], measured[bare.label], measured[solid]),
            tone_values(ink, [meant[n] for n in labels], meant[bare.label], meant[solid]),
        ))  # fmt: skip
    ladder = [p for p in chart.patches if p.group == "limit"]
    return tuple(curves), ink_limit_of([sum(p.printed) for p in ladder], [measured[p.label][0] for p in ladder])


class OffColour(Frozen):
    """A pressed colour that came out wrong, and what to ask of the inks instead."""

    wanted: Lab
    seen: Lab
    shown: tuple[str, str]
    """Wanted and seen, as a screen shows them."""
    off: Lab
    """Seen less wanted."""
    delta_e: float
    words: str
    """Too dark, too red and the like."""
    before_pct: dict[str, float]
    after_pct: dict[str, float]
    shift: Shift
    left_delta_e: float
    """What the inks cannot follow of it."""


def off_colour(colours: Colours | DriverColours, spec: ColourSpec, colour: str, wanted: Lab, seen: Lab) -> OffColour:
    """colour: the artwork's; wanted: as it should look; seen: as it was pressed.

    The print is moved by as much as it was off, the other way: right as long as the error stays the same nearby. The next strip tells.
    """
    before = next((s.lab for s in spec.shifts if s.colour.upper() == colour.upper()), wanted)
    off = tuple(round(s - w, 2) for s, w in zip(seen, wanted, strict=True))
    target = (
        float(np.clip(before[0] - off[0], 0, 100)),
        float(np.clip(before[1] - off[1], -128, 127)),
        float(np.clip(before[2] - off[2], -128, 127)),
    )
    both = colours.of_lab(np.array([[before, target]]), spec)[0]
    inks = spec.separates if isinstance(colours, Colours) else tuple(colours.space)
    now, then = ({n: round(float(v) * 100, 1) for n, v in zip(inks, device, strict=True)} for device in both)
    return OffColour(
        wanted=wanted, seen=seen, shown=(hex_of_lab(wanted), hex_of_lab(seen)), off=(off[0], off[1], off[2]), delta_e=round(float(delta_e_2000(wanted, seen)), 2), words=in_words(off),
        before_pct=now, after_pct=then, left_delta_e=nearest_reachable(colours, target, spec).delta_e,
        shift=Shift(colour=colour, lab=(round(target[0], 2), round(target[1], 2), round(target[2], 2))),
    )  # fmt: skip


def in_words(off: tuple[float, ...]) -> str:
    """A difference in Lab as a person says it; the largest part first."""
    names = (
        (say("too light"), say("too dark")),
        (say("too red"), say("too green")),
        (say("too yellow"), say("too blue")),
    )
    parts = sorted(((abs(v), pair[0] if v > 0 else pair[1]) for v, pair in zip(off, names, strict=True)), reverse=True)
    said = [say("{word} by {size}", word=word, size=f"{size:.0f}") for size, word in parts if size >= 1]
    return ", ".join(said) or say("as wanted, as near as an eye sees")
