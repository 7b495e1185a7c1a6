"""Where a print sits on a blank: where it begins, where its edges lie, and how hands find it without a rule."""

from offsetter.core.compute import placement
from offsetter.core.compute.placement import Square
from offsetter.core.decisions import PlaceDoc
from offsetter.core.facts import Blank
from offsetter.core.quantities import a_length
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

FRONT = ("front chest", "left chest")


SEAM_MM = 30.0
"""What a body print keeps clear of each side seam: common practice, no source."""


FINGER_MM = 25.0
"""Three to four fingers are 75 to 100 mm: common practice, no source."""


def box_of(place: PlaceDoc, width_um: int, height_um: int) -> Square:
    """The print on its side of the blank."""
    return Square(
        x_mm=(place.offset_um - width_um / 2) / 1000,
        y_mm=place.below_collar_um / 1000,
        width_mm=width_um / 1000,
        height_mm=height_um / 1000,
    )


GARMENT_START: dict[str, tuple[int, int, int]] = {
    "front chest": (210, 85, 0), "left chest": (70, 85, 95), "back": (250, 60, 0), "left sleeve": (70, 60, 0), "right sleeve": (70, 60, 0),
}  # fmt: skip
"""Place to a print's width, its distance from the collar or seam, and from the middle, in mm: common practice, no source."""


STARTS_AT = 0.7
"""Share of a flat thing's, a mug's or a tube's free width that a print begins with: from memory."""


def first_place(blank: Blank) -> PlaceDoc:
    """Where the first print of an order goes: the chest of a garment, the middle of what is printed in its middle."""
    return starting_place(blank, placement.places_of(next(iter(blank.sizes.values())))[0])


def starting_place(blank: Blank, place: str, height_share: float = 1.0, *, taken_um: int = 0) -> PlaceDoc:
    """Where a print begins on this blank and side, until somebody moves it. height_share: of its width.

    taken_um: how far down the place is taken by other prints; it begins below them where there is room.
    """
    size = next(iter(blank.sizes.values()))
    place = placement.place_on(blank, size, place)
    panel = placement.panel(blank, size, place)
    if panel.origin in ("collar", "shoulder seam"):
        width, below, offset = GARMENT_START[place]
        width = min(width, int(panel.widest_mm))
    else:
        room = min(panel.widest_mm, (panel.highest_mm or panel.widest_mm) / height_share)
        width, offset = max(5, round(room * STARTS_AT)), 0
        below = round(panel.centre_y_mm - width * height_share / 2) if panel.centre_y_mm is not None else 60
    under = (taken_um + BESIDE_UM) // 1000
    if taken_um and under + width * height_share <= panel.bounds_mm[3]:
        below = under
    return PlaceDoc.model_validate(
        {"place": place, "width_um": width * 1000, "below_collar_um": below * 1000, "offset_um": offset * 1000}
    )


BESIDE_UM = 10_000
"""Left between two prints on one side: from memory."""


class Placing(Frozen):
    """How one size's print is laid straight and centred: millimetres, and words for hands without a rule."""

    slot: str
    label: str
    cloth: str
    width_mm: float
    below: str
    across: str
    seam_mm: float | None
    """From the print's nearer edge to the side seam or edge (a bleed is below 0); None on a sleeve."""


def placing_of(place: PlaceDoc) -> str:
    """Where the print goes, as its label says it beside the fold's tick."""
    return f"{below_said(place)}, {across_said(place)}"


def below_said(place: PlaceDoc) -> str:
    mm = place.below_collar_um / 1000
    fingers = round(mm / FINGER_MM)
    words = say(" ({fingers} fingers)", fingers=fingers) if 2 <= fingers <= 5 and place.place in GARMENT_START else ""
    edge = _edge(place)
    return (
        say("{mm} below {edge}{words}", mm=a_length(mm), edge=edge, words=words)
        if mm >= 0
        else say("{value} over {edge}", value=a_length(-mm), edge=edge)
    )


def _edge(place: PlaceDoc) -> str:
    if place.place.endswith("sleeve"):
        return "shoulder seam"
    return {
        "wrap": "the rim",
        "front": "the upper edge",
        "side one": "the upper edge",
        "side two": "the upper edge",
    }.get(place.place, "collar" if place.place in GARMENT_START else f"the upper edge of the {place.place}")


def across_said(place: PlaceDoc) -> str:
    off = place.offset_um / 1000
    flat = place.place not in GARMENT_START
    line = (
        say("opposite the handle")
        if place.place == "wrap"
        else say("on the middle")
        if flat
        else say("on the fold crease")
    )
    if off == 0:
        return say("ticks {line}", line=line)
    side = (
        say("the {which}", which=say("right") if off > 0 else say("left"))
        if flat
        else f"wearer's {'left' if off > 0 else 'right'}"
    )
    return say(
        "ticks {off} to {side} of {which}",
        off=a_length(abs(off)),
        side=side,
        which=say("the crease") if not flat else say("the middle"),
    )


def is_beside(one: PlaceDoc, other: PlaceDoc) -> bool:
    """Both lie on one side of the piece, measured from the same edge."""
    return side_of(one) == side_of(other)


def side_of(place: PlaceDoc) -> str:
    return {**dict.fromkeys((*FRONT, "front", "wrap", "side one"), "front"), "side two": "back"}.get(
        place.place, place.place
    )


def laid_with(place: PlaceDoc) -> str:
    return {"front": "its front up", "back": "its back up"}.get(side_of(place), f"the {place.place} flat on the platen, the body hanging free")  # fmt: skip
