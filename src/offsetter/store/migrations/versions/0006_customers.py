"""customers: known by an id, with what is kept of them; a job's standing says whose it is"""

import secrets
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

KEY = sa.String(80, collation="utf8mb4_bin")


def upgrade() -> None:
    customers = op.create_table(
        "customers", sa.Column("id", sa.String(40, collation="utf8mb4_bin"), nullable=False), sa.Column("key", KEY, nullable=False),
        sa.Column("name", sa.String(80), nullable=False), sa.Column("contact", sa.String(400), nullable=False), sa.Column("notes", sa.String(2000), nullable=False),
        sa.Column("made_at", offsetter.store.types.UtcDateTime(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_customers")), sa.UniqueConstraint("key", name=op.f("uq_customers_key")),
    )  # fmt: skip
    op.add_column("standings", sa.Column("customer", KEY, nullable=False, server_default=sa.text("''")))
    op.create_index("ix_standings_customer_due", "standings", ["customer", "due"])
    connection, now = op.get_bind(), datetime.now(UTC)
    connection.execute(sa.text("UPDATE standings SET customer = LEFT(LOWER(TRIM(JSON_VALUE(body, '$.customer'))), 80)"))
    named = connection.execute(
        sa.text(
            "SELECT customer, MIN(JSON_VALUE(body, '$.customer')) FROM standings WHERE customer <> '' GROUP BY customer"
        )
    )
    for key, name in list(named):
        connection.execute(
            customers.insert().values(
                id=secrets.token_hex(6), key=key, name=str(name).strip()[:80], contact="", notes="", made_at=now
            )
        )


def downgrade() -> None:
    op.drop_index("ix_standings_customer_due", "standings")
    op.drop_column("standings", "customer")
    op.drop_table("customers")
