"""Method: which way the picture gets onto the blank, why it fits, and the schools that differ."""

from typing import Literal

from offsetter.core import derive
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.fit import AdviceJob, Tone, fit_reasons, lightness
from offsetter.core.compute.stack import ASKED_FOR
from offsetter.core.context import Context
from offsetter.core.decisions import Way
from offsetter.core.facts import Blank, HeldFact, Method, Oven, Press, Printer, Recipe, Stage, advice_facts
from offsetter.core.facts.advice import AdviceFacts
from offsetter.core.held_facts import newer_measures
from offsetter.core.quantities import a_heat, both_heats
from offsetter.core.results import MethodDrawing, MissingValue, Ruled, SectionLayer, StationResult, state_of
from offsetter.core.sentences import capitalised, lowered, say
from offsetter.core.values import Finding, Frozen, Patch

VERSION = 5
# Dried thickness of what stands on the cloth, in micrometres: all from memory.
BOND_UM, WHITE_UM, COLOUR_UM, SHEET_UM, COAT_UM, DYED_UM = 70.0, 14.0, 5.0, 90.0, 25.0, 60.0
MIGRATION_C = 130.0  # above it dark polyester lets its dye into the white: from memory


class Inputs(Frozen):
    way: Way
    is_decided: bool
    method: Method
    printer: Printer
    press: Press
    oven: Oven | None
    recipe: Recipe
    stages: tuple[Stage, ...]
    blank: Blank
    facts: ArtworkFacts | None
    white_share: float | None
    asked: AdviceJob
    advice: AdviceFacts
    newest: int = 0
    """The newest version of the recipe."""
    tone: Tone = "dark"
    """What the cloth asks, by its measured lightness and the artwork's."""
    has_white: bool = True
    """White is printed, or the sheet is white itself."""
    held: tuple[HeldFact, ...] = ()
    """Its machines that measure otherwise today."""

    def identity(self) -> object:
        """The artwork enters by its hash: its measurements follow from it."""
        return self.model_copy(update={"facts": None}), self.facts.file if self.facts else None


def inputs(ctx: Context) -> Inputs:
    way, measure = ctx.gone, ctx.measure
    white = measure.coverage_pct.get("W") if measure else None
    return Inputs(
        way=way, is_decided=ctx.decisions.method is not None, method=ctx.method, printer=ctx.printer, press=ctx.press, oven=ctx.oven,
        recipe=ctx.recipe, stages=ctx.stages, blank=ctx.blank, facts=ctx.facts, white_share=None if white is None else round(white),
        asked=ctx.asked, advice=advice_facts(), newest=ctx.shop.recipes[way.recipe].version,
        tone=ctx.tone, held=tuple(h for h in ctx.shop.held if h.id in way.pins and h.sort != "blanks"), has_white=ctx.method.white == "sheet" or derive.white_of(ctx.shop, way, ctx.decisions, ctx.blank.colour) is not None,
    )  # fmt: skip


def live(ctx: Context) -> tuple[Finding, ...]:
    """The profile that the way pins may have been lost since; another one is never put in its place unasked."""
    if not ctx.given.profile_lost:
        return ()
    known = ctx.shop.profiles.get(ctx.gone.profile)
    other = derive.proposed_way(ctx.shop, ctx.given.profile, ctx.gone.method, ctx.blank)
    usable = other is not None and other.profile != ctx.gone.profile
    name = (
        ctx.shop.profiles[other.profile].name
        if other and usable and other.profile in ctx.shop.profiles
        else say("the shop's own")
    )
    return (Finding(
        code="profile-lost", severity="blocker", message=say("The profile {which}of this way is not in the store any more", which=f'“{known.name}” ' if known else ''),
        why=say("Colours worked out with another one would come out otherwise than what was decided and proofed."),
        fix_text=say("Go on with {name}", name=name) if usable else say("Bring it back at Colour in the shop's areas."),
        patch=Patch(station="method", changes={"profile": other.profile, "calibration": other.calibration}) if other and usable else None,
    ),)  # fmt: skip


