"""who made a version of a fact, and when; which screen leads a press"""

import sqlalchemy as sa
from alembic import op

import offsetter.store.types

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("shop_facts", sa.Column("author", sa.String(length=80), nullable=False, server_default=sa.text("''")))
    op.add_column("shop_facts", sa.Column("made_at", offsetter.store.types.UtcDateTime(fsp=6), nullable=True))
    op.add_column(
        "press_sessions", sa.Column("screen", sa.String(length=120), nullable=False, server_default=sa.text("''"))
    )


def downgrade() -> None:
    op.drop_column("press_sessions", "screen")
    op.drop_column("shop_facts", "made_at")
    op.drop_column("shop_facts", "author")
