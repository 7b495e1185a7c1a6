import sys

from tests.conftest import ROOT


def test_the_front_ends_types_are_fresh():
    """The committed OpenAPI document is the server's: run tools/openapi.py and `npm run types` after a change."""
    sys.path.insert(0, str(ROOT / "tools"))
    from openapi import TARGET, document

    assert TARGET.read_text() == document()


def test_migrations_make_what_the_tables_say(database):
    from alembic import command
    from alembic.config import Config

    from offsetter.store.engine import migrate

    database.create("fresh")
    migrate(database.url("fresh", "owner"))
    config = Config()
    config.set_main_option("script_location", str(ROOT / "src" / "offsetter" / "store" / "migrations"))
    config.set_main_option("sqlalchemy.url", database.url("fresh", "owner"))
    command.check(config)
    database.drop("fresh")