def _machines(inputs: Inputs) -> list[Finding]:
    """What the way counts on and the shop has not."""
    found = [
        Finding(code="machine-retired", severity="caution", message=say("{name} is retired", name=machine.name),
                why=say("It is offered to no new work; what was decided on it is kept."), fix_text=say("Choose another {what}.", what=what))
        for what, machine in (("printer", inputs.printer), ("press", inputs.press)) if machine.retired
    ]  # fmt: skip
    other = derive.without_oven(inputs.recipe, inputs.way.schools) if inputs.oven is None else {}
    if other:
        found.append(Finding(
            code="no-oven", severity="blocker", message=say("This way wants an oven, and the shop has none"),
            why=say("Powder that is not melted does not hold."), fix_text=say("Do it without one"),
            patch=Patch(station="method", changes={"schools": {**inputs.way.schools, **other}}),
        ))  # fmt: skip
    return found


def judge(inputs: Inputs) -> StationResult:
    way, blank, recipe = inputs.way, inputs.blank, inputs.recipe
    findings: list[Finding] = []
    hottest = _hottest(inputs.stages)
    if hottest > inputs.press.highest_c:
        findings.append(Finding(
            code="press-too-cool", severity="blocker",
            message=say("{name} reaches {highest}; the recipe needs {hottest}", name=inputs.press.name, highest=a_heat(inputs.press.highest_c), hottest=a_heat(hottest)),
            why=say("Too cool a transfer lets go in the wash."), fix_text=say("Choose another press, or the cooler transfer."),
        ))  # fmt: skip
    if hottest > blank.scorch_c:
        findings.append(Finding(
            code="scorch", severity="blocker", message=say("{name} scorches at {scorch}", name=blank.name, scorch=a_heat(blank.scorch_c)),
            why=say("The transfer runs at {hottest}.", hottest=a_heat(hottest)), fix_text=say("Choose the cooler transfer."),
        ))  # fmt: skip
    findings += _wandering_dye(inputs, hottest) + _machines(inputs)
    for reason in fit_reasons(inputs.asked, inputs.method, inputs.advice):
        ruled_out = reason.verdict == "ruled-out"
        one_way = next((m for m in inputs.printer.modes if m.id == "one-way"), None)
        helps = inputs.asked.blank.obstacles and inputs.method.uneven == "risers" and one_way and way.mode != one_way.id
        findings.append(Finding(
            code=f"fit-{reason.code}", severity="blocker" if ruled_out else "caution", message=reason.said,
            why=say("{name}: for {blanks}.", name=inputs.method.name, blanks=inputs.method.blanks) if ruled_out else say("By what practice says of this way."),
            fix_text=say("Choose another way: F shows all of them.") if ruled_out else say("Print one way") if helps else "",
            patch=Patch(station="method", changes={"mode": "one-way"}) if helps and not ruled_out else None,
        ))  # fmt: skip
    findings += _white_and_cloth(inputs) + _material(inputs)
    missing = tuple(MissingValue(stage=s.id, name=s.name, fields=s.missing) for s in inputs.stages if s.missing)
    for m in missing:
        findings.append(Finding(
            code=f"value-missing-{m.stage}", severity="blocker", message=say("{name}: nobody gave {fields}", name=m.name, fields=' or '.join(ASKED_FOR[f] for f in m.fields)),
            why=say("Practice gave no value for it, and none is guessed."), fix_text=say("Enter it from the medium's own card: it becomes the shop's version."),
        ))  # fmt: skip
    if inputs.newest > way.recipe_version:
        findings.append(Finding(
            code="newer-recipe", severity="note", message=say("Version {newest} of “{name}” exists", newest=inputs.newest, name=recipe.name),
            why=say("This job keeps version {recipe_version} until you take the newer one.", recipe_version=way.recipe_version),
            fix_text=say("Take version {newest}", newest=inputs.newest), patch=Patch(station="method", changes={"recipe_version": inputs.newest}),
        ))  # fmt: skip
    findings += newer_measures(inputs.held, "method", way.pins)
    reasons = _reasons(inputs)
    # What sets the print: the transfer, or the last heat of a garment that was printed itself.
    heated = [s for s in inputs.stages if s.temperature_c is not None]
    setting = next(
        (s for s in heated if s.id.startswith("transfer")),
        heated[-1] if inputs.method.prepares_first and heated else None,
    )
    heat = "" if setting is None or setting.temperature_c is None else (
        f" {both_heats(setting.temperature_c)} {setting.time_s} s"
    )  # fmt: skip
    mode = next(m for m in inputs.printer.modes if m.id == way.mode)
    blocker = next((f for f in findings if f.severity == "blocker"), None)
    does_not = (
        say(
            "{name} does not go: {message}",
            name=inputs.method.name,
            message=lowered(blocker.message),
        )
        if blocker
        else ""
    )
    return StationResult(
        station="method", name="Method", state=state_of(tuple(findings), settled=inputs.is_decided and way.settled),
        telling=say("{name} on {name2}", name=inputs.method.name.lower(), name2=inputs.printer.name),
        verdict=does_not or say("{name} fits: {colour_name} {short} takes it, and {carries}", name=inputs.method.name, colour_name=blank.colour_name, short=_short(blank), carries=_carries(inputs)),
        sub=say("{name}, {name2} · {name3}{heat} · recipe “{name4}” version {recipe_version}", name=inputs.printer.name, name2=mode.name, name3=inputs.press.name, heat=heat, name4=recipe.name, recipe_version=way.recipe_version),
        findings=tuple(findings),
        drawing=MethodDrawing(layers=_layers(blank, inputs.method, has_white=inputs.has_white), cloth=blank.colour, lies=inputs.method.lies, is_hard=blank.kind == "hard",
                              reasons=reasons, schools=recipe.schools, missing=missing),
    )  # fmt: skip


