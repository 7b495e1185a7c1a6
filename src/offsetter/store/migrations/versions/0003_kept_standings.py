"""kept standings, logbook entries, lots and counted sheets; what an act is about; the edition of the shop's facts"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

KEY = sa.String(length=40, collation="utf8mb4_bin")
TIME = offsetter.store.types.UtcDateTime(fsp=6)
ABOUT = {"set-up": "press", "renewed": "press", "pressed": "press", "fetched": "stored", "voided": "voids"}


def upgrade() -> None:
    op.create_table(
        "standings",
        sa.Column("job_id", KEY, nullable=False),
        sa.Column("changes", sa.Integer(), nullable=False),
        sa.Column("edition", sa.Integer(), nullable=False),
        sa.Column("stands", KEY, nullable=False),
        sa.Column("due", TIME, nullable=False),
        sa.Column("ended_at", TIME, nullable=True),
        sa.Column("needs_person", sa.Boolean(), nullable=False),
        sa.Column("spoil_tried", sa.Integer(), nullable=False),
        sa.Column("spoil_spoiled", sa.Integer(), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("scene", sa.JSON(none_as_null=True), nullable=True),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_standings_job_id")),
        sa.PrimaryKeyConstraint("job_id", name=op.f("pk_standings")),
    )
    op.create_index("ix_standings_stands_due", "standings", ["stands", "due"])
    op.create_index("ix_standings_ended_at", "standings", ["ended_at"])
    op.create_table(
        "job_words",
        sa.Column("word", KEY, nullable=False),
        sa.Column("job_id", KEY, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_job_words_job_id")),
        sa.PrimaryKeyConstraint("word", "job_id", name=op.f("pk_job_words")),
    )
    op.create_index("ix_job_words_job_id", "job_words", ["job_id"])
    op.create_table(
        "logbook",
        sa.Column("job_id", KEY, nullable=False),
        sa.Column("closed_at", TIME, nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("scene", sa.JSON(none_as_null=True), nullable=True),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_logbook_job_id")),
        sa.PrimaryKeyConstraint("job_id", name=op.f("pk_logbook")),
    )
    op.create_index("ix_logbook_closed_at", "logbook", ["closed_at"])
    op.create_table(
        "lots",
        sa.Column("id", KEY, nullable=False),
        sa.Column("job_id", KEY, nullable=False),
        sa.Column("run_id", KEY, nullable=False),
        sa.Column("signature", KEY, nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("left", sa.Integer(), nullable=False),
        sa.Column("note", sa.String(length=200), nullable=False),
        sa.Column("stored_at", TIME, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_lots_job_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_lots")),
    )
    op.create_index("ix_lots_left", "lots", ["left"])
    op.create_index("ix_lots_signature", "lots", ["signature"])
    op.create_table(
        "counted_sheets",
        sa.Column("press", KEY, nullable=False),
        sa.Column("cover", sa.String(length=60, collation="utf8mb4_bin"), nullable=False),
        sa.Column("since", TIME, nullable=True),
        sa.Column("used", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("press", "cover", name=op.f("pk_counted_sheets")),
    )
    op.create_table(
        "counters",
        sa.Column("name", KEY, nullable=False),
        sa.Column("value", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_counters")),
    )
    op.add_column("acts", sa.Column("about", KEY, nullable=True))
    for kind, field in ABOUT.items():
        op.execute(f"UPDATE acts SET about = NULLIF(JSON_VALUE(body, '$.{field}'), '') WHERE kind = '{kind}'")
    op.create_index("ix_acts_about", "acts", ["about", "kind"])


def downgrade() -> None:
    op.drop_index("ix_acts_about", table_name="acts")
    op.drop_column("acts", "about")
    for table in ("counters", "counted_sheets", "lots", "logbook", "job_words", "standings"):
        op.drop_table(table)
