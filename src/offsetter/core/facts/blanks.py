from decimal import Decimal
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from offsetter.core.values import Fact, Frozen

Mm = Annotated[float, Field(gt=0, le=5000)]


Share = Annotated[float, Field(ge=0, le=1)]
LEAST_OF_ITS_BOX = 0.05
"""Share of its box that a thing of an own outline covers at least."""


class GarmentSize(Frozen):
    """A garment laid flat, in mm: chest is the width across, collar_drop from shoulder line to collar edge; no sleeve: 0."""

    chest_mm: Mm
    length_mm: Mm
    collar_width_mm: Mm
    collar_drop_mm: Mm
    sleeve_mm: float = Field(ge=0, le=1000)

    @model_validator(mode="after")
    def has_room_for_its_collar(self) -> "GarmentSize":
        if self.collar_width_mm >= self.chest_mm or self.collar_drop_mm >= self.length_mm:
            raise ValueError("a collar is narrower than the chest, and its drop shorter than the garment")
        return self


class FlatSize(Frozen):
    """A flat thing seen from above, in mm: a cloth, a panel, a disc, or an apron whose upper edge is narrower."""

    width_mm: Mm
    height_mm: Mm
    top_width_mm: Mm | None = None
    """Of the upper edge where it is narrower."""
    is_round: bool = False
    outline: tuple[tuple[Share, Share], ...] = Field((), max_length=400)
    """Of a thing with a shape of its own: corners as shares of its width and height, from its left upper one. Empty: it has none."""

    @model_validator(mode="after")
    def fills_its_box(self) -> "FlatSize":
        if not self.outline:
            return self
        if self.is_round or self.top_width_mm is not None:
            raise ValueError("an outline of its own takes the place of a round edge and of a narrower one")
        area = sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in pairwise((*self.outline, self.outline[0]))) / 2
        if len(self.outline) < 3 or abs(area) < LEAST_OF_ITS_BOX:
            raise ValueError("an outline goes round something")
        for values in zip(*self.outline, strict=True):
            if min(values) > 0.02 or max(values) < 0.98:
                raise ValueError("an outline reaches to all four edges of its width and height")
        return self


class MugSize(Frozen):
    """A mug or cup, in mm: printed as its wall rolled out, the handle's strip left free."""

    diameter_mm: Mm
    """Of its rim."""
    height_mm: Mm
    handle_mm: Mm
    base_diameter_mm: Mm | None = None
    """Of its foot, where the wall tapers; none: it is straight."""

    @model_validator(mode="after")
    def is_no_plate(self) -> "MugSize":
        if self.base_diameter_mm is not None and abs(self.base_diameter_mm - self.diameter_mm) > self.height_mm:
            raise ValueError("a wall that tapers by more than its height cannot be wrapped")
        return self


class TubeSize(Frozen):
    """A two-sided tube laid flat, in mm (a sock on its jig): pressed on one side, folded over, pressed on the other."""

    flat_width_mm: Mm
    length_mm: Mm
    fold_over_mm: float = Field(6.0, ge=0, le=50)
    """What is folded over so that no white seam shows."""


Size = GarmentSize | FlatSize | MugSize | TubeSize


class Obstacle(Frozen):
    """What stands up under a press, in mm from where prints on that side are measured."""

    kind: Literal["zip", "seam", "pocket", "knot", "collar"]
    side: Literal["front", "back"] = "front"
    x_mm: float
    y_mm: float
    width_mm: Mm
    height_mm: Mm
    stands_mm: float = Field(gt=0, le=50)
    """How high it stands."""


class OwnPlace(Frozen):
    """Where a print can sit that the shape alone does not tell of: a leg, a waistband, a pocket's face. Its measures in mm."""

    name: str = Field(pattern=r"^[a-z][a-z0-9 -]{1,23}$")
    width_mm: Mm
    height_mm: Mm


Material = Literal["", "coated metal", "hardboard", "ceramic", "glass", "wood-grain", "plastic"]


TAKEN_NAMES = {
    "front chest",
    "left chest",
    "back",
    "left sleeve",
    "right sleeve",
    "front",
    "wrap",
    "side one",
    "side two",
}
"""Of the places that shapes have."""


class Blank(Fact):
    id: str = Field(pattern=r"^[a-z0-9-]{2,40}$")
    name: str = Field(min_length=2, max_length=60)
    plural: str = Field("", max_length=60)
    """What several are called; empty: the name and an s."""
    article: str = Field("", max_length=40)
    """The id that colours of one article share; empty: it is alone."""
    kind: Literal["cloth", "hard"]
    fibres: dict[Annotated[str, Field(min_length=1, max_length=40)], Annotated[float, Field(ge=0, le=1)]] = Field(
        {}, max_length=12
    )
    """Fibre to its share, together 1; none for hard goods."""
    colour: str = Field(pattern=r"^#[0-9A-Fa-f]{6}$")
    colour_name: str = Field(min_length=2, max_length=40)
    thickness_mm: float = Field(gt=0, le=60)
    scorch_c: float = Field(ge=60, le=400)
    coated: bool = False
    """Carries a coating that takes dye."""
    material: Material = ""
    """Of hard goods: it picks time and heat, which face looks up, the flip. Empty: nobody said yet, and it is asked."""
    foil: bool = True
    """A flat hard blank comes under a protective foil, unless said otherwise."""
    up_by: Literal["", "hanger", "stand"] = ""
    """What on it says which way is up, whatever is printed: it is looked at before the print lies on it."""
    stretch: Literal["none", "some", "much"] = "some"
    items: int = Field(1, ge=1, le=4)
    """Alike things that make one piece, each with its own print: a pair is two."""
    obstacles: tuple[Obstacle, ...] = Field((), max_length=20)
    places: tuple[OwnPlace, ...] = Field((), max_length=12)
    """Besides those that its shape has."""
    sizes: dict[Annotated[str, Field(min_length=1, max_length=20)], Size] = Field(min_length=1, max_length=20)
    price: Decimal = Field(ge=0, le=100_000)
    retired: bool = False
    """Not ordered any more: jobs that hold it still read it."""
    sources: dict[Annotated[str, Field(max_length=60)], Annotated[str, Field(max_length=60)]] = {}
    """Field to where its value comes from; a value that the shop has looked at is not among them."""

    def called(self, count: int) -> str:
        """Its name in a sentence about so many."""
        return (self.name if count == 1 else self.plural or f"{self.name}s").lower()

    @property
    def has_foil(self) -> bool:
        """Mugs have none, nor has cloth."""
        return self.kind == "hard" and self.foil and not any(isinstance(s, MugSize) for s in self.sizes.values())

    @model_validator(mode="after")
    def places_are_told_apart(self) -> "Blank":
        names = [p.name for p in self.places]
        if len(set(names)) < len(names) or set(names) & TAKEN_NAMES:
            raise ValueError("every place has a name of its own, and none of the shape's own names")
        return self

    @model_validator(mode="after")
    def fibres_make_one(self) -> "Blank":
        if self.kind == "cloth" and abs(sum(self.fibres.values()) - 1) > 1e-6:
            raise ValueError(f"the fibre shares of {self.name} make {sum(self.fibres.values()) * 100:.0f} %, not 100 %")
        return self
