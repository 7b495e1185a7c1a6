"""day notes: hours, who is away, what is pinned, the order of the plan last shown; a job's standing says what is left to do"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "day_notes", sa.Column("name", sa.String(40, collation="utf8mb4_bin"), nullable=False), sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("changed_at", offsetter.store.types.UtcDateTime(fsp=6), nullable=False), sa.PrimaryKeyConstraint("name", name=op.f("pk_day_notes")),
    )  # fmt: skip
    op.add_column("standings", sa.Column("work", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("standings", "work")
    op.drop_table("day_notes")
