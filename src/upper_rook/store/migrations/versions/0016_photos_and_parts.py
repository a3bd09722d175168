"""Photos of a job, with their files, and the parts of the shop."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "photo",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("job_id", sa.Uuid(), sa.ForeignKey("job.id"), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=True),
        sa.Column("step", sa.String(), nullable=True),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("small_digest", sa.String(), nullable=False),
        sa.Column("sent_digest", sa.String(), nullable=False),
        sa.Column("drawn", JSONB(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.String(), nullable=False),
        sa.Column("device", sa.Uuid(), nullable=True),
        sa.Column("sequence", sa.BigInteger(), nullable=True),
        sa.Column("arrival", sa.BigInteger(), server_default=sa.text("nextval('arrival')"), nullable=False),
        sa.Column("saved_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("photo_of_job", "photo", ["job_id", "arrival"])
    op.create_table(
        "photo_file",
        sa.Column("photo_id", sa.Uuid(), sa.ForeignKey("photo.id"), primary_key=True),
        sa.Column("full", sa.LargeBinary(), nullable=False),
        sa.Column("small", sa.LargeBinary(), nullable=False),
    )
    now = sa.text("now()")
    op.create_table(
        "shop_part",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("sheet", JSONB(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("units", sa.Integer(), nullable=False),
        sa.Column("measured_on", sa.Date(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
    )
    op.execute("create index shop_part_by_change on shop_part (changed_at desc, id desc)")
    op.execute("create index shop_part_words on shop_part using gin (words gin_trgm_ops)")


def downgrade() -> None:
    op.drop_table("shop_part")
    op.drop_table("photo_file")
    op.drop_table("photo")
