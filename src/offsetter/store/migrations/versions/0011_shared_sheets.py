"""sheets that several jobs share, and which jobs a run carries; what is left of a job says what could be laid with others"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    key = sa.String(40, collation="utf8mb4_bin")
    op.create_table(
        "run_jobs", sa.Column("run_id", key, nullable=False), sa.Column("job_id", key, nullable=False),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name=op.f("fk_run_jobs_run_id")),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_run_jobs_job_id")), sa.PrimaryKeyConstraint("run_id", "job_id", name=op.f("pk_run_jobs")),
    )  # fmt: skip
    op.create_index("ix_run_jobs_job_id", "run_jobs", ["job_id"])
    op.create_table(
        "gang_sheets", sa.Column("id", key, nullable=False), sa.Column("is_open", sa.Boolean(), nullable=False), sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("made_by", sa.String(80), nullable=False), sa.Column("changed_at", offsetter.store.types.UtcDateTime(fsp=6), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False), sa.PrimaryKeyConstraint("id", name=op.f("pk_gang_sheets")),
    )  # fmt: skip
    op.create_index("ix_gang_sheets_is_open", "gang_sheets", ["is_open"])
    # How many orders somebody has is counted in the index alone.
    op.drop_index("ix_standings_customer_due", "standings")
    op.create_index("ix_standings_customer_due", "standings", ["customer", "due", "ended_at"])
    # Worked out anew, with what could be laid, when it is next asked for.
    op.execute("UPDATE standings SET work = NULL WHERE stands IN ('open', 'held')")


def downgrade() -> None:
    op.drop_index("ix_standings_customer_due", "standings")
    op.create_index("ix_standings_customer_due", "standings", ["customer", "due"])
    op.drop_table("gang_sheets")
    op.drop_table("run_jobs")
