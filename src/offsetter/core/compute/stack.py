"""What a stack would do when the press closes: whether it glues itself to a platen or prints the wrong way round."""

from itertools import pairwise

from offsetter.core.facts.recipes import Layer, Stage
from offsetter.core.sentences import say
from offsetter.core.values import Finding

ASKED_FOR = {
    "temperature_c": say("a temperature"),
    "time_s": say("a time"),
    "pressure": say("a pressure"),
    "peel": say("when to peel"),
}
STICKS = {"carrier", "blank"}


def stack_faults(stage: Stage, *, is_face_down: bool) -> tuple[str, ...]:
    """Sentences for what must not be pressed so; layers are given top first.

    is_face_down: the method's carrier lies with its printed face on the blank.
    """
    stack = stage.stack
    if not _is_pressed(stage):
        return ()
    faults = []
    for upper, lower in pairwise(stack):
        for platen, layer, side in ((upper, lower, "up"), (lower, upper, "down")):
            if platen.kind == "platen" and layer.kind in STICKS and layer.printed_face == side:
                faults.append(
                    say(
                        "{what} would stick to the {what2}: lay a sheet between",
                        what=layer.what,
                        what2=platen.what.lower(),
                    )
                )
    blank = next((i for i, x in enumerate(stack) if x.kind == "blank"), None)
    if blank is None:
        faults += _unmarried(stack)
        return tuple(faults)
    for i, layer in enumerate(stack):
        if layer.kind != "carrier" or layer.printed_face == "none":
            continue
        towards = "down" if i < blank else "up"
        if is_face_down and layer.printed_face != towards:
            faults.append(say("{what} lies with its print away from the blank: turn it over", what=layer.what))
        if not is_face_down and layer.printed_face == towards:
            faults.append(say("{what} goes on face up: turn it over", what=layer.what))
    return tuple(faults)


def stage_findings(stages: tuple[Stage, ...], *, is_face_down: bool) -> tuple[Finding, ...]:
    """What must be put right before anything is pressed by these stages."""
    asked = [
        Finding(code="value-missing", severity="blocker", message=say("{name}: nobody gave {missing}", name=s.name, missing=' or '.join(ASKED_FOR[m] for m in s.missing)),
                why=say("Practice gave no value for it, and none is guessed."), fix_text=say("Take it from the medium's own card."))
        for s in stages if s.missing
    ]  # fmt: skip
    wrong = [
        Finding(code="stack", severity="blocker", message=f"{s.name}: {fault}", why=say("The stack as the recipe has it."), fix_text=say("Turn it round."))
        for s in stages for fault in stack_faults(s, is_face_down=is_face_down)
    ]  # fmt: skip
    return (*asked, *wrong)


def _is_pressed(stage: Stage) -> bool:
    """Under a platen that closes: hot, or hot as soon as its missing value is given."""
    return not stage.hover and any(x.kind == "platen" for x in stage.stack) and (
        stage.temperature_c is not None or "temperature_c" in stage.missing
    )  # fmt: skip


def _unmarried(stack: tuple[Layer, ...]) -> list[str]:
    """Two sheets that are married must show each other their coated faces, with a sheet above and one below."""
    sheets = [i for i, x in enumerate(stack) if x.kind == "carrier"]
    if len(sheets) != 2:
        return []
    first, last = stack[sheets[0]], stack[sheets[1]]
    faults = []
    if (first.printed_face, last.printed_face) != ("down", "up"):
        faults.append(say("{what} and {what2} do not face each other: turn one over", what=first.what, what2=last.what))
    for beyond in (*stack[sheets[0] - 1 : sheets[0]], *stack[sheets[1] + 1 : sheets[1] + 2]):
        if beyond.kind == "platen":
            faults.append(
                say("what is squeezed out would stick to the {what}: lay a sheet between", what=beyond.what.lower())
            )
    return faults
