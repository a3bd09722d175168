"""The migrations lead to the tables, and back."""

from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import inspect
from sqlmodel import SQLModel

from upper_rook.store import tables
from upper_rook.store.database import make_engine, migrate, migration_config


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
