"""long work as rows: every process of the shop follows and stops it"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "long_work",
        sa.Column("work", sa.String(255, collation="utf8mb4_bin"), nullable=False),
        sa.Column("task", sa.String(40, collation="utf8mb4_bin"), nullable=False),
        sa.Column("owner", sa.String(80, collation="utf8mb4_bin"), nullable=False),
        sa.Column("is_open", sa.Boolean(), nullable=False),
        sa.Column("is_stopping", sa.Boolean(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("alive_at", offsetter.store.types.UtcDateTime(fsp=6), nullable=False),
        sa.Column("arguments", sa.JSON(), nullable=False),
        sa.Column("events", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("work", name=op.f("pk_long_work")),
    )
    op.create_index("ix_long_work_is_open_alive_at", "long_work", ["is_open", "alive_at"])


def downgrade() -> None:
    op.drop_table("long_work")
