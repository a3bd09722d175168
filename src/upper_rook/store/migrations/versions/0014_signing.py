"""Keys that archives are signed with, and who signed an archive that was brought in."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "signing_key",
        sa.Column("public", sa.LargeBinary(), primary_key=True),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
    )
    op.create_table(
        "signing_secret",
        sa.Column(
            "public", sa.LargeBinary(), sa.ForeignKey("signing_key.public", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("private", sa.LargeBinary(), nullable=False),
    )
    op.add_column("taken_in", sa.Column("signer", sa.LargeBinary(), nullable=True))


def downgrade() -> None:
    op.drop_column("taken_in", "signer")
    op.drop_table("signing_secret")
    op.drop_table("signing_key")
