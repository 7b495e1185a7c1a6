"""A blank as it lies under a print, in millimetres: y down from the edge that prints are measured from, x from its middle."""

import math
from functools import lru_cache

from offsetter.core.compute import garment, wrap
from offsetter.core.facts.blanks import Blank, FlatSize, GarmentSize, MugSize, Obstacle, Size, TubeSize
from offsetter.core.quantities import a_length
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

BACK_DROP_MM = 22.0  # a crew tee's collar lies this far below the shoulder line at the back: from memory
CUFF_SHARE, SEAM_MM = 0.82, 20.0  # a sleeve narrows to its cuff; a print keeps clear of its seams: from memory
SLEEVE_WIDE_MM = 210.0
HEM_MM = 15.0  # a flat cloth's hem is left free: from memory
SAFE_MM = 3.0  # inside a hard blank's edge: what is nearer may be cut off or slope away: from memory
RIM_MM = 3.0  # a mug's wall bends in at its rim and foot: from memory


class Panel(Frozen):
    """One side of a blank to scale: paths in mm, the origin where prints on it are measured from."""

    outline: str
    collar: str
    """An edge that is drawn stronger: the collar, a hem, the handle's strip."""
    bounds_mm: tuple[float, float, float, float]
    widest_mm: float
    """The widest print that keeps clear of seams, hems and handles."""
    highest_mm: float | None = None
    """The same in height, where the blank sets it."""
    origin: str
    wide_said: str
    """What sets the width, in words."""
    centre_y_mm: float | None = None
    """Its middle, of things that are printed in the middle."""


class Square(Frozen):
    """A rectangle on a panel, in mm from its origin."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


def places_of(size: Size) -> tuple[str, ...]:
    """Where a print can sit, the usual place first."""
    if isinstance(size, GarmentSize):
        sleeves = ("left sleeve", "right sleeve") if size.sleeve_mm else ()
        return ("front chest", "left chest", "back", *sleeves)
    if isinstance(size, FlatSize):
        return ("front", "back")
    return ("wrap",) if isinstance(size, MugSize) else ("side one", "side two")


def places_on(blank: Blank, size: Size) -> tuple[str, ...]:
    """The same with the blank's own places."""
    return (*places_of(size), *(p.name for p in blank.places))


def place_on(blank: Blank, size: Size, place: str) -> str:
    """The place itself, or the usual one where this blank has no such place."""
    places = places_on(blank, size)
    return place if place in places else places[0]


def panel(blank: Blank, size: Size, place: str) -> Panel:
    """The side of a blank that a print lies on."""
    place = place_on(blank, size, place)
    own = next((p for p in blank.places if p.name == place), None)
    if own is not None:
        return _flat(FlatSize(width_mm=own.width_mm, height_mm=own.height_mm), hem_mm=0.0)
    if isinstance(size, GarmentSize):
        return _sleeve(size) if place.endswith("sleeve") else _body(size, place)
    if isinstance(size, FlatSize):
        return _flat(size, hem_mm=HEM_MM if blank.kind == "cloth" else 0.0)
    return _mug(size) if isinstance(size, MugSize) else _tube(size)


def safe_zone(size: Size) -> str:
    """The zone of a flat hard blank that no edge comes near, round or rectangular, as a path; empty for other shapes."""
    if not isinstance(size, FlatSize) or min(size.width_mm, size.height_mm) <= 4 * SAFE_MM:
        return ""
    if size.outline:
        return _inside_of(size)
    inner = FlatSize(
        width_mm=size.width_mm - 2 * SAFE_MM, height_mm=size.height_mm - 2 * SAFE_MM, is_round=size.is_round
    )
    return _flat(inner, hem_mm=0.0, top_mm=SAFE_MM).outline


def _inside_of(size: FlatSize) -> str:
    """Of a thing with an outline of its own: that outline, as far inside."""
    from shapely import Polygon  # only where there is such a thing: the server's start does not wait for it

    whole = Polygon(_corners(size)).buffer(-SAFE_MM, join_style="mitre")
    parts = getattr(whole, "geoms", [whole])
    return "".join(_closed(tuple(p.exterior.coords)[:-1]) for p in parts if not p.is_empty)


def _corners(size: FlatSize) -> tuple[tuple[float, float], ...]:
    return tuple(((x - 0.5) * size.width_mm, y * size.height_mm) for x, y in size.outline)


def _closed(corners: tuple[tuple[float, float], ...]) -> str:
    return f"M{'L'.join(f'{x:.2f} {y:.2f}' for x, y in corners)}Z"


def obstacles_under(blank: Blank, place: str, box: Square | None) -> tuple[Obstacle, ...]:
    """What stands up on this side, under the box when one is given."""
    side = "back" if place in ("back", "side two") else "front"
    if place.endswith("sleeve") or any(p.name == place for p in blank.places):
        return ()
    here = [o for o in blank.obstacles if o.side == side]
    if box is None:
        return tuple(here)
    return tuple(
        o for o in here
        if o.x_mm < box.x_mm + box.width_mm and box.x_mm < o.x_mm + o.width_mm
        and o.y_mm < box.y_mm + box.height_mm and box.y_mm < o.y_mm + o.height_mm
    )  # fmt: skip


@lru_cache(maxsize=256)
def _body(size: GarmentSize, place: str) -> Panel:
    side = size if place != "back" else size.model_copy(update={"collar_drop_mm": BACK_DROP_MM})
    return Panel(outline=garment.outline(side), collar=garment.collar(side), bounds_mm=garment.bounds(side),
                 widest_mm=garment.widest_print_mm(side), origin="collar", wide_said=say("{chest} of chest", chest=a_length(size.chest_mm)))  # fmt: skip


