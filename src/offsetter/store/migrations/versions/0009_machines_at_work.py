"""machines at work: how they are reached, how they were last heard, what was done with them, what was sent to them"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    key = sa.String(40, collation="utf8mb4_bin")
    moment = offsetter.store.types.UtcDateTime(fsp=6)
    op.create_table(
        "machine_links", sa.Column("machine", key, nullable=False), sa.Column("address", sa.String(200, collation="utf8mb4_bin"), nullable=False),
        sa.Column("folder", sa.String(400, collation="utf8mb4_bin"), nullable=False), sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("changed_at", moment, nullable=False), sa.PrimaryKeyConstraint("machine", name=op.f("pk_machine_links")),
    )  # fmt: skip
    op.create_table(
        "machine_states", sa.Column("machine", key, nullable=False), sa.Column("asked_at", moment, nullable=True), sa.Column("told_at", moment, nullable=True),
        sa.Column("told", sa.JSON(none_as_null=True), nullable=True), sa.Column("problem", sa.String(300), nullable=False),
        sa.Column("totals", sa.JSON(), nullable=False), sa.Column("held", sa.JSON(none_as_null=True), nullable=True), sa.Column("last_used", moment, nullable=True), sa.Column("begun", moment, nullable=False),
        sa.PrimaryKeyConstraint("machine", name=op.f("pk_machine_states")),
    )  # fmt: skip
    op.create_table(
        "machine_acts", sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False), sa.Column("id", sa.String(60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("machine", key, nullable=False), sa.Column("kind", key, nullable=False), sa.Column("at", moment, nullable=False),
        sa.Column("actor", sa.String(80), nullable=False), sa.Column("body", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_machine_acts")), sa.UniqueConstraint("id", name=op.f("uq_machine_acts_id")),
    )  # fmt: skip
    op.create_index("ix_machine_acts_machine_kind", "machine_acts", ["machine", "kind", "at"])
    op.create_index("ix_machine_acts_machine_at", "machine_acts", ["machine", "at"])
    op.create_table(
        "sends", sa.Column("id", key, nullable=False), sa.Column("job_id", key, nullable=False), sa.Column("run_id", key, nullable=False),
        sa.Column("machine", key, nullable=False), sa.Column("name", sa.String(120, collation="utf8mb4_bin"), nullable=False),
        sa.Column("is_open", sa.Boolean(), nullable=False), sa.Column("made_at", moment, nullable=False), sa.Column("changed_at", moment, nullable=False),
        sa.Column("body", sa.JSON(), nullable=False), sa.PrimaryKeyConstraint("id", name=op.f("pk_sends")),
        sa.UniqueConstraint("name", name=op.f("uq_sends_name")), sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_sends_job_id")),
    )  # fmt: skip
    op.create_index("ix_sends_run_id", "sends", ["run_id"])
    op.create_index("ix_sends_is_open", "sends", ["is_open"])
    op.create_index("ix_sends_machine_made_at", "sends", ["machine", "made_at"])


def downgrade() -> None:
    for table in ("sends", "machine_acts", "machine_states", "machine_links"):
        op.drop_table(table)
