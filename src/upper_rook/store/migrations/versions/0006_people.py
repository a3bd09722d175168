"""People, their devices and sessions, what was tried at the door, and who signed a job off."""

from typing import Any

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_NOW = sa.text("now()")
_WHEN = sa.DateTime(timezone=True)
_TEXT = sqlmodel.sql.sqltypes.AutoString


def upgrade() -> None:
    op.create_table(
        "person",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", _TEXT(), nullable=False),
        sa.Column("folded", _TEXT(), nullable=False),
        sa.Column("role", _TEXT(), nullable=False),
        sa.Column("created_at", _WHEN, server_default=_NOW, nullable=False),
        sa.Column("gone_at", _WHEN, nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    # Who is gone leaves the name to be taken again.
    op.execute("create unique index person_name on person (folded) where gone_at is null")
    op.create_table(
        "device",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("token", sa.LargeBinary(), nullable=False),
        sa.Column("name", _TEXT(), nullable=False),
        sa.Column("locks_after_min", sa.Integer(), nullable=True),
        sa.Column("paired_at", _WHEN, server_default=_NOW, nullable=False),
        sa.Column("seen_at", _WHEN, server_default=_NOW, nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("token"),
    )
    _keys()
    _ways_in()
    op.create_table(
        "sign_off",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.Column("by", _TEXT(), nullable=False),
        sa.Column("changes", sa.BigInteger(), nullable=False),
        sa.Column("note", _TEXT(), nullable=False),
        sa.Column("at", _WHEN, server_default=_NOW, nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["job.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("sign_off_of_job", "sign_off", ["job_id", "at"])


def _of_person(*, nullable: bool = False) -> tuple[sa.Column[Any], sa.ForeignKeyConstraint]:
    whose = sa.Column("person_id", sa.Uuid(), nullable=nullable)
    return whose, sa.ForeignKeyConstraint(["person_id"], ["person.id"], ondelete="CASCADE")


def _of_device() -> tuple[sa.Column[Any], sa.ForeignKeyConstraint]:
    where = sa.Column("device_id", sa.Uuid(), nullable=False)
    return where, sa.ForeignKeyConstraint(["device_id"], ["device.id"], ondelete="CASCADE")


def _keys() -> None:
    """Tables of credentials."""
    op.create_table(
        "password", *_of_person(), sa.Column("hash", _TEXT(), nullable=False), sa.PrimaryKeyConstraint("person_id")
    )
    op.create_table(
        "passkey",
        sa.Column("id", sa.LargeBinary(), nullable=False),
        *_of_person(),
        sa.Column("public_key", sa.LargeBinary(), nullable=False),
        sa.Column("uses", sa.BigInteger(), nullable=False),
        sa.Column("name", _TEXT(), nullable=False),
        sa.Column("created_at", _WHEN, server_default=_NOW, nullable=False),
        sa.Column("used_at", _WHEN, nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_passkey_person_id", "passkey", ["person_id"])
    op.create_table(
        "challenge",
        sa.Column("challenge", sa.LargeBinary(), nullable=False),
        *_of_device(),
        *_of_person(nullable=True),
        sa.Column("ends_at", _WHEN, nullable=False),
        sa.PrimaryKeyConstraint("challenge"),
    )
    op.create_table(
        "pin",
        *_of_person(),
        *_of_device(),
        sa.Column("hash", _TEXT(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("person_id", "device_id"),
    )


def _ways_in() -> None:
    """Links, sessions and failures."""
    op.create_table(
        "link",
        sa.Column("token", sa.LargeBinary(), nullable=False),
        sa.Column("role", _TEXT(), nullable=True),
        *_of_person(nullable=True),
        sa.Column("ends_at", _WHEN, nullable=False),
        sa.Column("used_at", _WHEN, nullable=True),
        sa.PrimaryKeyConstraint("token"),
    )
    op.create_table(
        "signed_in",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("token", sa.LargeBinary(), nullable=False),
        sa.Column("former", sa.LargeBinary(), nullable=True),
        *_of_person(),
        *_of_device(),
        sa.Column("began_at", _WHEN, server_default=_NOW, nullable=False),
        sa.Column("renewed_at", _WHEN, server_default=_NOW, nullable=False),
        sa.Column("seen_at", _WHEN, server_default=_NOW, nullable=False),
        sa.Column("locked_at", _WHEN, nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("token"),
    )
    for column in ("former", "person_id", "device_id"):
        op.create_index(f"ix_signed_in_{column}", "signed_in", [column])
    op.create_table(
        "knock",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("what", _TEXT(), nullable=False),
        sa.Column("at", _WHEN, server_default=_NOW, nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("knock_what", "knock", ["what", "at"])


def downgrade() -> None:
    tables = ("sign_off", "knock", "signed_in", "link", "pin", "challenge", "passkey", "password", "device", "person")
    for table in tables:
        op.drop_table(table)
