"""Orders that other programs bring: taken under a token with named rights, each once, each held until a person has looked at it."""

import hashlib
import secrets
from datetime import datetime, timedelta
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field
from sqlalchemy.exc import IntegrityError

from offsetter.core.acts import Standing
from offsetter.core.decisions import BlankLine, OrderDoc
from offsetter.core.facts import Blank
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.artworks import Artworks
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.orders import Orders
from offsetter.store.standings import StandingStore
from offsetter.store.tokens import Token, TokenStore

Right = Literal["bring orders", "read orders"]
NOTHING = say("Nothing was taken.")
BEGINS = "ofs_"
USED_EVERY = timedelta(minutes=1)
LINE_IDS = "abcdefghijkl"
"""Of an order's blanks, in order: it takes twelve."""
SIZE = Annotated[str, Field(min_length=1, max_length=20)]


class PiecesIn(Frozen):
    """So many of one blank in one size. blank: its code in this shop, or its name; colour: where a name has several."""

    blank: str = Field(min_length=1, max_length=60)
    colour: str = Field("", max_length=40)
    size: SIZE = "one"
    count: int = Field(ge=1, le=10_000)


class OrderIn(Frozen):
    """An order as another program tells it. reference: what it is called there; the same again is the same order."""

    reference: str = Field(min_length=1, max_length=80)
    title: str = Field(min_length=1, max_length=120)
    customer: str = Field(min_length=1, max_length=80)
    due: AwareDatetime
    pieces: tuple[PiecesIn, ...] = Field(min_length=1, max_length=120)
    quoted: float | None = Field(None, ge=0, le=1_000_000)


class Brought(Frozen):
    """Where an order stands, for whoever brought it."""

    id: str
    reference: str
    title: str
    stands: Standing
    why: str
    due: datetime
    pieces: int
    good: int
    next: str


class BlankTold(Frozen):
    blank: str
    name: str
    colour: str
    sizes: tuple[str, ...]


