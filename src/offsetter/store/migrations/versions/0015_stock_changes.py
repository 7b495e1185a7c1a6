"""every item of the store counts its changes: a look knows by their sum that nothing moved"""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("stock", sa.Column("changes", sa.Integer(), nullable=False, server_default="1"))


def downgrade() -> None:
    op.drop_column("stock", "changes")
