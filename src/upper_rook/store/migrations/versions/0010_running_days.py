"""The days on which the app ran, by which the bin counts, and the archives that were taken in, by their sendings."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table("running_day", sa.Column("day", sa.Date(), nullable=False), sa.PrimaryKeyConstraint("day"))
    op.create_table(
        "taken_in",
        sa.Column("sending", sa.Uuid(), nullable=False),
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("sending"),
    )


def downgrade() -> None:
    for table in ("taken_in", "running_day"):
        op.drop_table(table)
