from decimal import Decimal

from offsetter.core.facts.blanks import Blank
from offsetter.core.facts.colour import BrandColour, Condition, Drift, Profile, condition_id
from offsetter.core.facts.machines import Oven, Press, Printer
from offsetter.core.facts.methods import Method
from offsetter.core.facts.recipes import Recipe
from offsetter.core.values import Frozen


class Prices(Frozen):
    """What things cost this shop. Money is Decimal in the shop's currency."""

    currency: str
    media_m: Decimal
    ink_ml: dict[str, Decimal]
    powder_g: Decimal
    powder_g_m2: Decimal
    """Powder that stays on one square metre of white."""
    cover_uses: dict[str, tuple[Decimal, int]]
    """Cover sheet to its price and how many presses it is good for."""
    margin_share: Decimal = Decimal("0.55")
    """Of the price, what the shop wants to keep: from memory until it is set."""
    hands_hour: Decimal
    machine_hour: Decimal
    spoil_share: Decimal


class Levels(Frozen):
    """What is in store now. Shown beside results, never part of them."""

    blanks: dict[str, dict[str, int]] = {}
    """Blank to size to pieces."""
    media_m: dict[str, float] = {}
    """Printer to metres left on its roll."""
    sheets: dict[str, int] = {}
    """Medium to sheets in store."""
    ink_ml: dict[str, dict[str, float]] = {}
    """Printer to channel to millilitres."""


class BrokenFact(Frozen):
    """A row that cannot be read: the version before it is used, or nothing where there is none."""

    kind: str
    id: str
    why: str
    version: int
    used: int | None


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
    prices: Prices
    ink_profile: str = ""
    """Our own, that stands in where none is assigned: hash."""
    profiles: dict[str, Profile] = {}
    conditions: dict[str, Condition] = {}
    """The newest version of each."""
    older_conditions: dict[str, Condition] = {}
    """Every version, as id@version."""
    brand_colours: dict[str, BrandColour] = {}
    drift: dict[str, Drift] = {}
    """Condition to its newest measurement."""
    broken: tuple[BrokenFact, ...] = ()

    def condition(self, printer: str, media: str, mode: str) -> Condition | None:
        """What is known of this printer on this medium in this mode, as it is now."""
        return self.conditions.get(condition_id(printer, media, mode))

    def condition_at(self, printer: str, media: str, mode: str, version: int) -> Condition | None:
        """The version that was pinned; None where none was."""
        return self.older_conditions.get(f"{condition_id(printer, media, mode)}@{version}")

    def recipe(self, recipe_id: str, version: int) -> Recipe:
        """The version that was pinned; the newest when that one is not kept."""
        return self.older.get(f"{recipe_id}@{version}") or self.recipes[recipe_id]
