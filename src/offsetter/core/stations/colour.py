"""Colour: what the inks make of the picture, how much ink that is, and what it looks like on this cloth."""

from offsetter.core.compute.plate_spec import ColourSpec, PlateMeasure
from offsetter.core.decisions import ColourDoc
from offsetter.core.facts import Method
from offsetter.core.stations.result import ColourDrawing, ColourStep, GarmentDrawing, StationResult, state_of
from offsetter.core.values import Finding, Frozen

VERSION = 2
CLOSE_DELTA_E = 3.0  # nearer than this two colours pass for the same side by side: from memory


class Inputs(Frozen):
    doc: ColourDoc
    spec: ColourSpec
    method: Method
    measure: PlateMeasure
    steps: tuple[ColourStep, ...]
    garment: GarmentDrawing
    profile_name: str
    is_own_profile: bool = True
    """Measured for this printer and medium; otherwise one that stands in until it has been measured."""
    polyester: float = 1.0
    """Share of the fibre that takes dye."""


def judge(inputs: Inputs) -> StationResult:
    measure, limit = inputs.measure, inputs.spec.ink_limit_pct
    findings: list[Finding] = []
    if measure.over_limit_share > 0:
        findings.append(Finding(
            code="over-limit", severity="note",
            message=f"{measure.over_limit_share:.1%} of the print wants more than {limit:.0f} % ink and is held back",
            why=f"Up to {measure.total_max_pct:.0f} % was asked; {inputs.method.medium} holds no more than {limit:.0f} % "
            f"({inputs.method.sources.get('ink_limit_pct', 'decided here')}). Black is kept, the colours give way.",
            fix_text="Look at the places on the bench: they turn a little lighter.",
        ))  # fmt: skip
    normal = inputs.method.ink_limit_pct
    if normal and limit > normal + 10:
        findings.append(Finding(
            code="limit-high", severity="caution", message=f"{limit:.0f} % is more than {inputs.method.medium} usually holds",
            why=f"The method's limit is {normal:.0f} %; above it {'toner flakes' if 'toner' in inputs.method.marking or 'laser' in inputs.method.marking else 'ink pools'} and the print is lost.",
            fix_text=f"Go back to {normal:.0f} %",
        ))  # fmt: skip
    if not inputs.is_own_profile:
        findings.append(Finding(
            code="profile-stands-in", severity="note", message=f"No profile of its own: colours are worked out with “{inputs.profile_name}”",
            why=f"Nobody has measured {inputs.method.medium} on this printer yet.", fix_text="Press one and judge it before the order.",
        ))  # fmt: skip
    if inputs.method.lies == "in":
        findings.append(Finding(
            code="judge-pressed", severity="note", message="On paper it looks dull and its cool hues mislead: judge it pressed alone",
            why="Dye shows its colour when heat has driven it in.",
        ))  # fmt: skip
        if inputs.polyester < 1:
            findings.append(Finding(
                code="dye-strength", severity="note", message=f"The print keeps about {inputs.polyester:.0%} of its strength on this cloth",
                why="Dye holds on polyester alone, and this much of the cloth is polyester (linear, from memory).",
            ))  # fmt: skip
    if inputs.method.composite_black:
        findings.append(Finding(
            code="composite-black", severity="note", message="Everything is printed as one even layer of all four toners",
            why="The coloured sheet sticks to toner and gives the colour; a thin black alone would not hold it evenly.",
        ))  # fmt: skip
    # Only colours that make up something the eye finds: a per cent of the picture.
    seen = [s for s in inputs.steps if s.share >= 0.01]
    worst = max(seen, key=lambda s: s.delta_e_2000, default=None)
    if worst and worst.delta_e_2000 > CLOSE_DELTA_E:
        findings.append(Finding(
            code="out-of-reach", severity="note",
            message=f"{worst.asked} comes out {worst.delta_e_2000:.1f} away",
            why="The inks cannot reach it on white; CIEDE2000 3 is about where two colours side by side begin to differ.",
            fix_text="Show the customer the proof, or choose another intent.",
        ))  # fmt: skip
    within = max((s.delta_e_2000 for s in seen), default=0.0)
    verdict = f"The main colours come within {within:.1f} of what was asked, with {min(measure.total_max_pct, limit):.0f} % ink at most"
    if within > CLOSE_DELTA_E and worst:
        verdict = f"The inks reach the picture but for {worst.asked}, which lands {within:.1f} away"
    return StationResult(
        station="colour", name="Colour", state=state_of(tuple(findings), settled=inputs.doc.settled, accepted=inputs.doc.accepted),
        telling=f"within ΔE {within:.1f}", verdict=verdict,
        sub=f"profile “{inputs.profile_name}” · {inputs.spec.intent} intent"
        f"{' with black-point compensation' if inputs.spec.black_point else ''} · differences in CIEDE2000",
        findings=tuple(findings),
        drawing=ColourDrawing(garment=inputs.garment, colours=inputs.steps, over_limit_share=measure.over_limit_share),
    )  # fmt: skip
