"""The working day: what is left of every job over machines and hands, laid out in whole minutes.

Three parts that do not know each other: laying one stage after the other and searching over the order (`laying`, `search`), the
constraint solver that starts from what was found (`solver`), and a checker that judges whatever is shown (`check`).
"""

from offsetter.core.compute.day.model import Day, Hands, Heats, Job, Machine, Person, Placed, Plan, Step, Wait
from offsetter.core.compute.day.search import plan_day

__all__ = ["Day", "Hands", "Heats", "Job", "Machine", "Person", "Placed", "Plan", "Step", "Wait", "plan_day"]
