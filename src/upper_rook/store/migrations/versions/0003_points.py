"""Readings by point and circumstances; steps by the ids of their parts, uncut."""

from typing import Any

import sqlalchemy as sa
import sqlmodel.sql.sqltypes
from alembic import op
from sqlalchemy.dialects import postgresql

from upper_rook.core.run.readings.older_records import present_step

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

JSONB = postgresql.JSONB(astext_type=sa.Text())
TEXT = sqlmodel.sql.sqltypes.AutoString
GAIN_AT = {"bridged": "bridge", "strapped": "own"}


def upgrade() -> None:
    for name, kind in (
        ("quantity", TEXT()),
        ("value", sa.Float()),
        ("uncertainty", sa.Float()),
        ("point", JSONB),
        ("circumstances", JSONB),
        ("evidence", TEXT()),
        ("builds_on", JSONB),
    ):
        op.add_column("reading", sa.Column(name, kind, nullable=True))
    bind = op.get_bind()
    bind.execute(sa.text(_BUILDS_ON))
    bind.execute(
        sa.text(
            "update reading set quantity = 'ac_volts', value = voltage_v, uncertainty = uncertainty_v, "
            "circumstances = jsonb_build_object('volume', volume, 'tone', tone)"
        )
    )
    for table in ("reading", "mark"):
        for job_id, version, step, chain in bind.execute(sa.text(_STEPS.format(table=table))).all():
            _move(bind, table, (job_id, version, step), chain)
    for name in ("quantity", "value", "point", "circumstances"):
        op.alter_column("reading", name, nullable=False)
    for name in ("voltage_v", "uncertainty_v", "volume", "tone", "settings"):
        op.drop_column("reading", name)


def _move(bind: sa.Connection, table: str, where: tuple[Any, int, str], chain: dict[str, Any]) -> None:
    job_id, version, step = where
    now = present_step(step, chain)
    values = {"job": job_id, "version": version, "step": step, "now": now}
    also = ""
    if table == "reading":
        also = ", point = :point"
        values["point"] = _point(now, chain)
    bind.execute(
        sa.text(
            f"update {table} set step = :now{also} where job_id = :job and sheet_version = :version and step = :step"
        ).bindparams(*([sa.bindparam("point", type_=JSONB)] if also else [])),
        values,
    )


def _point(step: str, chain: dict[str, Any]) -> dict[str, Any]:
    kind, _, rest = step.partition(".")
    if kind == "ceiling":
        source, _, output = rest.partition(".")
        return {"kind": "output", "source": source, "output": output, "side": None}
    modes = {path.get("id"): path.get("mode", "per_channel") for path in chain.get("paths", [])}
    mode = modes.get(rest, "per_channel")
    terminals = GAIN_AT.get(mode, "left") if kind == "gain" else "other" if mode == "strapped" else "right"
    return {"kind": "terminals", "path": rest, "terminals": terminals}


_STEPS = """
select distinct r.job_id, r.sheet_version, r.step, s.sheet -> 'chain'
from {table} r join sheet s on s.job_id = r.job_id and s.version = r.sheet_version
"""

# A gain's reading told the number of the clean maximum that it was set at: the newest taking of that number before it,
# and the newest reading there, are what it builds on.
_BUILDS_ON = """
update reading r set builds_on = coalesce((
  select jsonb_build_array(m.id, l.id)
  from jsonb_array_elements(r.settings) told
  cross join lateral (
    select id, volume from mark
    where job_id = r.job_id and basis is not null and taken_at <= r.taken_at
      and told ->> 'key' = 'volume' and volume::text = told ->> 'value'
    order by taken_at desc limit 1
  ) m
  cross join lateral (
    select id from reading
    where job_id = r.job_id and step = 'ceiling' and volume = m.volume and taken_at <= r.taken_at
    order by (struck is null) desc, taken_at desc limit 1
  ) l
  limit 1
), '[]'::jsonb)
"""


def downgrade() -> None:
    op.add_column("reading", sa.Column("voltage_v", sa.Float()))
    op.add_column("reading", sa.Column("uncertainty_v", sa.Float()))
    op.add_column("reading", sa.Column("volume", sa.Integer()))
    op.add_column("reading", sa.Column("tone", JSONB))
    op.add_column("reading", sa.Column("settings", JSONB))
    bind = op.get_bind()
    # What readings rested on is not told any more: to the version before they are fresh.
    bind.execute(
        sa.text(
            "update reading set voltage_v = value, uncertainty_v = uncertainty, settings = '[]', "
            "volume = coalesce((circumstances ->> 'volume')::int, 0), "
            "tone = coalesce(circumstances -> 'tone', '{\"frequency_hz\": 1000}')"
        )
    )
    for table in ("reading", "mark"):
        bind.execute(sa.text(f"update {table} set step = 'ceiling' where step like 'ceiling.%'"))
        bind.execute(sa.text(f"update {table} set step = left(replace(step, '.', '-'), 40) where step like '%.%'"))
    for name in ("voltage_v", "volume", "tone", "settings"):
        op.alter_column("reading", name, nullable=False)
    for name in ("quantity", "value", "uncertainty", "point", "circumstances", "evidence", "builds_on"):
        op.drop_column("reading", name)
