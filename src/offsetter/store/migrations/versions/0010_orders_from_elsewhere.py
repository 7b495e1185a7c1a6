"""orders from elsewhere: programs that may bring them, and which job each became"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    key = sa.String(40, collation="utf8mb4_bin")
    moment = offsetter.store.types.UtcDateTime(fsp=6)
    op.create_table(
        "tokens", sa.Column("id", key, nullable=False), sa.Column("name", sa.String(60), nullable=False),
        sa.Column("token_hash", sa.String(64, collation="utf8mb4_bin"), nullable=False), sa.Column("rights", sa.JSON(), nullable=False),
        sa.Column("made_by", sa.String(80), nullable=False), sa.Column("made_at", moment, nullable=False), sa.Column("used_at", moment, nullable=True),
        sa.Column("ended_at", moment, nullable=True), sa.PrimaryKeyConstraint("id", name=op.f("pk_tokens")),
        sa.UniqueConstraint("token_hash", name=op.f("uq_tokens_token_hash")),
    )  # fmt: skip
    op.create_table(
        "brought_orders", sa.Column("job_id", key, nullable=False), sa.Column("source", key, nullable=False),
        sa.Column("reference", sa.String(80, collation="utf8mb4_bin"), nullable=False), sa.PrimaryKeyConstraint("job_id", name=op.f("pk_brought_orders")),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_brought_orders_job_id")),
        sa.UniqueConstraint("source", "reference", name=op.f("uq_brought_orders_source")),
    )  # fmt: skip


def downgrade() -> None:
    op.drop_table("brought_orders")
    op.drop_table("tokens")
