"""Customers and the stays of their vehicles, the day a job is due, and customers who were taken out."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "customer",
        sa.Column("job_id", sa.Uuid(), sa.ForeignKey("job.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("customer", JSONB(), nullable=False),
        sa.Column("words", sa.String(), nullable=False),
        sa.Column("by", sa.String(), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index(
        "customer_words", "customer", ["words"], postgresql_using="gin", postgresql_ops={"words": "gin_trgm_ops"}
    )
    op.create_table(
        "customer_taken_out",
        sa.Column("job_id", sa.Uuid(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.add_column("job", sa.Column("due_on", sa.Date(), nullable=True))
    op.create_index("job_due", "job", ["due_on"], postgresql_where=sa.text("due_on is not null"))


def downgrade() -> None:
    op.drop_index("job_due", "job")
    op.drop_column("job", "due_on")
    op.drop_table("customer_taken_out")
    op.drop_table("customer")
