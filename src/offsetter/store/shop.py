"""The shop's own facts over the shipped ones, and the names of files received."""

from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import func, or_, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from offsetter.core import facts
from offsetter.core.facts import (
    Blank,
    BrandColour,
    BrokenFact,
    Condition,
    Cutter,
    Drift,
    Medium,
    Method,
    Oven,
    Press,
    Prices,
    Printer,
    Probe,
    Profile,
    Recipe,
    Shop,
)
from offsetter.core.held_facts import HELD
from offsetter.core.values import Frozen
from offsetter.store.tables import EDITION, TURNS, ArtworkRow, CounterRow, ShopRow

KINDS = ("blanks", "printers", "presses", "ovens", "cutters", "probes")
LARGE_KINDS = ("charts", "measurements", "supplies")
"""Looked up one by one: no station reads them."""
PINNED_KINDS = ("recipes", "conditions")
COLOUR_KINDS = ("profiles", "brand_colours")
"""Of which the shop may take one away again: its newest row then says so."""
GONE = "gone"


class ShopStore:
    def __init__(self, session: Session, author: str = "", at: datetime | None = None) -> None:
        """author, at: of the versions that are added."""
        self._session, self._author, self._at = session, author, at

    def put(self, kind: str, fact_id: str, body: dict[str, Any], version: int = 1) -> None:
        self._session.merge(
            ShopRow(kind=kind, id=fact_id, version=version, body=body, author=self._author, made_at=self._at)
        )
        if kind not in LARGE_KINDS:
            self._session.flush()
            counted = insert(CounterRow).values(name=EDITION, value=1)
            self._session.execute(counted.on_duplicate_key_update(value=CounterRow.value + 1))

    def change(self, kind: str, fact_id: str, /, **values: Any) -> None:
        """A newer version of a fact, the older ones kept."""
        newest = self._session.scalars(
            select(ShopRow).where(ShopRow.kind == kind, ShopRow.id == fact_id).order_by(ShopRow.version.desc()).limit(1).with_for_update()
        ).first()  # fmt: skip
        body, version = (newest.body, newest.version) if newest else ({}, 0)
        self.put(kind, fact_id, {**body, **values}, version + 1)

    def body(self, kind: str, fact_id: str) -> dict[str, Any] | None:
        """A fact's newest row; None while there is none."""
        rows = (
            select(ShopRow).where(ShopRow.kind == kind, ShopRow.id == fact_id).order_by(ShopRow.version.desc()).limit(1)
        )
        found = self._session.scalars(rows).first()
        return found.body if found else None

    def made(self, kind: str, fact_id: str) -> tuple[str, datetime] | None:
        """Who made a fact's newest version, and when; None where that was not kept."""
        row = self._session.scalars(
            select(ShopRow).where(ShopRow.kind == kind, ShopRow.id == fact_id).order_by(ShopRow.version.desc()).limit(1)
        ).first()
        return (row.author, row.made_at) if row and row.author and row.made_at else None

    def replace(self, kind: str, fact_id: str, body: dict[str, Any]) -> None:
        """A newer row that says all there is to say: nothing of the one before stays."""
        self.put(kind, fact_id, body, self.newest(kind, fact_id) + 1)

    def newest(self, kind: str, fact_id: str) -> int:
        """The number of a fact's newest version; 0 while there is none."""
        found = select(func.max(ShopRow.version)).where(ShopRow.kind == kind, ShopRow.id == fact_id)
        return int(self._session.scalar(found) or 0)

    def all_of(self, kind: str) -> list[dict[str, Any]]:
        """Every fact of a kind as its newest row says."""
        rows = self._session.scalars(select(ShopRow).where(ShopRow.kind == kind).order_by(ShopRow.version))
        return [b for b in {row.id: row.body for row in rows}.values() if GONE not in b]

    def lock(self) -> None:
        """Two people who add a version of a fact wait for each other."""
        self._session.execute(select(ShopRow.id).where(ShopRow.kind == "shop").with_for_update()).all()

    def has_shop(self) -> bool:
        return self._session.get(ShopRow, ("shop", "shop", 1)) is not None

    def editions(self) -> tuple[int, int]:
        """The first goes up whenever a fact or a version of one is added, the second whenever something was done at a shelf, or an
        item ran out or came back."""
        rows = self._session.execute(
            select(CounterRow.name, CounterRow.value).where(CounterRow.name.in_((EDITION, TURNS)))
        )
        told = {row.name: row.value for row in rows}
        return told.get(EDITION, 0), told.get(TURNS, 0)

    def read(self) -> Shop:
        """The shop as its newest rows say, with shipped facts where it has none of its own."""
        newest: dict[str, dict[str, dict[str, Any]]] = {}
        shipped = facts.recipes()
        older = {f"{r.id}@{r.version}": r.model_dump() for r in shipped.values()}
        older_conditions: dict[str, dict[str, Any]] = {}
        latest = (
            select(ShopRow.kind, ShopRow.id, func.max(ShopRow.version).label("version"))
            .where(ShopRow.kind.not_in(LARGE_KINDS)).group_by(ShopRow.kind, ShopRow.id).subquery()
        )  # fmt: skip
        is_latest = (
            (latest.c.kind == ShopRow.kind) & (latest.c.id == ShopRow.id) & (latest.c.version == ShopRow.version)
        )
        # Older versions are read where a job may have pinned one.
        rows = (
            select(ShopRow).outerjoin(latest, is_latest)
            .where(or_(latest.c.version.is_not(None), ShopRow.kind.in_(PINNED_KINDS))).order_by(ShopRow.version)
        )  # fmt: skip
        numbers: dict[tuple[str, str], int] = {}
        for row in self._session.scalars(rows):
            newest.setdefault(row.kind, {})[row.id] = row.body
            numbers[row.kind, row.id] = row.version
            if row.kind == "recipes":
                older[f"{row.id}@{row.version}"] = row.body
            elif row.kind == "conditions":
                older_conditions[f"{row.id}@{row.version}"] = row.body
        shop = newest.get("shop", {}).get("shop", {})
        # A shop that has not been filled yet reckons with general prices.
        prices = newest.get("prices", {}).get("prices") or facts.kinds().prices.model_dump(mode="json")
        # Sheets that the shop has no price for are counted all the same.
        counted = {cover: (0, uses) for cover, uses in facts.advice_facts().cover_uses.items()}
        prices = {**prices, "cover_uses": counted | prices.get("cover_uses", {})}
        own = {kind: {i: {"id": i, **body} for i, body in newest.get(kind, {}).items()} for kind in KINDS}
        versions = {f"{kind}/{i}": version for (kind, i), version in numbers.items() if kind in HELD}
        recipes = {k: r.model_dump() for k, r in shipped.items()} | newest.get("recipes", {})
        methods = {k: m.model_dump() for k, m in facts.methods().items()} | newest.get("methods", {})
        told = {
            "name": shop.get("name", "A shop"), "proof_wanted": shop.get("proof_wanted", False), "methods": methods, "older": older,
            "recipes": recipes, "prices": prices, **own, "conditions": newest.get("conditions", {}), "older_conditions": older_conditions,
            "drift": newest.get("drift", {}), "media": newest.get("media", {}), "versions": versions,
            **{kind: {i: b for i, b in newest.get(kind, {}).items() if GONE not in b} for kind in COLOUR_KINDS},
        }  # fmt: skip
        try:
            read = Shop.model_validate(told)
        except ValidationError:
            read = self._without_broken(told)
        return read

    def _without_broken(self, told: dict[str, Any]) -> Shop:
        """The shop where a row cannot be read: the version before it stands in, and what has none is left out."""
        broken: list[BrokenFact] = []
        if why := _why_not(Prices, told["prices"]):
            broken.append(
                BrokenFact(kind="prices", id="prices", why=why, version=self.newest("prices", "prices"), used=None)
            )
            told["prices"] = facts.kinds().prices.model_dump(mode="json")
        for kind, model in MODELS.items():
            sound: dict[str, Any] = {}
            for fact_id, body in told[kind].items():
                why = _why_not(model, body)
                if not why:
                    sound[fact_id] = body
                    continue
                version, used = self.newest(kind, fact_id), None
                for row in self._before(kind, fact_id, version):
                    older = {"id": fact_id, **row.body} if kind in KINDS else row.body
                    if not _why_not(model, older):
                        sound[fact_id], used = older, row.version
                        break
                broken.append(BrokenFact(kind=kind, id=fact_id, why=why, version=version, used=used))
            told[kind] = sound
        for kind, model in (("older", Recipe), ("older_conditions", Condition)):
            told[kind] = {i: b for i, b in told[kind].items() if not _why_not(model, b)}
        return Shop.model_validate({**told, "broken": tuple(broken)})

    def at(self, kind: str, fact_id: str, version: int) -> Any:
        """A fact as one version of it said; None where that one is not there, or cannot be read."""
        row = self._session.get(ShopRow, (kind, fact_id, version))
        if row is None:
            return None
        try:
            return MODELS[kind].model_validate({"id": fact_id, **row.body})
        except ValidationError:
            return None

    def _before(self, kind: str, fact_id: str, version: int) -> list[ShopRow]:
        asked = select(ShopRow).where(ShopRow.kind == kind, ShopRow.id == fact_id, ShopRow.version < version)
        return list(self._session.scalars(asked.order_by(ShopRow.version.desc()).limit(50)))

    def put_back(self, kind: str, fact_id: str, version: int) -> None:
        """A version that can be read is the newest again."""
        row = self._session.get(ShopRow, (kind, fact_id, version))
        if row is not None:
            self.replace(kind, fact_id, row.body)


MODELS: dict[str, type[Frozen]] = {
    "blanks": Blank, "printers": Printer, "presses": Press, "ovens": Oven, "cutters": Cutter, "probes": Probe, "methods": Method, "recipes": Recipe, "conditions": Condition,
    "profiles": Profile, "brand_colours": BrandColour, "drift": Drift, "media": Medium,
}  # fmt: skip
"""What a row of each kind is read as."""


def _why_not(model: type[Frozen], body: Any) -> str:
    """Why a row cannot be read; empty where it can."""
    try:
        model.model_validate(body)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        return f"{'.'.join(str(p) for p in first['loc'])}: {first['msg']}"[:200]
    return ""


class ArtworkStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def put(self, file_hash: str, name: str, size_bytes: int, at: datetime) -> None:
        self._session.merge(ArtworkRow(hash=file_hash, name=name, size_bytes=size_bytes, received_at=at))

    def name_of(self, file_hash: str) -> str | None:
        row = self._session.get(ArtworkRow, file_hash)
        return row.name if row else None
