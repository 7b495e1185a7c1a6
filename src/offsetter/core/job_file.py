"""A whole job as one document: its decisions, runs and acts, and the facts of the shop that they stand on."""

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from offsetter.core.acts import Act, Fetched, Photographed, Prepared, Pressed, Printed, Stored, Voided
from offsetter.core.decisions import DOCUMENTS, OrderDoc, Way
from offsetter.core.facts import Blank, Condition, Oven, Press, Printer, Profile, Recipe
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

FORMAT: Literal["offsetter job"] = "offsetter job"
Hash = Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
Sort = Literal["blanks", "printers", "presses", "ovens"]
SORTS: tuple[Sort, ...] = ("blanks", "printers", "presses", "ovens")


class Document(Frozen):
    """A decision as it stands. print: empty for what is of the whole job."""

    print: str = Field(max_length=40)
    station: str = Field(max_length=40)
    author: str = Field(max_length=80)
    body: dict[str, Any]


class FileTold(Frozen):
    name: str = Field(max_length=255)
    sort: Literal["artwork", "photograph", "profile"]


class Carried(Frozen):
    """Facts that the job was decided with, as the shop had them."""

    blanks: dict[str, Blank] = {}
    printers: dict[str, Printer] = {}
    presses: dict[str, Press] = {}
    ovens: dict[str, Oven] = {}
    recipes: dict[str, Recipe] = {}
    """By id@version."""
    conditions: dict[str, Condition] = {}
    """By id@version."""
    profiles: dict[str, Profile] = {}


class JobFile(Frozen):
    format: Literal["offsetter job"] = FORMAT
    version: Literal[1] = 1
    made_at: datetime
    shop: str = Field(max_length=60)
    created_at: datetime
    title: str = Field(max_length=120)
    customer: str = Field(max_length=120)
    documents: tuple[Document, ...] = Field(min_length=1, max_length=400)
    runs: tuple[Run, ...] = Field((), max_length=500)
    acts: tuple[Act, ...] = Field((), max_length=50_000)
    files: dict[Hash, FileTold] = Field({}, max_length=500)
    """Each lies beside this document, under its hash."""
    facts: Carried

    @property
    def order(self) -> OrderDoc:
        return OrderDoc.model_validate(next(d.body for d in self.documents if d.station == "order"))

    @property
    def ways(self) -> tuple[Way, ...]:
        """Decided, and those that runs were printed by."""
        decided = (Way.model_validate(d.body) for d in self.documents if d.station == "method")
        return (*decided, *(r.plan.way for r in self.runs))

    def uses(self) -> dict[Sort, frozenset[str]]:
        """Blanks and machines that it names."""
        ways = self.ways
        pressed = {a.body.press for a in self.acts if isinstance(a.body, Pressed) and a.body.press}
        return {
            "blanks": frozenset(line.blank for line in self.order.lines), "printers": frozenset(w.printer for w in ways),
            "presses": frozenset({w.press for w in ways} | (pressed & set(self.facts.presses))), "ovens": frozenset(w.oven for w in ways if w.oven),
        }  # fmt: skip


def documents_are_sound(told: JobFile) -> None:
    """Raises ValidationError or ValueError for a document that no station could read."""
    for d in told.documents:
        if d.station not in DOCUMENTS:
            raise ValueError(say("nothing is decided at “{station}”", station=d.station))
        DOCUMENTS[d.station].model_validate(d.body)
    if sum(d.station == "order" for d in told.documents) != 1:
        raise ValueError(say("it holds no order, or several"))


Instead = dict[Sort, dict[str, str]]
"""Of each sort, an id in the file to the shop's own."""


def at_home(told: JobFile, job: str, instead: Instead, run_of: Callable[[str], tuple[str, int]], mark: Callable[[str], str]) -> JobFile:  # fmt: skip
    """The job as it is kept here: under its own id, with the shop's own blanks and machines. run_of: a run's id there to its id and
    number here; mark: an act's id there to its id here."""
    runs = {r.id: run_of(r.id) for r in told.runs}
    acts = {a.id: mark(a.id) for a in told.acts}

    def way(body: dict[str, Any]) -> dict[str, Any]:
        own = {"printer": "printers", "press": "presses", "oven": "ovens"}
        told = {k: v for k, v in body.items() if k != "pins"}  # versions count otherwise here
        return {**told, **{k: instead.get(s, {}).get(body[k], body[k]) for k, s in own.items() if k in body}}  # type: ignore[call-overload]

    def document(d: Document) -> Document:
        if d.station == "method":
            return d.model_copy(update={"body": way(d.body)})
        if d.station == "order":
            order = OrderDoc.model_validate(d.body)
            lines = tuple(ln.model_copy(update={"blank": instead.get("blanks", {}).get(ln.blank, ln.blank)}) for ln in order.lines)  # fmt: skip
            return d.model_copy(
                update={"body": order.model_copy(update={"lines": lines, "pins": {}}).model_dump(mode="json")}
            )
        return d

    def run(r: Run) -> Run:
        own_way = Way.model_validate(way(r.plan.way.model_dump(mode="json")))
        return r.model_copy(update={"id": runs[r.id][0], "number": runs[r.id][1], "job": job, "plan": r.plan.model_copy(update={"way": own_way})})  # fmt: skip

    def act(a: Act) -> Act:
        body: Any = a.body
        if isinstance(body, Printed | Prepared | Pressed | Stored) and body.run:
            body = body.model_copy(update={"run": runs.get(body.run, ("", 0))[0]})
        if isinstance(body, Pressed):
            body = body.model_copy(update={"press": instead.get("presses", {}).get(body.press, body.press)})
        elif isinstance(body, Voided):
            body = body.model_copy(update={"voids": acts.get(body.voids, body.voids)})
        elif isinstance(body, Photographed) and body.of:
            body = body.model_copy(update={"of": acts.get(body.of, "")})
        elif isinstance(body, Fetched):
            body = body.model_copy(update={"stored": acts.get(body.stored, body.stored)})
        return a.model_copy(update={"id": acts[a.id], "job": job, "body": body})

    return told.model_copy(update={
        "documents": tuple(document(d) for d in told.documents), "runs": tuple(run(r) for r in told.runs), "acts": tuple(act(a) for a in told.acts),
    })  # fmt: skip
