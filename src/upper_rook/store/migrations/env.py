"""Alembic's environment: runs on the connection it is handed, or on one of its own."""

from alembic import context
from sqlmodel import SQLModel

from upper_rook.store import tables  # noqa: F401  (registers the tables)
from upper_rook.store.database import make_engine


def _run(connection) -> None:  # type: ignore[no-untyped-def]
    context.configure(connection=connection, target_metadata=SQLModel.metadata, compare_type=True)
    with context.begin_transaction():
        context.run_migrations()


given = context.config.attributes.get("connection")
if given is not None:
    _run(given)
else:
    engine = make_engine(context.config.get_main_option("sqlalchemy.url") or "")
    with engine.begin() as own:
        _run(own)
    engine.dispose()
