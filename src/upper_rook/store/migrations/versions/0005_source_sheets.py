"""The shop's library of source sheets."""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    text = sqlmodel.sql.sqltypes.AutoString
    now = sa.text("now()")
    op.create_table(
        "source_sheet",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("sheet", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("name", text(), nullable=False),
        sa.Column("kind", text(), nullable=False),
        sa.Column("words", text(), nullable=False),
        sa.Column("least_v", sa.Float(), nullable=True),
        sa.Column("most_v", sa.Float(), nullable=True),
        sa.Column("units", sa.Integer(), nullable=False),
        sa.Column("measured_on", sa.Date(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.execute("create index source_sheet_by_change on source_sheet (changed_at desc, id desc)")
    op.execute("create index source_sheet_words on source_sheet using gin (words gin_trgm_ops)")


def downgrade() -> None:
    op.drop_table("source_sheet")
