"""Facts of the trade: models, and the data files that ship as seed and fallback."""

from offsetter.core.facts.blanks import Blank, FlatSize, GarmentSize, MugSize, Obstacle, Size, TubeSize
from offsetter.core.facts.care import CareFacts, CareTask, OwnCare, RoomRange, tasks_of
from offsetter.core.facts.colour import (
    BrandColour,
    Condition,
    Curve,
    Drift,
    GivenLab,
    Lab,
    Measurement,
    Profile,
    ProfileTag,
    Space,
    condition_id,
)
from offsetter.core.facts.faults import Fault
from offsetter.core.facts.kinds import FROM_MEMORY, MACHINES, BlankKind, Kinds, MachineKind, MachineSort
from offsetter.core.facts.machines import Cutter, Feed, HeatReading, Machine, Oven, Press, Printer, PrintMode
from offsetter.core.facts.methods import ColouredSheet, Method
from offsetter.core.facts.recipes import Layer, Recipe, SchoolChoice, SchoolQuestion, Stage
from offsetter.core.facts.shipped import advice_facts, care, faults, kinds, methods, profile_bytes, read_method, recipes
from offsetter.core.facts.shop import BrokenFact, Levels, Prices, Shop

__all__ = [
    "FROM_MEMORY", "MACHINES", "Blank", "BlankKind", "BrandColour", "BrokenFact", "CareFacts", "CareTask", "ColouredSheet", "Condition", "Curve", "Cutter", "Drift", "Fault", "Feed", "FlatSize", "GarmentSize", "GivenLab", "HeatReading", "Kinds", "Lab", "Layer", "Levels", "Machine", "MachineKind", "MachineSort", "Measurement", "Method", "MugSize", "Obstacle", "Oven", "OwnCare", "Press", "Prices",
    "PrintMode", "Printer", "Profile", "ProfileTag", "Recipe", "RoomRange", "SchoolChoice", "SchoolQuestion", "Shop", "Size", "Space", "Stage", "TubeSize", "advice_facts", "care",
    "condition_id", "faults", "kinds", "methods",
    "profile_bytes", "read_method", "recipes", "tasks_of",
]  # fmt: skip
