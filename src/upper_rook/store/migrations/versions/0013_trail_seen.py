"""How far a person has seen the acts that opened a way in."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "trail_seen",
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("person.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.BigInteger(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("trail_seen")
