from alembic import context
from sqlalchemy import create_engine

from offsetter.store.tables import Base

engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "")
with engine.connect() as connection:
    context.configure(
        connection=connection, target_metadata=Base.metadata, compare_type=True, compare_server_default=True
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
