"""Method: which way the picture gets onto the blank, why it fits, and the schools that differ."""

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.decisions import Way
from offsetter.core.facts import Blank, Method, Oven, Press, Printer, Recipe, Stage
from offsetter.core.stations.result import MethodDrawing, Ruled, SectionLayer, StationResult, state_of
from offsetter.core.units import fahrenheit_of
from offsetter.core.values import Finding, Frozen

VERSION = 1
# Dried thickness of what stands on the cloth, in micrometres: all from memory.
BOND_UM, WHITE_UM, COLOUR_UM = 70.0, 14.0, 5.0
MIGRATION_C = 130.0  # above it dark polyester lets its dye into the white: from memory


class Inputs(Frozen):
    way: Way
    is_decided: bool
    method: Method
    printer: Printer
    press: Press
    oven: Oven
    recipe: Recipe
    stages: tuple[Stage, ...]
    blank: Blank
    facts: ArtworkFacts | None
    white_share: float | None

    def identity(self) -> object:
        """The artwork enters by its hash: its measurements follow from it."""
        return self.model_copy(update={"facts": None}), self.facts.file if self.facts else None


def judge(inputs: Inputs) -> StationResult:
    way, blank, recipe = inputs.way, inputs.blank, inputs.recipe
    findings: list[Finding] = []
    hottest = max((s.temperature_c or 0 for s in inputs.stages if s.part == "press"), default=0)
    if hottest > inputs.press.highest_c:
        findings.append(Finding(
            code="press-too-cool", severity="blocker",
            message=f"{inputs.press.name} reaches {inputs.press.highest_c:.0f} °C; the recipe needs {hottest:.0f} °C",
            why="Too cool a transfer lets go in the wash.", fix_text="Choose another press, or the cooler transfer.",
        ))  # fmt: skip
    if hottest > blank.scorch_c:
        findings.append(Finding(
            code="scorch", severity="blocker", message=f"{blank.name} scorches at {blank.scorch_c:.0f} °C",
            why=f"The transfer runs at {hottest:.0f} °C.", fix_text="Choose the cooler transfer.",
        ))  # fmt: skip
    if blank.fibres.get("polyester", 0) > 0.3 and hottest > MIGRATION_C:
        findings.append(Finding(
            code="dye-migration", severity="caution", message="Dark polyester can bleed into the white",
            why=f"Its dye wanders above about {MIGRATION_C:.0f} °C (from memory).", fix_text="Choose the cooler transfer.",
        ))  # fmt: skip
    if recipe.version > way.recipe_version:
        findings.append(Finding(
            code="newer-recipe", severity="note", message=f"Version {recipe.version} of “{recipe.name}” exists",
            why=f"This job keeps version {way.recipe_version} until you take the newer one.",
        ))  # fmt: skip
    reasons = _reasons(inputs)
    transfer = next((s for s in inputs.stages if s.id.startswith("transfer")), None)
    heat = (
        ""
        if transfer is None or transfer.temperature_c is None
        else (f"{transfer.temperature_c:.0f} °C ({fahrenheit_of(transfer.temperature_c):.0f} °F) {transfer.time_s} s")
    )
    mode = next(m for m in inputs.printer.modes if m.id == way.mode)
    return StationResult(
        station="method", name="Method", state=state_of(tuple(findings), settled=inputs.is_decided and way.settled),
        telling=f"{inputs.method.name.lower()} on {inputs.printer.name}",
        verdict=f"{inputs.method.name} fits: {blank.colour_name} {_short(blank)} takes it, and white carries the colour",
        sub=f"{inputs.printer.name}, {mode.name} · {inputs.press.name} {heat} · recipe “{recipe.name}” version {way.recipe_version}",
        findings=tuple(findings),
        drawing=MethodDrawing(layers=_layers(blank, inputs.method), cloth=blank.colour, reasons=reasons, schools=recipe.schools),
    )  # fmt: skip


def _short(blank: Blank) -> str:
    return max(blank.fibres, key=lambda f: blank.fibres[f])


def _layers(blank: Blank, method: Method) -> tuple[SectionLayer, ...]:
    layers = [
        SectionLayer(what=f"{blank.colour_name} {_short(blank)}", thickness_um=blank.thickness_mm * 1000, role="cloth", source="the blank"),
        SectionLayer(what="melted powder, gripping the yarn", thickness_um=BOND_UM, role="bond", source="from memory"),
    ]  # fmt: skip
    if method.white == "plate":
        layers.append(SectionLayer(what="white", thickness_um=WHITE_UM, role="white", source="from memory"))
    layers.append(SectionLayer(what="colour", thickness_um=COLOUR_UM, role="colour", source="from memory"))
    return tuple(layers)


def _reasons(inputs: Inputs) -> tuple[Ruled, ...]:
    blank, method, facts = inputs.blank, inputs.method, inputs.facts
    found = [
        Ruled(what=f"{blank.colour_name.capitalize()} cloth", is_good=True,
              reason="A white plate lies under the colour, so dark cloth does not swallow it."),
        Ruled(what=_short(blank).capitalize(), is_good=True,
              reason="The powder grips cotton, polyester and blends alike: nothing has to soak in."),
    ]  # fmt: skip
    if facts is not None:
        photo = len(facts.colours) > 200
        found.append(Ruled(
            what="Full colour" if photo else "Few colours", is_good=True,
            reason="Four inks on white print photographs and shades." if photo else "Nothing to cut or weed, whatever the outline.",
        ))  # fmt: skip
        if facts.transparency == "soft":
            floor = method.faint_floor or 0
            found.append(Ruled(
                what="Soft edges", is_good=False,
                reason=f"Powder does not hold under {floor:.0%} of white: the faintest fringe is cut at White.",
            ))  # fmt: skip
    if inputs.white_share is not None:
        found.append(Ruled(
            what="Hand", is_good=inputs.white_share < 60,
            reason=f"About {inputs.white_share:.0f} % of the print's area is covered: "
            + ("it stays soft." if inputs.white_share < 60 else "a closed film is felt on the chest."),
        ))  # fmt: skip
    return tuple(found)
