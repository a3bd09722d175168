"""Records in the order of arrival, which installation this is, and what lists show of a job kept beside it."""

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

TEXT = sqlmodel.sql.sqltypes.AutoString
KEPT = ("reading", "mark", "capture")
JOB = ("changes", "vehicle", "note", "words", "summed_up", "stands", "summary", "archived_at", "deleted_at")


def upgrade() -> None:
    # Trusted extensions: the database's owner may create them.
    op.execute("create extension if not exists pg_trgm")
    op.execute("create sequence arrival as bigint")
    for table in KEPT:
        op.add_column(table, sa.Column("device", sa.Uuid(), nullable=True))
        op.add_column(table, sa.Column("sequence", sa.BigInteger(), nullable=True))
        op.add_column(table, sa.Column("arrival", sa.BigInteger(), nullable=True))
    op.execute(_NUMBER)
    for table in KEPT:
        op.alter_column(table, "arrival", nullable=False, server_default=sa.text("nextval('arrival')"))
        op.drop_index(f"{table}_of_job", table_name=table)
        op.create_index(f"{table}_of_job", table, ["job_id", "arrival"])
    for table in ("reading", "mark"):
        op.create_index(f"{table}_of_device", table, ["job_id", "device", "sequence"])
    op.create_table("installation", sa.Column("id", sa.Uuid(), primary_key=True))
    op.execute("insert into installation values (gen_random_uuid())")
    op.create_table(
        "sheet_format",
        sa.Column("format", sa.Integer(), primary_key=True),
        sa.Column("least_version", TEXT(), nullable=False),
    )
    op.add_column("job", sa.Column("changes", sa.BigInteger(), nullable=False, server_default="1"))
    for name in ("vehicle", "note", "words", "stands"):
        op.add_column("job", sa.Column(name, TEXT(), nullable=False, server_default=""))
    op.add_column("job", sa.Column("summed_up", sa.BigInteger(), nullable=False, server_default="0"))
    op.add_column("job", sa.Column("summary", postgresql.JSONB(astext_type=sa.Text()), nullable=True))
    for name in ("archived_at", "deleted_at"):
        op.add_column("job", sa.Column(name, sa.DateTime(timezone=True), nullable=True))
    op.execute(
        "update job set vehicle = coalesce(sheet.sheet->>'vehicle', ''), note = coalesce(sheet.sheet->>'note', '') "
        "from sheet where sheet.job_id = job.id and sheet.version = job.version"
    )
    op.execute("create index job_by_change on job (changed_at desc, id desc)")
    op.execute("create index job_words on job using gin (words gin_trgm_ops)")
    op.execute("create index job_not_summed_up on job (changed_at) where summed_up <> changes")


def downgrade() -> None:
    for index in ("job_not_summed_up", "job_words", "job_by_change"):
        op.drop_index(index, table_name="job")
    for name in JOB:
        op.drop_column("job", name)
    op.drop_table("sheet_format")
    op.drop_table("installation")
    for table in ("reading", "mark"):
        op.drop_index(f"{table}_of_device", table_name=table)
    for table in KEPT:
        op.drop_index(f"{table}_of_job", table_name=table)
        op.create_index(f"{table}_of_job", table, ["job_id", "taken_at"])
        for name in ("arrival", "sequence", "device"):
            op.drop_column(table, name)
    op.execute("drop sequence arrival")
    op.execute("drop extension pg_trgm")


# When the server kept it is the nearest to when it came; within one moment the device's clock decides.
_NUMBER = """
with all_kept as (
    select id, saved_at, taken_at from reading
    union all select id, saved_at, taken_at from mark
    union all select id, saved_at, taken_at from capture
), numbered as (
    select id, nextval('arrival') as number from (select id from all_kept order by saved_at, taken_at, id) as sorted
), r as (update reading set arrival = number from numbered where numbered.id = reading.id),
m as (update mark set arrival = number from numbered where numbered.id = mark.id)
update capture set arrival = number from numbered where numbered.id = capture.id
"""
