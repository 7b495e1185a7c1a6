"""what was measured on a job's pixels, kept with where it stands; jobs without it are measured at their next change"""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("standings", sa.Column("measured", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("standings", "measured")