def _wandering_dye(inputs: Inputs, hottest: float) -> list[Finding]:
    """Dark polyester under white: a caution while a cooler way is open, a note once the coolest is taken."""
    blank, recipe, way = inputs.blank, inputs.recipe, inputs.way
    if (
        inputs.method.white == "none"
        or blank.fibres.get("polyester", 0) <= 0.3
        or hottest <= MIGRATION_C
        or lightness(blank.colour) >= inputs.advice.dark_below_l
    ):
        return []
    why = say("Its dye wanders above about {migration} (from memory)", migration=a_heat(MIGRATION_C))
    others = [{**way.schools, q.id: c.id} for q in recipe.schools if not q.decided_by for c in q.choices]
    stages = [(o, recipe.stages_for(o)) for o in others]
    known = [(o, _hottest(s)) for o, s in stages if not any(x.missing for x in s)]
    coolest = min(known, key=lambda k: k[1], default=None)
    if coolest is None or coolest[1] >= hottest:
        return [Finding(code="dye-wanders", severity="note", message=say("{hottest} is as cool as this goes on dark polyester", hottest=a_heat(hottest)),
                        why=say("{why}: press one and look at its white the next day.", why=why))]  # fmt: skip
    return [Finding(
        code="dye-migration", severity="caution", message=say("Dark polyester can bleed into the white"), why=f"{why}.",
        fix_text=say("Choose the cooler transfer, {coolest}", coolest=a_heat(coolest[1])), patch=Patch(station="method", changes={"schools": coolest[0]}),
    )]  # fmt: skip


def _hottest(stages: tuple[Stage, ...]) -> float:
    return max((s.temperature_c or 0 for s in stages if s.part == "press"), default=0)


def _short(blank: Blank) -> str:
    return max(blank.fibres, key=lambda f: blank.fibres[f]) if blank.fibres else blank.name.lower()


