"""Captures and their files."""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    text = sqlmodel.sql.sqltypes.AutoString
    op.create_table(
        "capture",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.Column("name", text(), nullable=False),
        sa.Column("kind", text(), nullable=False),
        sa.Column("headline", text(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("digest", text(), nullable=False),
        sa.Column("full_scale_v", sa.Float(), nullable=True),
        sa.Column("expect_hz", sa.Float(), nullable=True),
        sa.Column("examination", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("reading_id", sa.Uuid(), nullable=True),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", text(), nullable=False),
        sa.Column("struck", text(), nullable=True),
        sa.Column("saved_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"]),
        sa.ForeignKeyConstraint(["reading_id"], ["reading.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("capture_of_job", "capture", ["job_id", "taken_at"], unique=False)
    op.create_table(
        "capture_part",
        sa.Column("capture_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(["capture_id"], ["capture.id"]),
        sa.PrimaryKeyConstraint("capture_id", "number"),
    )


def downgrade() -> None:
    op.drop_table("capture_part")
    op.drop_index("capture_of_job", table_name="capture")
    op.drop_table("capture")
