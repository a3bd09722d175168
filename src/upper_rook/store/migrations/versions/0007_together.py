"""A run on several devices: who is there, who holds it, and readings that are offered."""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    text = sqlmodel.sql.sqltypes.AutoString
    now = sa.text("now()")
    when = sa.DateTime(timezone=True)
    op.create_table(
        "present",
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.Column("device_id", sa.Uuid(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("who", text(), nullable=False),
        sa.Column("step", text(), nullable=False),
        sa.Column("works", sa.Boolean(), nullable=False),
        sa.Column("holds", sa.Boolean(), nullable=False),
        sa.Column("asked_at", when, nullable=True),
        sa.Column("seen_at", when, server_default=now, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"]),
        sa.ForeignKeyConstraint(["device_id"], ["device.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("job_id", "device_id"),
        # Of this moment only: nobody waits for the disk.
        prefixes=["UNLOGGED"],
    )
    op.create_table(
        "offer",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.Column("who", text(), nullable=False),
        sa.Column("reading", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("at", when, server_default=now, nullable=False),
        sa.Column("settled_at", when, nullable=True),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("offer_of_job", "offer", ["job_id", "at"])


def downgrade() -> None:
    for table in ("offer", "present"):
        op.drop_table(table)