def _white_and_cloth(inputs: Inputs) -> list[Finding]:
    """White follows the cloth: measured, not asked. A person may differ and say why; what cannot work is refused."""
    question = next((q for q in inputs.recipe.schools if q.decided_by == "cloth"), None)
    chosen = inputs.recipe.tone_of(inputs.way.schools)
    if question is None or not chosen or chosen == inputs.tone:
        return []
    wanted = next((c for c in question.choices if c.tone == inputs.tone), None)
    light = lightness(inputs.blank.colour)
    patch = (
        Patch(station="method", changes={"schools": {**inputs.way.schools, question.id: wanted.id}, "because": ""})
        if wanted
        else None
    )
    measured = say(
        "{colour_name} measures L* {light}", colour_name=inputs.blank.colour_name.capitalize(), light=f"{light:.0f}"
    )
    if chosen == "light" and light < inputs.advice.light_from_l:
        return [Finding(
            code="white-missing", severity="blocker", message=say("{measured}: without white the print vanishes in it", measured=measured),
            why=say("Under L* {light_from_l} a cloth swallows translucent colour; white holds on a pre-treated cloth alone.", light_from_l=f'{inputs.advice.light_from_l:.0f}'),
            fix_text=say("Pre-treat it and lay white"), patch=patch,
        )]  # fmt: skip
    if inputs.way.because:
        return [Finding(
            code="white-otherwise", severity="note", message=say("{measured}, and the way goes otherwise than that asks", measured=measured),
            why=say("Decided here: “{because}”", because=inputs.way.because), fix_text=say("As the cloth asks"), patch=patch,
        )]  # fmt: skip
    if chosen == "light":
        return [Finding(
            code="white-wanted", severity="caution", message=say("{measured}, and parts of the picture are lighter: they will look as dark as the cloth", measured=measured),
            why=say("More than {lighter_matters} of the picture is lighter than the cloth, and nothing prints lighter than it but white.", lighter_matters=f'{inputs.advice.lighter_matters:.0%}'),
            fix_text=say("Pre-treat it and lay white"), patch=patch,
        )]  # fmt: skip
    return [Finding(
        code="white-idle", severity="caution", message=say("{measured}: it needs neither pre-treatment nor white", measured=measured),
        why=say("A light cloth is its own white; pre-treatment stiffens it and can stain."), fix_text=say("Leave both out, or say below why not"), patch=patch,
    )]  # fmt: skip


def _material(inputs: Inputs) -> list[Finding]:
    """What a hard blank is made of picks time, heat and which face looks up: unknown it is asked, and never guessed."""
    question = next((q for q in inputs.recipe.schools if q.decided_by == "material"), None)
    if question is None:
        return []
    material, name = inputs.blank.material, inputs.blank.name.lower()
    if not material:
        return [Finding(
            code="material-unknown", severity="blocker", message=say("Nobody said what the {name} is made of", name=name),
            why=say("Coated metal takes 60 s, hardboard 80 to 90 s and lies the other way up: a guess spoils the piece."),
            fix_text=say("Say it at Blanks: “Change it”, then its material."),
        )]  # fmt: skip
    chosen = next(
        (c for c in question.choices if c.id == inputs.way.schools.get(question.id, question.choices[0].id)), None
    )
    wanted = next((c for c in question.choices if material in c.materials), None)
    if chosen is None or wanted is None or chosen.id == wanted.id:
        return []
    return [Finding(
        code="material-otherwise", severity="caution", message=say("The {name} is {material}, and the way presses it as {name2}", name=name, material=material, name2=chosen.name.lower()),
        why=say("For {name}: {consequence}", name=wanted.name.lower(), consequence=wanted.consequence), fix_text=say("Press it as {name}", name=wanted.name.lower()),
        patch=Patch(station="method", changes={"schools": {**inputs.way.schools, question.id: wanted.id}}),
    )]  # fmt: skip


def _carries(inputs: Inputs) -> str:
    method = inputs.method
    if method.white == "plate" and not inputs.has_white:
        return say("its own lightness carries the colour")
    if method.white == "plate":
        return say("white carries the colour")
    if method.white == "sheet":
        return say("its own sheet is the white")
    return say("the light ground is its white") if method.is_translucent else say("the sheet covers by itself")


def _layers(blank: Blank, method: Method, *, has_white: bool) -> tuple[SectionLayer, ...]:
    """From below: the blank, and what stands on it or lies in it."""
    ground = f"{blank.colour_name} {_short(blank)}"
    cloth = SectionLayer(what=ground, thickness_um=blank.thickness_mm * 1000, role="cloth", source="the blank")

    def layer(what: str, um: float, role: Literal["bond", "white", "colour", "dye"]) -> SectionLayer:
        return SectionLayer(what=what, thickness_um=um, role=role, source="from memory")

    colour, white = layer("colour", COLOUR_UM, "colour"), layer("white", WHITE_UM, "white")
    whites = (white,) if method.white == "plate" and has_white else ()
    match method.lies:
        case "in":
            return cloth, layer(
                say("dye, in the coating") if blank.kind == "hard" else say("dye, in the fibre itself"), DYED_UM, "dye"
            )
        case "ink":
            return (cloth, *whites, layer(say("ink on the yarns"), COLOUR_UM * 2, "colour"))
        case "coat":
            return cloth, layer(say("a thin coat with the colour in it"), COAT_UM, "colour")
        case "sheet":
            return cloth, layer(say("{medium}: it is the white", medium=method.medium), SHEET_UM, "white"), colour
        case _:
            grips = say("gripping the yarn") if blank.kind == "cloth" else say("gripping the surface")
            bond = say(
                "melted {which}, {grips}", which="powder" if method.holds == "Powder" else say("glue"), grips=grips
            )
            return (cloth, layer(bond, BOND_UM, "bond"), *whites, colour)


