"""Anything of the shop, found by typing: jobs, customers, blanks, machines, recipes, a label's code."""

from typing import Literal

from offsetter.core.sentences import say
from offsetter.core.standing import words_of
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.codes import CODE, Codes
from offsetter.desk.jobs import Jobs
from offsetter.store.customers import CustomerStore
from offsetter.store.standings import StandingStore, Unreadable

MOST = 6
Kind = Literal["job", "customer", "blank", "machine", "recipe", "code"]


class Found(Frozen):
    kind: Kind
    id: str
    name: str
    said: str


class Finder:
    def __init__(self, base: Base, jobs: Jobs, codes: Codes) -> None:
        self._base, self._jobs, self._codes = base, jobs, codes

    def find(self, words: str) -> tuple[Found, ...]:
        """A few of each kind that hold every word, or one that begins so; a code first."""
        if not words_of(words):
            return ()
        return (*self._code(words), *self._kept(words), *self._facts(words))

    def _code(self, words: str) -> tuple[Found, ...]:
        ticket = words.strip().removeprefix("J-")
        if ticket != words.strip():
            with self._base.session() as session:
                kept = StandingStore(session).find(ticket)
            told = kept.standing if kept else None
            return (
                (Found(kind="job", id=told.id, name=told.title, said=f"{told.customer}, {told.stands}"),)
                if told
                else ()
            )
        if not CODE.match(words.strip()):
            return ()
        try:
            made = self._codes.trace(words)
        except Refusal:
            return ()
        return (Found(kind="code", id=made.code, name=made.code, said=f"{made.title}, {made.customer}"),)

    def _kept(self, words: str) -> tuple[Found, ...]:
        with self._base.session() as session:
            try:
                jobs = StandingStore(session).page("all", words, self._base.now(), MOST)
            except Unreadable:
                # Jobs works such a row out anew, and says so.
                jobs = []
            customers = CustomerStore(session).page(words.strip(), "", MOST)
        return (
            *(Found(kind="job", id=k.standing.id, name=k.standing.title, said=f"{k.standing.customer}, {k.standing.stands}") for k in jobs),
            *(Found(kind="customer", id=c.id, name=c.name, said=say("{open} open, {ended} ended", open=n.open, ended=n.ended)) for c, n in customers),
        )  # fmt: skip

    def _facts(self, words: str) -> tuple[Found, ...]:
        shop, _ = self._jobs.shop()
        looked = words_of(words)

        def holds(text: str) -> bool:
            own = words_of(text)
            return all(any(o.startswith(w) for o in own) for w in looked)

        rows: dict[Kind, list[tuple[str, str, str]]] = {
            "blank": [(b.id, b.name, b.colour_name) for b in shop.blanks.values()],
            "machine": [
                *((p.id, p.name, "printer") for p in shop.printers.values()),
                *((p.id, p.name, "press") for p in shop.presses.values()),
                *((o.id, o.name, "oven") for o in shop.ovens.values()),
                *((c.id, c.name, "cutter") for c in shop.cutters.values()),
                *((p.id, p.name, say("{measures} probe", measures=p.measures)) for p in shop.probes.values()),
            ],
            "recipe": [(r.id, r.name, say("version {version}", version=r.version)) for r in shop.recipes.values()],
        }
        found: list[Found] = []
        for kind, of in rows.items():
            found += [Found(kind=kind, id=i, name=n, said=s) for i, n, s in of if holds(f"{n} {s}")][:MOST]
        return tuple(found)
