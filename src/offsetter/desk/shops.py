"""The shop's facts as they are today, and as a job sees them that was decided earlier."""

import json
from collections.abc import Iterable
from typing import TypeVar

from sqlalchemy.orm import Session

from offsetter.core import facts as shipped
from offsetter.core.decisions import Decision, OrderDoc, Way
from offsetter.core.facts import Levels, Profile, Shop
from offsetter.core.held_facts import HELD, MACHINES_HELD, held_shop, pinned_by, pins_of
from offsetter.core.stock import levels_of
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.intake.icc import read_profile
from offsetter.store.newest import Newest, newest_in
from offsetter.store.shop import ShopStore
from offsetter.store.stock import StockStore

Document = TypeVar("Document", bound=Decision)


class Shops:
    def __init__(self, base: Base) -> None:
        self._base = base
        # An original like any other: a worker finds it by its hash.
        self.profile = base.files.keep(shipped.profile_bytes())
        self._own_profile = Profile.model_validate(
            {**read_profile(shipped.profile_bytes(), "film.icc"), "id": self.profile}
        )
        self._known: Bounded[Shop] = Bounded(2)
        self._levels: Bounded[Levels] = Bounded(2)
        self._as_decided: Bounded[tuple[Shop, Shop]] = Bounded(64)

    def today(self) -> tuple[Shop, Levels]:
        with self._base.session() as session:
            return self.today_in(session)[1]

    def today_in(self, session: Session) -> tuple[int, tuple[Shop, Levels]]:
        """The same in a transaction of the caller's, with the number of the facts and shelves that were read."""
        number, turns = ShopStore(session).editions()
        found = self._edition(session, number)
        return number + turns, (found, levels_of(StockStore(session).on_hand(), found))

    def _edition(self, session: Session, number: int) -> Shop:
        found = self._known.get(str(number))
        if found is None:
            shop = ShopStore(session).read()
            ours = {self.profile: self._own_profile, **shop.profiles}
            found = self._known[str(number)] = shop.model_copy(update={"ink_profile": self.profile, "profiles": ours})
        return found

    def edition(self) -> int:
        """Of the shop's facts and of what its shelves hold: another one may change where open jobs stand."""
        with self._base.session() as session:
            return sum(ShopStore(session).editions())

    def with_what_is_held(self) -> tuple[Shop, Levels]:
        """With what the machines say that they hold: looked at, and never kept with where a job stands."""
        with self._base.session() as session:
            return self.as_read(session, newest_in(session))

    def as_read(self, session: Session, newest: Newest) -> tuple[Shop, Levels]:
        """The same from what was read with a job, by who has changed nothing yet."""
        shop = self._edition(session, newest.facts)
        key = f"{newest.facts} {newest.shelves}"
        found = self._levels.get(key)
        if found is None:
            found = self._levels[key] = levels_of(StockStore(session).on_hand(), shop)
        return shop, found.model_copy(update={"held": newest.held})

    def for_job(self, shop: Shop, order: OrderDoc, ways: Iterable[Way | None]) -> Shop:
        """The shop as a job sees it: what its documents pin measures what it did then. Of two prints that pin a machine differently,
        the newer one holds."""
        pins = {f"blanks/{i}": v for i, v in order.pins.items()}
        for way in filter(None, ways):
            for fact_id, version in way.pins.items():
                key = next((k for s in MACHINES_HELD if (k := f"{s}/{fact_id}") in shop.versions), "")
                pins[key] = max(version, pins.get(key, 0))
        older = {key: v for key, v in pins.items() if v < shop.versions.get(key, 0)}
        if not older:
            return shop
        name = json.dumps(older, sort_keys=True)
        known = self._as_decided.get(name)
        # One object until a fact of the shop changes: what is worked out once for a shop is found again.
        if known is None or known[0] is not shop:
            known = self._as_decided[name] = shop, self._held_shop(shop, older)
        return known[1]

    def _held_shop(self, shop: Shop, older: dict[str, int]) -> Shop:
        with self._base.session() as session:
            store = ShopStore(session)
            named = [
                (sort, key.split("/")[1], v) for key, v in older.items() for sort in HELD if key.startswith(f"{sort}/")
            ]
            then = [(sort, store.at(sort, i, v), v) for sort, i, v in named if i in getattr(shop, sort)]
        return held_shop(shop, [(sort, fact, v) for sort, fact, v in then if fact is not None])


def pinned(document: Document, shop: Shop) -> Document:
    """A document with the version of everything that it names. shop: as it is today."""
    if isinstance(document, OrderDoc):
        pins = pins_of((ln.blank for ln in document.lines), ("blanks",), shop, document.pins)
    elif isinstance(document, Way):
        pins = pinned_by(document, shop)
    else:
        return document
    return document.model_copy(update={"pins": pins})
