"""When somebody proved who they are and last touched their device; from which file, when and by whom a job came."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    now = sa.text("now()")
    for name in ("proved_at", "touched_at"):
        op.add_column("signed_in", sa.Column(name, sa.DateTime(timezone=True), nullable=False, server_default=now))
    op.add_column("taken_in", sa.Column("at", sa.DateTime(timezone=True), nullable=False, server_default=now))
    op.add_column("taken_in", sa.Column("by", sa.String(), nullable=False, server_default=""))
    op.add_column("taken_in", sa.Column("records", sa.BigInteger(), nullable=False, server_default="0"))
    op.add_column("taken_in", sa.Column("versions", sa.Integer(), nullable=False, server_default="0"))
    op.create_index("ix_taken_in_job_id", "taken_in", ["job_id"])


def downgrade() -> None:
    op.drop_index("ix_taken_in_job_id", table_name="taken_in")
    for name in ("versions", "records", "by", "at"):
        op.drop_column("taken_in", name)
    for name in ("touched_at", "proved_at"):
        op.drop_column("signed_in", name)
