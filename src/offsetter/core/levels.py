"""What the store says to a job: short blanks, film and ink that will not last. A view: never hashed into a result."""

from offsetter.core.compute.sheet import RunLayout
from offsetter.core.compute.tone import DRIFT_LIMIT
from offsetter.core.facts import Blank, ColouredSheet, Feed, Levels, Printer, Shop, condition_id
from offsetter.core.facts.inks import name_of
from offsetter.core.quantities import in_metres
from offsetter.core.sentences import a_day, say, say_many
from offsetter.core.values import Finding
from offsetter.core.wording import several


def short_blanks(levels: Levels, blanks: dict[str, Blank], wanted: dict[str, int]) -> tuple[Finding, ...]:
    """A caution for every line whose sizes still to begin are not in store. blanks: line to blank; wanted: kind to pieces."""
    found = []
    for line, blank in blanks.items():
        have = levels.blanks.get(blank.id)
        sizes = {k.split("/")[1]: n for k, n in wanted.items() if k.split("/")[0] == line}
        short = {s: n - have.get(s, 0) for s, n in sizes.items() if n > have.get(s, 0)} if have is not None else {}
        if not short or have is None:
            continue
        missing = ", ".join(say("{n} of size {s}", n=n, s=s) for s, n in short.items())
        what = say(" in {colour_name}", colour_name=blank.colour_name) if len(blanks) > 1 else ""
        found.append(Finding(
            code=f"blanks-short{'-' + line if len(blanks) > 1 else ''}", severity="caution", degree=sum(short.values()),
            message=say("The store lacks {missing}{what}", missing=missing, what=what),
            why=say("Counted in store: ") + ", ".join(f"{s} {n}" for s, n in have.items()) + ".",
            fix_text=say("Order blanks before the run is released."),
        ))  # fmt: skip
    return tuple(found)


def short_supplies(
    levels: Levels, printer: Printer, feed: Feed, layout: RunLayout, ink_ml: dict[str, float], toner_pages: dict[str, float]
) -> tuple[Finding, ...]:  # fmt: skip
    """Cautions when the roll or a channel ends inside this run, with the piece at which it ends. ink_ml, toner_pages: of one print."""
    found = []
    left_m, need_m = levels.media_m.get(printer.id) if feed.kind == "roll" else None, layout.length_um / 1e6
    sheets, need = levels.sheets.get(feed.media), len(layout.cut_lengths_um)
    if feed.kind == "sheet" and sheets is not None and sheets < need:
        found.append(Finding(
            code="sheets-short", severity="caution", message=say_many(need - sheets, "{count} sheet is missing for this run", "{count} sheets are missing for this run"),
            why=say("{sheets} of “{media}” are in store, the run takes {need}.", sheets=sheets, media=feed.media, need=need), fix_text=say("Order sheets first, or print fewer."),
        ))  # fmt: skip
    if left_m is not None and left_m < need_m:
        found.append(Finding(
            code="film-short", severity="caution", message=say("The roll ends {need} before the run does", need=in_metres(need_m - left_m)),
            why=say("{left} are left on {name}, the run takes {need}.", left=in_metres(left_m), name=printer.name, need=in_metres(need_m)),
            fix_text=say("Load a new roll first, or print fewer."),
        ))  # fmt: skip
    inside, counted = levels.held.get(printer.id, {}), levels.ink_ml.get(printer.id, {})
    for channel in dict.fromkeys((*inside, *counted)):
        is_toner = channel in printer.yields
        each = (toner_pages if is_toner else ink_ml).get(channel, 0.0)
        left = inside[channel] if channel in inside else counted[channel]
        lasts = int(left / each) if each > 0 else len(layout.places)
        if lasts < len(layout.places):
            unit = say("pages at 5 %") if is_toner else "mL"
            where = say("in {name}, by its level", name=printer.name) if channel in inside else "left"
            found.append(Finding(
                code=f"ink-short-{channel}", severity="caution",
                message=say("{channel} ends at print {lasts} of {places}", channel=name_of(channel).capitalize(), lasts=lasts + 1, places=len(layout.places)),
                degree=len(layout.places) - lasts,
                why=say("{left} {unit} are {where}, a print takes {each}{which}.", left=f'{left:.0f}', unit=unit, where=where, each=f'{each:.2f}', which='' if is_toner else say(' mL')), fix_text=_split(layout, lasts, say("Change the cartridge") if is_toner else say("Fill it")),
            ))  # fmt: skip
    return tuple(found)


def _split(layout: RunLayout, lasts: int, what: str) -> str:
    """Where a run can be stopped for a filling: between two sheets or lengths."""
    on = layout.places[lasts].cut
    each = "sheet" if layout.sheet_um else "length"
    return (
        say("{what} before this run.", what=what)
        if on == 1
        else say(
            "{what} before this run, or after {each} {on} of {cut_lengths_um}: stop it there and send the rest.",
            what=what,
            each=each,
            on=on - 1,
            cut_lengths_um=len(layout.cut_lengths_um),
        )
    )


def short_coloured(levels: Levels, sheet: ColouredSheet, need: int) -> tuple[Finding, ...]:
    """A caution where the store holds fewer of the coloured sheet than the run takes; nothing where nobody counts them."""
    left = levels.sheets.get(sheet.medium)
    if left is None or left >= need:
        return ()
    return (Finding(
        code="coloured-short", severity="caution", message=say("{counted} in store, this run takes {need}", counted=several(left, f'{sheet.name} sheet', 'is'), need=need),
        why=say("One sheet gives one image its colour."), fix_text=say("Choose another colour, or order sheets first."),
    ),)  # fmt: skip


def drifted(shop: Shop, printer: str, media: str, mode: str) -> tuple[Finding, ...]:
    """A caution when the newest measurement of a print condition lies too far from the state it was corrected to."""
    drift = shop.drift.get(condition_id(printer, media, mode))
    if drift is None or not drift.wants_correction:
        return ()
    return (Finding(
        code="drifted", severity="caution", degree=drift.mean_delta_e, message=say("This printer's colours have wandered {mean_delta_e} on average since they were corrected", mean_delta_e=f'{drift.mean_delta_e:.1f}'),
        why=say("Measured on {at}; from {drift_limit} on, a new correction is asked for (CIEDE2000, from memory).", at=a_day(drift.at, "short"), drift_limit=f'{DRIFT_LIMIT:.0f}'),
        fix_text=say("Correct it at Colour in the shop's areas, or take it for this job."),
    ),)  # fmt: skip
