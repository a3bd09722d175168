"""The reading at hand of each device at a run, so that a display plays that one's tone."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("present", sa.Column("row", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("present", "row")
