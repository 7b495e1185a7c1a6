"""What the store says to a job: short blanks, film and ink that will not last. A view: never hashed into a result."""

from offsetter.core.compute.sheet import RunLayout
from offsetter.core.facts import Blank, Levels, Printer
from offsetter.core.values import Finding


def short_blanks(levels: Levels, blank: Blank, to_press: dict[str, int]) -> tuple[Finding, ...]:
    """A caution when sizes still to press are not in store."""
    have = levels.blanks.get(blank.id)
    if have is None:
        return ()
    short = {s: n - have.get(s, 0) for s, n in to_press.items() if n > have.get(s, 0)}
    if not short:
        return ()
    missing = ", ".join(f"{n} of size {s}" for s, n in short.items())
    return (Finding(
        code="blanks-short", severity="caution", message=f"The store lacks {missing}",
        why="Counted in store: " + ", ".join(f"{s} {n}" for s, n in have.items()) + ".",
        fix_text="Order blanks before the run is released.",
    ),)  # fmt: skip


def short_supplies(
    levels: Levels, printer: Printer, layout: RunLayout, ink_ml: dict[str, float]
) -> tuple[Finding, ...]:
    """Cautions when the roll or a channel ends inside this run, with the piece at which it ends."""
    found = []
    left_m, need_m = levels.media_m.get(printer.id), layout.length_um / 1e6
    if left_m is not None and left_m < need_m:
        found.append(Finding(
            code="film-short", severity="caution", message=f"The roll ends {need_m - left_m:.2f} m before the run does",
            why=f"{left_m:.2f} m are left on {printer.name}, the run takes {need_m:.2f} m.",
            fix_text="Load a new roll first, or print fewer.",
        ))  # fmt: skip
    for channel, left_ml in levels.ink_ml.get(printer.id, {}).items():
        each = ink_ml.get(channel, 0.0)
        lasts = int(left_ml / each) if each > 0 else len(layout.places)
        if lasts < len(layout.places):
            found.append(Finding(
                code=f"ink-short-{channel}", severity="caution",
                message=f"{CHANNEL_NAMES[channel]} ends at print {lasts + 1} of {len(layout.places)}",
                why=f"{left_ml:.0f} mL are left, a print takes {each:.2f} mL.", fix_text="Have the next bottle at hand.",
            ))  # fmt: skip
    return tuple(found)


CHANNEL_NAMES = {"C": "Cyan", "M": "Magenta", "Y": "Yellow", "K": "Black", "W": "White"}
