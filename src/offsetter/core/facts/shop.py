from decimal import Decimal
from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.facts.blanks import Blank
from offsetter.core.facts.colour import BrandColour, Condition, Drift, Profile, condition_id
from offsetter.core.facts.machines import Cutter, Machine, Oven, Press, Printer, Probe
from offsetter.core.facts.media import Medium, medium_id
from offsetter.core.facts.methods import Method
from offsetter.core.facts.recipes import Recipe
from offsetter.core.values import Frozen

Money = Annotated[Decimal, Field(ge=0, le=100_000)]


class Prices(Frozen):
    """What things cost this shop. Money is Decimal in the shop's currency."""

    currency: str = Field(pattern=r"^[A-Z]{3}$")
    media_m: Money
    ink_ml: dict[Annotated[str, Field(max_length=8)], Money] = Field(max_length=16)
    powder_g: Money
    powder_g_m2: Money
    """Powder that stays on one square metre of white."""
    cover_uses: dict[Annotated[str, Field(max_length=40)], tuple[Money, Annotated[int, Field(ge=1, le=100_000)]]] = (
        Field(max_length=40)
    )
    """Cover sheet to its price and how many presses it is good for."""
    margin_share: Decimal = Field(Decimal("0.55"), ge=0, le=Decimal("0.95"))
    """Of the price, what the shop wants to keep: from memory until it is set."""
    hands_hour: Money
    machine_hour: Money
    spoil_share: Decimal = Field(ge=0, le=Decimal("0.5"))
    sources: dict[Annotated[str, Field(max_length=60)], Annotated[str, Field(max_length=60)]] = {}
    """Field to where its value comes from; a value that the shop has looked at is not among them."""


class Levels(Frozen):
    """What is in store now. Shown beside results, never part of them."""

    blanks: dict[str, dict[str, int]] = {}
    """Blank to size to pieces."""
    media_m: dict[str, float] = {}
    """Printer to metres left on its roll."""
    sheets: dict[str, int] = {}
    """Medium to sheets in store."""
    ink_ml: dict[str, dict[str, float]] = {}
    """Printer to channel to millilitres, in it and on the shelf."""
    held: dict[str, dict[str, float]] = {}
    """Printer to channel to what is in it by its own word or by somebody's look: mL, of toner pages at 5 %, by what it really lays."""


class BrokenFact(Frozen):
    """A row that cannot be read: the version before it is used, or nothing where there is none."""

    kind: str
    id: str
    why: str
    version: int
    used: int | None


HeldSort = Literal["blanks", "printers", "presses", "ovens"]
"""What a job goes on with as it was when it was decided."""


class HeldFact(Frozen):
    """A thing that measures otherwise today than when a job was decided with it."""

    sort: HeldSort
    id: str
    name: str
    version: int
    newest: int
    changes: tuple[str, ...]


SORTS = ("printers", "presses", "ovens", "cutters", "probes")


class Shop(Frozen):
    """The slice of the shop that stations read: facts only, no clock and no live levels."""

    name: str
    proof_wanted: bool = False
    """The shop prints only what the customer has signed."""
    methods: dict[str, Method]
    recipes: dict[str, Recipe]
    """The newest version of each."""
    older: dict[str, Recipe] = {}
    """Earlier versions, as id@version: jobs that pinned them go on with them."""
    blanks: dict[str, Blank]
    printers: dict[str, Printer]
    presses: dict[str, Press]
    ovens: dict[str, Oven]
    cutters: dict[str, Cutter] = {}
    probes: dict[str, Probe] = {}
    prices: Prices
    ink_profile: str = ""
    """Our own, that stands in where none is assigned: hash."""
    profiles: dict[str, Profile] = {}
    conditions: dict[str, Condition] = {}
    """The newest version of each."""
    older_conditions: dict[str, Condition] = {}
    """Every version, as id@version."""
    media: dict[str, Medium] = {}
    """Cards of rolls and sheets, by medium_id."""
    brand_colours: dict[str, BrandColour] = {}
    drift: dict[str, Drift] = {}
    """Condition to its newest measurement."""
    broken: tuple[BrokenFact, ...] = ()
    versions: dict[str, int] = {}
    """Newest version of each blank, printer, press and oven, by sort/id."""
    held: tuple[HeldFact, ...] = ()
    """Of a shop as one job sees it: what stands in it as it was."""

    def condition(self, printer: str, media: str, mode: str) -> Condition | None:
        """What is known of this printer on this medium in this mode, as it is now."""
        return self.conditions.get(condition_id(printer, media, mode))

    def condition_at(self, printer: str, media: str, mode: str, version: int) -> Condition | None:
        """The version that was pinned; None where none was."""
        return self.older_conditions.get(f"{condition_id(printer, media, mode)}@{version}")

    def medium(self, media: str) -> Medium | None:
        """Its card, where somebody wrote one."""
        return self.media.get(medium_id(media))

    @property
    def presses_in_use(self) -> tuple[Press, ...]:
        return tuple(p for p in self.presses.values() if not p.retired)

    @property
    def ovens_in_use(self) -> tuple[Oven, ...]:
        return tuple(o for o in self.ovens.values() if not o.retired)

    @property
    def in_use(self) -> tuple[Machine, ...]:
        """Every machine that is not retired."""
        every = (getattr(self, sort).values() for sort in SORTS)
        return tuple(m for of in every for m in of if not m.retired)

    @property
    def machines(self) -> dict[str, Machine]:
        """All of them by id, whatever their sort."""
        return {m.id: m for sort in SORTS for m in getattr(self, sort).values()}

    def recipe(self, recipe_id: str, version: int) -> Recipe:
        """The version that was pinned; the newest when that one is not kept."""
        return self.older.get(f"{recipe_id}@{version}") or self.recipes[recipe_id]
