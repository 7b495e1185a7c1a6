"""Facts of the trade: models, and the data files that ship as seed and fallback."""

from offsetter.core.facts.blanks import Blank, GarmentSize
from offsetter.core.facts.machines import Oven, Press, Printer, PrintMode
from offsetter.core.facts.methods import Method
from offsetter.core.facts.recipes import Layer, Recipe, SchoolChoice, SchoolQuestion, Stage
from offsetter.core.facts.shipped import advice_facts, methods, profile_bytes, recipes
from offsetter.core.facts.shop import Levels, Prices, Shop

__all__ = [
    "Blank", "GarmentSize", "Layer", "Levels", "Method", "Oven", "Press", "Prices", "PrintMode", "Printer", "Recipe",
    "SchoolChoice", "SchoolQuestion", "Shop", "Stage", "advice_facts", "methods", "profile_bytes", "recipes",
]  # fmt: skip