def _reasons(inputs: Inputs) -> tuple[Ruled, ...]:
    blank, method, facts = inputs.blank, inputs.method, inputs.facts
    ground = {
        "plate": say("A white plate lies under the colour, so dark cloth does not swallow it."),
        "sheet": say("The {medium} is white itself, whatever lies under it.", medium=method.medium),
        "none": say("Nothing white is printed: the blank's own colour shows through the print."),
        "own": say(
            "The {which} is light enough to be its own white: none is printed.",
            which=say("blank") if blank.kind == "hard" else say("cloth"),
        ),
    }[method.white if method.white != "plate" or inputs.has_white else "own"]
    bound = {
        "in": say("The dye becomes gas and goes in: nothing is felt on top, and nothing can peel."),
        "ink": say("Ink holds on {fibre}; the rest of the cloth takes none.", fibre=method.fibre),
        "coat": say(
            "A thin coat carries the {colorant} and melts {which}.",
            colorant=method.colorant,
            which=say("onto the surface") if blank.kind == "hard" else say("onto the yarns"),
        ),
        "film": say("Melted glue grips cotton, polyester and blends alike: nothing has to soak in."),
        "sheet": say("The sheet's own glue grips any cloth that stands its heat."),
    }[method.lies]
    translucent = method.is_translucent and lightness(blank.colour) < inputs.advice.light_from_l
    found = [
        Ruled(what=f"{blank.colour_name.capitalize()} {'ground' if blank.kind == 'hard' else 'cloth'}", is_good=not translucent, reason=ground),
        Ruled(what=_short(blank).capitalize(), is_good=True, reason=bound),
    ]  # fmt: skip
    for station, why in method.leaves_out.items():
        found.append(
            Ruled(
                what=say("{station} is not needed", station=station.capitalize()),
                is_good=True,
                reason=f"{capitalised(why)}.",
            )
        )
    if method.prepares_first:
        found.append(
            Ruled(
                what=say("Prepare before Print"),
                is_good=True,
                reason=f"{method.prepares_first[0].upper()}{method.prepares_first[1:]}.",
            )
        )
    if facts is not None:
        photo = len(facts.colours) > 200
        found.append(Ruled(
            what=say("Full colour") if photo else say("Few colours"), is_good=True,
            reason=say("Four {colorant}s {which}print photographs and shades.", colorant=method.colorant, which=say('on white ') if method.white != 'none' else '') if photo
            else say("Nothing to cut or weed, whatever the outline.") if not (method.is_weeded or method.is_trimmed)
            else say("Cut to shape: large, plain outlines suit it best."),
        ))  # fmt: skip
        if facts.transparency == "soft" and method.holds:
            floor = method.faint_floor or 0
            found.append(Ruled(
                what=say("Soft edges"), is_good=False,
                reason=say("{holds} does not hold under {floor} of white: the faintest fringe is cut at White.", holds=method.holds, floor=f'{floor:.0%}'),
            ))  # fmt: skip
    if inputs.white_share is not None:
        found.append(Ruled(
            what="Hand", is_good=inputs.white_share < 60,
            reason=say("About {white_share} % of the print's area is covered: ", white_share=f'{inputs.white_share:.0f}')
            + (say("it stays soft.") if inputs.white_share < 60 else say("a closed layer is felt{which}.", which=say(' on the cloth') if blank.kind == 'cloth' else '')),
        ))  # fmt: skip
    return tuple(found)
