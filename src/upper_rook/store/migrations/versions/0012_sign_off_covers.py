"""Words of a sign-off about what it covers; they stay as they were."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sign_off", sa.Column("covers", sa.String(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("sign_off", "covers")