class Elsewhere:
    def __init__(self, base: Base, jobs: Jobs, orders: Orders, artworks: Artworks) -> None:
        self._base, self._jobs, self._orders, self._artworks = base, jobs, orders, artworks

    # Tokens: the owner's.

    def make(self, name: str, rights: tuple[Right, ...], by: str) -> tuple[Token, str]:
        """A new token and its words, which are told this once."""
        plain = BEGINS + secrets.token_urlsafe(30)
        token = Token(secrets.token_hex(6), name.strip(), rights, by, self._base.now(), None, None)
        with self._base.session() as session, session.begin():
            TokenStore(session).add(token, _hash(plain))
        return token, plain

    def tokens(self) -> tuple[Token, ...]:
        with self._base.session() as session:
            return TokenStore(session).all()

    def end(self, token_id: str) -> None:
        with self._base.session() as session, session.begin():
            if not TokenStore(session).end(token_id, self._base.now()):
                raise Refusal("no-such-token", say("There is no such program."), say("Nothing was changed."), say("Choose one of the list."))  # fmt: skip

    def who(self, plain: str) -> Token | None:
        """The token of these words, while it is not ended."""
        if not plain.startswith(BEGINS) or len(plain) > 100:
            return None
        now = self._base.now()
        with self._base.session() as session, session.begin():
            found = TokenStore(session).find(_hash(plain))
            if found is None or found.ended_at is not None:
                return None
            if found.used_at is None or now - found.used_at > USED_EVERY:
                TokenStore(session).used(found.id, now)
        return found

    # What a program does with one.

    def blanks(self) -> tuple[BlankTold, ...]:
        shop = self._jobs.shop()[0]
        return tuple(BlankTold(blank=b.id, name=b.name, colour=b.colour_name, sizes=tuple(b.sizes)) for b in shop.blanks.values() if not b.retired)  # fmt: skip

    def take(self, told: OrderIn, source: str, called: str) -> Brought:
        """A new job that waits for a person's look. The same reference again gives the same job and changes nothing."""
        known = self._known(source, told.reference)
        if known is not None:
            return self.look(known, told.reference)
        order = self.order_of(told)
        try:
            job = self._jobs.create(order, called[:80], held=say("came from {called}: look at it, then take it up", called=called), brought=(source, told.reference))  # fmt: skip
        except IntegrityError:  # the same one came twice in the same moment
            job = self._known(source, told.reference) or ""
            if not job:
                raise
        return self.look(job, told.reference)

    def is_known(self, source: str, reference: str) -> bool:
        return self._known(source, reference) is not None

    def order_of(self, told: OrderIn) -> OrderDoc:
        """The order in this shop's own blanks. Raises Refusal for what it does not have."""
        blanks = self._jobs.shop()[0].blanks
        counts: dict[str, dict[str, int]] = {}
        for piece in told.pieces:
            blank = _blank(blanks, piece)
            if piece.size not in blank.sizes:
                raise Refusal("no-such-size", say("{name} does not come in size {size}.", name=blank.name, size=piece.size), NOTHING, say("It comes in {sizes}.", sizes=', '.join(blank.sizes)))  # fmt: skip
            sizes = counts.setdefault(blank.id, {})
            sizes[piece.size] = sizes.get(piece.size, 0) + piece.count
        if len(counts) > len(LINE_IDS):
            raise Refusal("too-many-blanks", say("An order holds {line_ids} kinds of blank, not {counts}.", line_ids=len(LINE_IDS), counts=len(counts)), NOTHING, say("Split it."))  # fmt: skip
        lines = tuple(BlankLine(id=LINE_IDS[n], blank=b, counts=c) for n, (b, c) in enumerate(counts.items()))
        return OrderDoc(title=told.title, customer=told.customer, due=told.due, lines=lines, quoted=told.quoted)

    def add_file(self, source: str, reference: str, name: str, data: bytes, called: str) -> Brought:
        """The picture for its first print, looked at like any other that comes in."""
        job = self._own(source, reference)
        facts = self._artworks.receive(name, data)
        seen = self._jobs.kept.read(job)
        place = seen.decisions.place.model_copy(update={"file": facts.file})
        self._jobs.decide(job, "place", place.model_dump(mode="json"), seen.revisions.get("place", 0), called[:80])
        return self.look(job, reference)

    def add_names(self, source: str, reference: str, data: bytes, called: str) -> Brought:
        job = self._own(source, reference)
        self._orders.take_names(job, data, called[:80])
        return self.look(job, reference)

    def read(self, source: str, reference: str) -> Brought:
        return self.look(self._known(source, reference) or _refuse_unknown(reference), reference)

    def look(self, job: str, reference: str) -> Brought:
        with self._base.session() as session:
            kept = StandingStore(session).find(job)
        if kept is None:
            _refuse_unknown(reference)
            raise AssertionError
        s = kept.standing
        return Brought(id=job, reference=reference, title=s.title, stands=s.stands, why=s.why, due=s.due, pieces=s.pieces, good=s.good, next=s.next_verdict)  # fmt: skip

    def _known(self, source: str, reference: str) -> str | None:
        with self._base.session() as session:
            return TokenStore(session).job_of(source, reference)

    def _own(self, source: str, reference: str) -> str:
        """Raises Refusal once a person has taken it up: from then on it is theirs."""
        job = self._known(source, reference) or _refuse_unknown(reference)
        if self.look(job, reference).stands != "held":
            raise Refusal("taken-up", say("Somebody in the shop has this order in hand."), say("It is as it was."), say("Ask the shop to change it."))  # fmt: skip
        return job


def _refuse_unknown(reference: str) -> str:
    raise Refusal("no-such-order", say("No order “{reference}” came from here.", reference=reference[:40]), say("Nothing was changed."), say("Send the order first."))  # fmt: skip


def _blank(blanks: dict[str, Blank], piece: PiecesIn) -> Blank:
    asked, colour = piece.blank.strip().casefold(), piece.colour.strip().casefold()
    found = [b for b in blanks.values() if not b.retired and (b.id == asked or b.name.casefold() == asked) and (not colour or b.colour_name.casefold() == colour)]  # fmt: skip
    if len(found) != 1:
        what = f"{piece.blank}{f' in {piece.colour}' if piece.colour else ''}"
        raise Refusal("no-such-blank", say("The shop has {which} “{what}”.", which=say('several') if found else say('no'), what=what), NOTHING, say("Name a blank by its code, or by its name and colour."))  # fmt: skip
    return found[0]


def _hash(plain: str) -> str:
    return hashlib.sha256(plain.encode()).hexdigest()
