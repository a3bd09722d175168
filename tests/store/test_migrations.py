"""The migrations lead to the tables, and back."""

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import inspect, text
from sqlmodel import SQLModel

from tests.forked import run
from tests.servers import free_port
from upper_rook.store import tables
from upper_rook.store.database import TooNew, make_engine, migrate, migration_config


def test_up_down_up_and_nothing_left_to_generate(fresh_database: str) -> None:
    engine = make_engine(fresh_database)
    migrate(fresh_database)
    with engine.connect() as connection:
        differences = compare_metadata(MigrationContext.configure(connection), SQLModel.metadata)
    assert differences == []
    command.downgrade(migration_config(fresh_database), "base")
    assert set(inspect(engine).get_table_names()) == {"alembic_version"}
    migrate(fresh_database)
    migrate(fresh_database)
    assert tables.JobRow.__tablename__ in inspect(engine).get_table_names()
    engine.dispose()


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ("update alembic_version set version_num = '9999'", "written by a newer version"),
        ("insert into sheet_format values (99, '7.0.0')", "version 7.0.0 or newer"),
    ],
)
def test_a_database_of_a_newer_app_is_told_and_left_alone(fresh_database: str, change: str, told: str) -> None:
    migrate(fresh_database)
    engine = make_engine(fresh_database)
    with engine.begin() as connection:
        connection.execute(text(change))
    with pytest.raises(TooNew, match=told):
        migrate(fresh_database)
    ended = run("serve", "--port", str(free_port()), DATABASE_URL=fresh_database)
    assert ended.returncode == 2
    assert told in ended.stderr
    assert "Traceback" not in ended.stderr
    engine.dispose()
