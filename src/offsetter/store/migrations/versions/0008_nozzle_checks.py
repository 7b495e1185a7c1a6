"""nozzle checks: what scans of nozzle sheets showed, and cleanings"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    key = sa.String(40, collation="utf8mb4_bin")
    op.create_table(
        "nozzle_checks", sa.Column("id", key, nullable=False), sa.Column("printer", key, nullable=False),
        sa.Column("at", offsetter.store.types.UtcDateTime(fsp=6), nullable=False), sa.Column("body", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_nozzle_checks")),
    )  # fmt: skip
    op.create_index("ix_nozzle_checks_printer_at", "nozzle_checks", ["printer", "at"])


def downgrade() -> None:
    op.drop_table("nozzle_checks")
