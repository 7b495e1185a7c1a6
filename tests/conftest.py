"""A throwaway MariaDB for the run, one database a worker, and the shop of the demo."""

import os
import shutil
import sys
import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from argon2 import PasswordHasher

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "tools")]

from database import Database  # noqa: E402
from demo.shop import TOLD, rows  # noqa: E402
from sqlalchemy.orm import Session  # noqa: E402

from offsetter.core import facts  # noqa: E402
from offsetter.core.facts import Levels, Shop  # noqa: E402
from offsetter.core.stock import StockAct, levels_of  # noqa: E402
from offsetter.desk import people  # noqa: E402
from offsetter.store.engine import engine_for, grant, migrate  # noqa: E402
from offsetter.store.shop import ShopStore  # noqa: E402
from offsetter.store.stock import StockStore  # noqa: E402


@pytest.fixture(scope="session", autouse=True)
def quick_passwords() -> Iterator[None]:
    """A hash is slow on purpose, and tests make hundreds; tests/web/test_people.py looks at what a shop's are made with."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(people, "_HASHER", PasswordHasher(time_cost=1, memory_cost=64, parallelism=1))
        yield


@pytest.fixture(scope="session")
def database() -> Iterator[Database]:
    # Memory where there is some: nothing of a test needs to outlive it.
    base = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
    folder = Path(tempfile.mkdtemp(prefix="offsetter-test-", dir=base))
    made = Database(folder, throwaway=True)
    made.start()
    yield made
    made.stop()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def shop_rows() -> dict:
    return rows()


def stocked(database: Database, name: str, shop_rows: dict) -> str:
    """A migrated database holding the demo's shop, opened as the application's own user."""
    database.create(name)
    migrate(database.url(name, "owner"))
    grant(database.url(name, "owner"), "app")
    engine = engine_for(database.url(name))
    with Session(engine) as session, session.begin():
        for kind, rows in shop_rows.items():
            for fact_id, body in rows.items():
                ShopStore(session).put(kind, fact_id, body)
        for number, (item, amount) in enumerate(TOLD["stock"].items() if shop_rows else ()):
            # Of blanks so many that tests which press them do not empty the shelf under each other.
            plenty = 100_000 if item.startswith(("blank/", "ink/")) else 0
            act = StockAct(id=f"counted-{number}", item=item, kind="counted", amount=amount + plenty)
            StockStore(session).record(act, "Ada", datetime.now(UTC))
    engine.dispose()
    return database.url(name)


@pytest.fixture(scope="session")
def app_url(database: Database, shop_rows: dict) -> str:
    return stocked(database, "shop", shop_rows)


@pytest.fixture(scope="session")
def browser_url(database: Database, shop_rows: dict) -> str:
    """A shop of its own for the browser's server: it keeps its files in another folder."""
    return stocked(database, "browser", shop_rows)


@pytest.fixture(scope="session")
def shop(shop_rows: dict) -> Shop:
    """The demo's shop without a database."""
    own = {
        k: {i: {"id": i, **b} for i, b in shop_rows[k].items()}
        for k in ("blanks", "printers", "presses", "ovens", "cutters")
    }
    return Shop.model_validate({
        "name": "Test", "methods": {k: m.model_dump() for k, m in facts.methods().items()},
        "recipes": {k: r.model_dump() for k, r in facts.recipes().items()}, "prices": shop_rows["prices"]["prices"], **own,
    })  # fmt: skip


@pytest.fixture(scope="session")
def levels(shop: Shop) -> Levels:
    return levels_of(TOLD["stock"], shop)


@pytest.fixture(scope="session")
def art_folder() -> Path:
    return ROOT / "demo" / "artwork"