@lru_cache(maxsize=256)
def _sleeve(size: GarmentSize) -> Panel:
    half, cuff, long = SLEEVE_WIDE_MM / 2, SLEEVE_WIDE_MM / 2 * CUFF_SHARE, size.sleeve_mm
    hem = long - 20
    widest = 2 * (cuff - SEAM_MM)
    return Panel(
        outline=f"M{-half:.1f} 0L{half:.1f} 0L{cuff:.1f} {long:.1f}L{-cuff:.1f} {long:.1f}Z",
        collar=f"M{-cuff - 2:.1f} {hem:.1f}L{cuff + 2:.1f} {hem:.1f}", bounds_mm=(-half, 0, half, long),
        widest_mm=widest, origin="shoulder seam", wide_said=say("a sleeve that takes {widest}", widest=a_length(widest)),
    )  # fmt: skip


@lru_cache(maxsize=256)
def _flat(size: FlatSize, hem_mm: float, top_mm: float = 0.0) -> Panel:
    half, high, y = size.width_mm / 2, size.height_mm, top_mm
    if size.outline:
        path = _closed(_corners(size))
    elif size.is_round:
        k = 0.5523  # a circle from four cubics
        rx, ry = half, high / 2
        path = (f"M0 {y:g}C{k * rx:.2f} {y:g} {rx:.2f} {y + ry - k * ry:.2f} {rx:.2f} {y + ry:.2f}C{rx:.2f} {y + ry + k * ry:.2f} {k * rx:.2f} {y + high:.2f} 0 {y + high:.2f}"
                f"C{-k * rx:.2f} {y + high:.2f} {-rx:.2f} {y + ry + k * ry:.2f} {-rx:.2f} {y + ry:.2f}C{-rx:.2f} {y + ry - k * ry:.2f} {-k * rx:.2f} {y:g} 0 {y:g}Z")  # fmt: skip
    elif size.top_width_mm:
        top, shoulder = size.top_width_mm / 2, high * 0.34
        path = (f"M{-top:.1f} 0L{top:.1f} 0C{top:.1f} {shoulder * 0.7:.1f} {half - 10:.1f} {shoulder * 0.85:.1f} {half:.1f} {shoulder:.1f}"
                f"L{half:.1f} {high:.1f}L{-half:.1f} {high:.1f}L{-half:.1f} {shoulder:.1f}"
                f"C{10 - half:.1f} {shoulder * 0.85:.1f} {-top:.1f} {shoulder * 0.7:.1f} {-top:.1f} 0Z")  # fmt: skip
    else:
        path = f"M{-half:.1f} {y:g}L{half:.1f} {y:g}L{half:.1f} {y + high:.1f}L{-half:.1f} {y + high:.1f}Z"
    edge = (size.top_width_mm or size.width_mm) / 2
    collar = f"M{-edge + hem_mm:.1f} {hem_mm:.1f}L{edge - hem_mm:.1f} {hem_mm:.1f}" if hem_mm else ""
    wide = size.top_width_mm or size.width_mm
    return Panel(outline=path, collar=collar, bounds_mm=(-half, 0, half, high), widest_mm=wide - 2 * hem_mm, highest_mm=high - 2 * hem_mm,
                 origin="upper edge", wide_said=say("{wide} of width", wide=a_length(wide)), centre_y_mm=None if size.top_width_mm else high / 2)  # fmt: skip


@lru_cache(maxsize=256)
def _mug(size: MugSize) -> Panel:
    """The wall rolled out, the handle's strip half on either side."""
    foot = size.base_diameter_mm if size.base_diameter_mm is not None else size.diameter_mm
    around, tapers = math.pi * (size.diameter_mm + foot) / 2, wrap.is_tapered(size)
    half, high, free = around / 2, wrap.slant_mm(size), size.handle_mm / 2
    return Panel(
        outline=f"M{-half:.1f} 0L{half:.1f} 0L{half:.1f} {high:.1f}L{-half:.1f} {high:.1f}Z",
        collar=f"M{-half + free:.1f} 0L{-half + free:.1f} {high:.1f}M{half - free:.1f} 0L{half - free:.1f} {high:.1f}",
        bounds_mm=(-half, 0, half, high), widest_mm=wrap.narrowest_mm(size) - size.handle_mm,
        highest_mm=high - 2 * RIM_MM, origin="rim",
        wide_said=say("{narrowest} around{which}, less the handle's {handle_mm}", narrowest=a_length(wrap.narrowest_mm(size)), which=say(' where it is thinnest') if tapers else '', handle_mm=f'{size.handle_mm:.0f}'), centre_y_mm=high / 2,
    )  # fmt: skip


@lru_cache(maxsize=256)
def _tube(size: TubeSize) -> Panel:
    half, high, fold = size.flat_width_mm / 2, size.length_mm, size.fold_over_mm
    return Panel(
        outline=f"M{-half:.1f} 0L{half:.1f} 0L{half:.1f} {high:.1f}L{-half:.1f} {high:.1f}Z",
        collar=f"M{half - fold:.1f} 0L{half - fold:.1f} {high:.1f}", bounds_mm=(-half, 0, half, high),
        widest_mm=size.flat_width_mm + 2 * fold, highest_mm=high, origin="upper edge",
        wide_said=say("{flat_width} flat and {fold} folded over on either side", flat_width=a_length(size.flat_width_mm), fold=a_length(fold)), centre_y_mm=high / 2,
    )  # fmt: skip
