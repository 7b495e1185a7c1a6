"""people, sessions, the press's live session, acts by kind"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

KEY = sa.String(length=40, collation="utf8mb4_bin")
TIME = offsetter.store.types.UtcDateTime(fsp=6)


def upgrade() -> None:
    op.create_table(
        "users",
        sa.Column("id", KEY, nullable=False),
        sa.Column("name", sa.String(length=80, collation="utf8mb4_bin"), nullable=False),
        sa.Column("role", KEY, nullable=False),
        sa.Column("password_hash", sa.String(length=160), nullable=False),
        sa.Column("pin_hash", sa.String(length=160), nullable=False),
        sa.Column("is_active", sa.Boolean(), nullable=False),
        sa.Column("liking", sa.JSON(), nullable=False),
        sa.Column("created_at", TIME, nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_users")),
        sa.UniqueConstraint("name", name=op.f("uq_users_name")),
    )
    op.create_table(
        "sessions",
        sa.Column("token_hash", sa.String(length=64, collation="utf8mb4_bin"), nullable=False),
        sa.Column("id", KEY, nullable=False),
        sa.Column("user_id", KEY, nullable=False),
        sa.Column("device", sa.String(length=120), nullable=False),
        sa.Column("created_at", TIME, nullable=False),
        sa.Column("seen_at", TIME, nullable=False),
        sa.Column("ended_at", TIME, nullable=True),
        sa.ForeignKeyConstraint(["user_id"], ["users.id"], name=op.f("fk_sessions_user_id")),
        sa.PrimaryKeyConstraint("token_hash", name=op.f("pk_sessions")),
    )
    op.create_index("ix_sessions_user_id", "sessions", ["user_id"])
    op.create_table(
        "sign_in_tries",
        sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("key", sa.String(length=120, collation="utf8mb4_bin"), nullable=False),
        sa.Column("at", TIME, nullable=False),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_sign_in_tries")),
    )
    op.create_index("ix_sign_in_tries_key", "sign_in_tries", ["key"])
    op.create_table(
        "press_sessions",
        sa.Column("press", KEY, nullable=False),
        sa.Column("job_id", KEY, nullable=False),
        sa.Column("print_id", KEY, nullable=False),
        sa.Column("holder", KEY, nullable=False),
        sa.Column("person", sa.String(length=80), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("state", sa.JSON(), nullable=False),
        sa.Column("seen_at", TIME, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_press_sessions_job_id")),
        sa.PrimaryKeyConstraint("press", name=op.f("pk_press_sessions")),
    )
    op.add_column("acts", sa.Column("kind", KEY, nullable=False))
    op.execute("UPDATE acts SET kind = JSON_VALUE(body, '$.kind')")
    op.create_index("ix_acts_kind", "acts", ["kind"])


def downgrade() -> None:
    op.drop_index("ix_acts_kind", table_name="acts")
    op.drop_column("acts", "kind")
    op.drop_table("press_sessions")
    op.drop_index("ix_sign_in_tries_key", table_name="sign_in_tries")
    op.drop_table("sign_in_tries")
    op.drop_index("ix_sessions_user_id", table_name="sessions")
    op.drop_table("sessions")
    op.drop_table("users")
