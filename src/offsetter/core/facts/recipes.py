from functools import cached_property
from typing import Literal

from pydantic import Field

from offsetter.core.values import Fact, Frozen, Refusal

Face = Literal["up", "down", "none"]


class Layer(Frozen):
    """One thing in a stack, top first. printed_face says where the face that carries the print looks."""

    what: str
    printed_face: Face = "none"
    note: str = ""
    kind: Literal["platen", "cover", "carrier", "blank", "pad", "tray", "powder", "air"] = "cover"


class Stage(Frozen):
    id: str
    name: str
    part: Literal["prepare", "press"]
    temperature_c: float | None = Field(None, ge=0, le=260)
    time_s: int = Field(ge=0, le=3600)
    pressure: str = "none"
    hover: bool = False
    stack: tuple[Layer, ...]
    say: str
    """The one instruction of this stage, in the largest type on the screen."""
    then: str
    hands_s: int = Field(0, ge=0)
    """Seconds of hands a piece (or a cut length, in prepare) besides the stage's own time."""
    alone: bool = False
    """The stage runs on by itself: cooling on a rack, a cure in the oven."""
    caution: str = ""
    asks: str = ""
    """What a look or a touch decides when a stage that runs by itself is over; empty: whether it is cold."""
    each: Literal["piece", "cut"] = "piece"
    """What it is done to in one go: a piece, or a whole cut length."""
    first_only: bool = False
    """Before the first piece of a batch alone."""
    only_if: Literal["", "foil", "up"] = ""
    """What a blank must have for it: a foil, or something that says which way is up (its words stand for {up})."""
    missing: tuple[Literal["temperature_c", "time_s", "pressure", "peel"], ...] = ()
    """What nobody gave: asked for, never guessed."""
    source: str
    only_with: str = ""
    """question=choice this stage belongs to, several with spaces between, a question's choices with | between; empty: always."""
    window: str = ""
    """Until when it must be done, in words; window_s the same in seconds."""
    window_s: int | None = Field(None, ge=1)


class SchoolChoice(Frozen):
    id: str
    name: str
    consequence: str
    tone: Literal["", "dark", "light"] = ""
    """For cloth of this tone, where the cloth's measured lightness decides: on dark white is laid, on light none."""
    materials: tuple[str, ...] = ()
    """Of hard goods that it is for, where the material decides."""
    fibres: tuple[str, ...] = ()
    """For cloth that holds one of these, where no other question decides."""
    from_mm: float = Field(0, ge=0, le=60)
    """For blanks of at least this thickness, where that decides."""
    oven: bool = False
    """Wants one: a shop without begins with another choice."""


class SchoolQuestion(Frozen):
    id: str
    question: str
    what_decides: str
    decided_by: Literal["", "cloth", "thickness", "material"] = ""
    """What is measured and decides; empty: practice differs, and a person chooses."""
    choices: tuple[SchoolChoice, ...]


class Recipe(Fact):
    id: str = Field(pattern=r"^[a-z0-9-]{2,40}$")
    name: str = Field(min_length=2, max_length=80)
    method: str
    version: int = Field(ge=1, le=100_000)
    source: Literal["practice", "memory", "maker", "house", "trial"]
    why: str = ""
    """What made this version."""
    by: str = ""
    schools: tuple[SchoolQuestion, ...] = ()
    stages: tuple[Stage, ...] = Field(min_length=1, max_length=60)
    lay_out: tuple[str, ...]

    def tone_of(self, chosen: dict[str, str]) -> Literal["", "dark", "light"]:
        """The tone of cloth that the choices made are for; empty where none of them asks."""
        for q in (q for q in self.schools if q.decided_by == "cloth"):
            taken = chosen.get(q.id, q.choices[0].id)
            return next((c.tone for c in q.choices if c.id == taken), "")
        return ""

    def stages_for(self, chosen: dict[str, str]) -> tuple[Stage, ...]:
        """The stages of the schools chosen; a question left out takes its first choice.

        Raises Refusal for a question or a choice that the recipe does not know.
        """
        name = tuple(sorted(chosen.items()))
        found = self._chosen.get(name)
        if found is None:
            found = self._chosen[name] = self._stages_of(chosen)
        return found

    @cached_property
    def _chosen(self) -> dict[tuple[tuple[str, str], ...], tuple[Stage, ...]]:
        """Choices that were asked about to their stages."""
        return {}

    def _stages_of(self, chosen: dict[str, str]) -> tuple[Stage, ...]:
        taken = {q.id: q.choices[0].id for q in self.schools}
        for question, choice in chosen.items():
            known = next((q for q in self.schools if q.id == question), None)
            if known is None or choice not in {c.id for c in known.choices}:
                offered = ", ".join(f"{q.id}={c.id}" for q in self.schools for c in q.choices)
                raise Refusal("unknown-school", f"“{question}={choice}” is not a school of {self.name}.",
                              "The recipe is as it was.", f"Choose one of {offered}.")  # fmt: skip
            taken[question] = choice

        def belongs(stage: Stage) -> bool:
            asked = (part.partition("=") for part in stage.only_with.split())
            return all(taken.get(question) in choices.split("|") for question, _, choices in asked)

        return tuple(s for s in self.stages if belongs(s))
