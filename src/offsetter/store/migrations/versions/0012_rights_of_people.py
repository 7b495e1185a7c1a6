"""rights that a technician is given besides: prices, customers' colours"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("users", sa.Column("rights", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("users", "rights")
