"""the store counts: items, what was done at the shelf, what jobs took"""

import json
from datetime import UTC, datetime
from typing import Any

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

KEY = sa.String(40, collation="utf8mb4_bin")
ITEM = sa.String(80, collation="utf8mb4_bin")


def upgrade() -> None:
    stock = op.create_table(
        "stock", sa.Column("item", ITEM, nullable=False), sa.Column("is_counted", sa.Boolean(), nullable=False),
        *(sa.Column(name, sa.Double(), nullable=False) for name in ("counted", "taken", "wanted")),
        sa.PrimaryKeyConstraint("item", name=op.f("pk_stock")),
    )  # fmt: skip
    acts = op.create_table(
        "stock_acts", sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False), sa.Column("id", KEY, nullable=False),
        sa.Column("item", ITEM, nullable=False), sa.Column("kind", KEY, nullable=False), sa.Column("amount", sa.Double(), nullable=False),
        sa.Column("change", sa.Double(), nullable=False), sa.Column("reason", sa.String(200), nullable=False), sa.Column("lot", sa.String(60), nullable=False),
        sa.Column("expires", sa.Date(), nullable=True), sa.Column("actor", sa.String(80), nullable=False),
        sa.Column("at", offsetter.store.types.UtcDateTime(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_stock_acts")), sa.UniqueConstraint("id", name=op.f("uq_stock_acts_id")),
    )  # fmt: skip
    op.create_index("ix_stock_acts_item", "stock_acts", ["item", "seq"])
    op.create_table(
        "job_stock", sa.Column("job_id", KEY, nullable=False), sa.Column("item", ITEM, nullable=False),
        sa.Column("taken", sa.Double(), nullable=False), sa.Column("wanted", sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_job_stock_job_id")),
        sa.PrimaryKeyConstraint("job_id", "item", name=op.f("pk_job_stock")),
    )  # fmt: skip
    op.create_table(
        "stock_days", sa.Column("day", sa.Date(), nullable=False), sa.Column("item", ITEM, nullable=False),
        sa.Column("taken", sa.Double(), nullable=False), sa.PrimaryKeyConstraint("day", "item", name=op.f("pk_stock_days")),
    )  # fmt: skip
    op.add_column("standings", sa.Column("is_stocked", sa.Boolean(), nullable=False, server_default=sa.text("0")))
    _carry_over(stock, acts)


def _carry_over(stock: sa.Table, acts: sa.Table) -> None:
    """What was counted in store until now, as the first act of every item."""
    connection, now = op.get_bind(), datetime.now(UTC)

    def newest(kind: str) -> dict[str, Any]:
        rows = connection.execute(
            sa.text("SELECT id, body FROM shop_facts WHERE kind = :kind ORDER BY version"), {"kind": kind}
        )
        return {i: json.loads(body) if isinstance(body, str) else body for i, body in rows}

    levels, printers = newest("levels").get("levels", {}), newest("printers")
    found: dict[str, float] = {}
    for blank, sizes in levels.get("blanks", {}).items():
        found |= {f"blank/{blank}/{size}": n for size, n in sizes.items()}
    found |= {f"sheet/{medium}": n for medium, n in levels.get("sheets", {}).items()}
    for printer, metres in levels.get("media_m", {}).items():
        rolls = [f["media"] for f in printers.get(printer, {}).get("feeds", []) if f.get("kind", "roll") == "roll"]
        found |= {f"roll/{medium}": metres for medium in rolls[:1]}
    for printer, channels in levels.get("ink_ml", {}).items():
        found |= {f"ink/{printer}/{c}": n for c, n in channels.items()}
    for number, (item, amount) in enumerate(sorted(found.items())):
        connection.execute(stock.insert().values(item=item, is_counted=True, counted=amount, taken=0.0, wanted=0.0))
        connection.execute(acts.insert().values(
            id=f"carried-over-{number}", item=item, kind="counted", amount=amount, change=amount, reason="counted before", lot="", expires=None,
            actor="", at=now,
        ))  # fmt: skip


def downgrade() -> None:
    op.drop_column("standings", "is_stocked")
    for table in ("stock_days", "job_stock", "stock_acts", "stock"):
        op.drop_table(table)
