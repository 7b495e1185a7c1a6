"""Orders that grow: one more print on the piece, a list of names, the same made again."""

import secrets
from collections import Counter
from datetime import datetime

from offsetter.core import derive
from offsetter.core.decisions import Decision, Way
from offsetter.core.places import starting_place
from offsetter.core.prints import lowest_edge_um
from offsetter.core.sentences import say, say_many
from offsetter.core.values import Refusal
from offsetter.core.wording import several
from offsetter.desk.base import Base
from offsetter.desk.jobs import Conflict, Jobs
from offsetter.desk.shops import pinned
from offsetter.intake.names import read_names
from offsetter.store.decisions import DecisionStore, SavedElsewhere


class Orders:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def add_print(self, job_id: str, place: str, author: str) -> str:
        """One more print on the piece, pressed last; gives its id."""
        stored = self._jobs.kept.read(job_id)
        new = next(f"p{n}" for n in range(2, 99) if f"p{n}" not in stored.order.prints)
        order = stored.order.model_copy(update={"prints": (*stored.order.prints, new), "settled": False})
        shop, _ = self._jobs.shop()
        # The picture that the piece carries already, at a size that fits there.
        first = next((p for p in stored.prints if p.decisions.place.file and p.facts), None)
        share = 1.0
        if first and first.facts:
            share = derive.print_height_um(first.decisions, first.facts, 100_000) / 100_000
        taken = lowest_edge_um(stored.prints, place)
        doc = starting_place(shop.blanks[stored.order.lines[0].blank], place, share, taken_um=taken)
        if first:
            doc = doc.model_copy(update={"file": first.decisions.place.file, "page": first.decisions.place.page})
        docs: dict[str, Decision] = {"place": doc}
        if first:
            docs["artwork"] = first.decisions.artwork.model_copy(update={"settled": False, "seen": None})
        try:
            with self._jobs.changing(job_id, is_decision=True) as session:
                store = DecisionStore(session)
                store.save(
                    job_id,
                    "",
                    "order",
                    order.model_dump(mode="json"),
                    author,
                    stored.revisions["order"],
                    self._base.now(),
                )
                known = store.current(job_id)
                for station, body in docs.items():
                    before = known.get((new, station))
                    store.save(
                        job_id,
                        new,
                        station,
                        body.model_dump(mode="json"),
                        author,
                        before.revision if before else 0,
                        self._base.now(),
                    )
        except SavedElsewhere as other:
            raise Conflict(other.theirs, order.model_dump(mode="json")) from other
        return new

    def take_names(self, job_id: str, data: bytes, author: str) -> None:
        """A list of names: every row a numbered piece; the sizes ordered become those of the list."""
        stored = self._jobs.kept.read(job_id)
        shop, _ = self._jobs.shop()
        blanks = {ln.id: shop.blanks[ln.blank] for ln in stored.order.lines}
        names = read_names(data, stored.order, blanks)
        lines = []
        for line in stored.order.lines:
            listed = Counter(n.size for n in names if n.line == line.id)
            lines.append(
                line.model_copy(update={"counts": {s: listed[s] for s in blanks[line.id].sizes if listed[s]}})
                if listed
                else line
            )
        order = stored.order.model_copy(update={"names": names, "lines": tuple(lines)})
        self._jobs.decide(job_id, "order", order.model_dump(mode="json"), stored.revisions["order"], author)

    def agree(self, job_id: str, pieces: int, price: float, by: str, author: str) -> None:
        """The customer said yes to so many at that price: the order is theirs, its sizes in the proportion they stand in."""
        stored = self._jobs.kept.read(job_id)
        order = stored.order
        if order.names and pieces != order.pieces:
            raise Refusal("names-count", say_many(len(order.names), "{count} piece of this order carries a name: it cannot be {pieces}.", "{count} pieces of this order carry names: it cannot be {pieces}.", pieces=pieces), say("The order is as it was."),
                          say("Change the list of names first."))  # fmt: skip
        currency = self._jobs.shop()[0].prices.currency
        sized = order if pieces == order.pieces else order.in_proportion(pieces)
        agreed = sized.model_copy(update={
            "quoted": price, "settled": True, "agreed": say("{counted} at {price} {currency} each: {by}", counted=several(pieces, 'piece'), price=f'{price:.2f}', currency=currency, by=by),
        })  # fmt: skip
        self._jobs.decide(job_id, "order", agreed.model_dump(mode="json"), stored.revisions["order"], author)

    def again(self, job_id: str, due: datetime, author: str) -> str:
        """Make a job again: its decisions copied to a new one, nothing of its acts."""
        stored, new = self._jobs.kept.read(job_id), secrets.token_hex(6)
        order = stored.order.model_copy(update={"due": due, "settled": False, "agreed": "", "pins": {}})
        with self._base.session() as session, session.begin():
            self._jobs.create_in(session, new, order, author)
            store, shop = DecisionStore(session), self._jobs.shop_in(session)[0]
            for (print_id, station), revision in store.current(job_id).items():
                if station != "order" and revision.body is not None:
                    body = revision.body
                    if station == "method":  # made by machines as they are today
                        way = Way.model_validate({**body, "pins": {}})
                        body = pinned(way, shop).model_dump(mode="json")
                    store.save(new, print_id, station, body, author, 0, self._base.now())
            self._jobs.keep_standing(session, new, is_decision=True)
        return new
