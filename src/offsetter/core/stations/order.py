"""Order: who, what, how many, until when, and where the print sits. Checked against the widest the shop owns."""

from offsetter.core.compute import garment
from offsetter.core.decisions import OrderDoc, PlaceDoc, Way
from offsetter.core.facts import Blank, Oven, Press, Printer
from offsetter.core.stations.result import Box, GarmentDrawing, OrderDrawing, StationResult, state_of
from offsetter.core.units import mm_of, um_of
from offsetter.core.values import Finding, Frozen, Patch

VERSION = 1
FINGERS_MM = (75.0, 100.0)  # three to four fingers below the collar: common practice, no source


class Inputs(Frozen):
    order: OrderDoc
    place: PlaceDoc
    blank: Blank
    height_um: int
    has_file: bool
    printers: tuple[Printer, ...]
    presses: tuple[Press, ...]
    ovens: tuple[Oven, ...]
    way: Way | None
    """The way in force or proposed: its printer and oven set the limit."""


def judge(inputs: Inputs) -> StationResult:
    order, place, blank = inputs.order, inputs.place, inputs.blank
    width, height = mm_of(place.width_um), mm_of(inputs.height_um)
    widest, why = widest_of(inputs)
    smallest = middle_size(blank, order.line.counts, smallest=True)
    findings: list[Finding] = []
    if not inputs.has_file and place.file:
        findings.append(Finding(
            code="file-lost", severity="blocker", message="The artwork's file is not in the store any more",
            why="The job names a file that the data folder does not hold.", fix_text="Drop the customer's file again.",
        ))  # fmt: skip
    elif not inputs.has_file:
        findings.append(Finding(
            code="no-file", severity="blocker", message="There is no artwork yet",
            why="Every station after this one reads the customer's file.",
            fix_text="Drop a PNG, JPEG, TIFF or WebP on the garment, or press U.",
        ))  # fmt: skip
    if width > widest:
        findings.append(_too_wide(width, widest, why))
    clear = garment.widest_print_mm(blank.sizes[smallest])
    if width > clear:
        findings.append(Finding(
            code="near-seams", severity="caution",
            message=f"On size {smallest} the print comes nearer than 30 mm to the side seams",
            why=f"{width:.0f} mm of print on {blank.sizes[smallest].chest_mm:.0f} mm of chest.",
            fix_text=f"Make it {clear:.0f} mm", patch=Patch(station="place", changes={"width_um": um_of(clear)}),
        ))  # fmt: skip
    below = mm_of(place.below_collar_um)
    if not FINGERS_MM[0] <= below <= FINGERS_MM[1]:
        findings.append(Finding(
            code="below-collar", severity="note", message=f"{below:.0f} mm below the collar is unusual for a chest print",
            why="Three to four fingers, 75 to 100 mm, is common practice.",
            fix_text="Put it at 85 mm", patch=Patch(station="place", changes={"below_collar_um": 85_000}),
        ))  # fmt: skip
    shown = middle_size(blank, order.line.counts)
    drawing = OrderDrawing(
        garment=draw_garment(blank, shown, place, height if inputs.has_file else None), widest_mm=widest, widest_why=why
    )
    pieces = order.line.pieces
    sizes = ", ".join(f"{s} {n}" for s, n in order.line.counts.items() if n)
    verdict = f"{pieces} {blank.name.lower()}s, print {width:.0f} x {height:.0f} mm on the chest"
    if width > widest:
        verdict = f"{width:.0f} mm is wider than this shop can print"
    elif not inputs.has_file:
        verdict = f"{pieces} {blank.name.lower()}s ordered; the artwork is still missing"
    return StationResult(
        station="order", name="Order", state=state_of(tuple(findings), settled=order.settled),
        telling=f"{pieces} pieces", verdict=verdict,
        sub=f"{order.customer} · {blank.colour_name} {fibres_of(blank)} · {sizes}",
        findings=tuple(findings), drawing=drawing,
    )  # fmt: skip


def widest_of(inputs: Inputs) -> tuple[float, str]:
    """The widest print in mm that this shop can make in one piece, and what sets it."""
    printer = max(inputs.printers, key=lambda p: p.printable_mm)
    limits = {f"{printer.name}'s heads reach {printer.printable_mm:.0f} mm": printer.printable_mm}
    press = max(inputs.presses, key=lambda p: max(p.platen_width_mm, p.platen_height_mm))
    widest = max(press.platen_width_mm, press.platen_height_mm)
    limits[f"{press.name}'s platen is {widest:.0f} mm at its widest"] = widest
    if inputs.ovens and not (inputs.way and inputs.way.schools.get("film-cure") == "hover"):
        oven = max(inputs.ovens, key=lambda o: o.width_mm)
        limits[f"{oven.name} takes {oven.width_mm:.0f} mm"] = oven.width_mm
    why = min(limits, key=lambda k: limits[k])
    return limits[why], why


def middle_size(blank: Blank, counts: dict[str, int], *, smallest: bool = False) -> str:
    """The ordered size to draw: the one with most pieces, or the smallest."""
    ordered = [s for s in blank.sizes if counts.get(s, 0) > 0] or list(blank.sizes)
    return ordered[0] if smallest else max(ordered, key=lambda s: (counts.get(s, 0), s == "L"))


def draw_garment(blank: Blank, size: str, place: PlaceDoc, height_mm: float | None) -> GarmentDrawing:
    """The blank of one size with its print; no print while its height is unknown."""
    cut = blank.sizes[size]
    width = mm_of(place.width_um)
    box = None if height_mm is None else Box(
        x_mm=mm_of(place.offset_um) - width / 2, y_mm=mm_of(place.below_collar_um), width_mm=width,
        height_mm=round(height_mm, 2),
    )  # fmt: skip
    return GarmentDrawing(outline=garment.outline(cut), collar=garment.collar(cut), bounds_mm=garment.bounds(cut),
                          colour=blank.colour, size=size, box=box)  # fmt: skip


def fibres_of(blank: Blank) -> str:
    whole = [f for f, share in blank.fibres.items() if share > 0.995]
    return whole[0] if whole else " / ".join(f"{share:.0%} {f}" for f, share in blank.fibres.items())


def _too_wide(width: float, widest: float, why: str) -> Finding:
    return Finding(
        code="too-wide", severity="blocker", message=f"The print is {width:.0f} mm wide; the shop can make {widest:.0f} mm",
        why=f"{why}.", fix_text=f"Make it {widest:.0f} mm",
        patch=Patch(station="place", changes={"width_um": um_of(widest)}),
    )  # fmt: skip
