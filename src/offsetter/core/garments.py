"""One side of a blank with its print, to scale."""

from offsetter.core.compute import placement
from offsetter.core.decisions import PlaceDoc
from offsetter.core.facts import Blank
from offsetter.core.places import box_of
from offsetter.core.results import Box, GarmentDrawing, ObstacleDrawing, OtherPrint
from offsetter.core.units import mm_of, um_of


def draw_garment(
    blank: Blank, size: str, place: PlaceDoc, height_mm: float | None, others: tuple[OtherPrint, ...] = ()
) -> GarmentDrawing:
    """The side of the blank that takes the print, of one size; no print while its height is unknown."""
    cut = blank.sizes[size]
    on = placement.place_on(blank, cut, place.place)
    side = placement.panel(blank, cut, on)
    width = mm_of(place.width_for(size))
    box = None if height_mm is None else Box(
        x_mm=mm_of(place.offset_um) - width / 2, y_mm=mm_of(place.below_collar_um), width_mm=width,
        height_mm=round(height_mm, 2),
    )  # fmt: skip
    under = (
        placement.obstacles_under(blank, on, box_of(place, place.width_for(size), um_of(height_mm)))
        if height_mm
        else ()
    )
    return GarmentDrawing(
        outline=side.outline, collar=side.collar, bounds_mm=side.bounds_mm, colour=blank.colour, size=size, box=box, place=on, origin=side.origin,
        obstacles=tuple(
            ObstacleDrawing(kind=o.kind, x_mm=o.x_mm, y_mm=o.y_mm, width_mm=o.width_mm, height_mm=o.height_mm, stands_mm=o.stands_mm, is_under=o in under)
            for o in placement.obstacles_under(blank, on, None)
        ),
        places=placement.places_on(blank, cut), centre_y_mm=side.centre_y_mm, name=blank.name, safe=placement.safe_zone(cut) if blank.kind == "hard" else "", up_by=blank.up_by, others=others,
    )  # fmt: skip


def fibres_of(blank: Blank) -> str:
    if not blank.fibres:
        return "coated" if blank.coated else "hard"
    whole = [f for f, share in blank.fibres.items() if share > 0.995]
    return whole[0] if whole else " / ".join(f"{share:.0%} {f}" for f, share in blank.fibres.items())
