"""The engine, and migrations at start."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text

MIGRATIONS = Path(__file__).parent / "migrations"
# Any fixed number: processes that start together migrate one after the other.
_MIGRATION_LOCK = 7_254_001


def make_engine(url: str) -> Engine:
    """An engine whose connections are checked before use, so that a restarted server is not noticed twice."""
    return create_engine(url, pool_pre_ping=True, pool_size=10, max_overflow=10, connect_args={"connect_timeout": 3})


def migration_config(url: str) -> Config:
    """Alembic's configuration for `url`."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def migrate(url: str) -> None:
    """Brings the database at `url` to the newest schema; safe to call from several processes at once."""
    engine = make_engine(url)
    try:
        with engine.begin() as connection:
            connection.execute(text("select pg_advisory_xact_lock(:key)"), {"key": _MIGRATION_LOCK})
            config = migration_config(url)
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    finally:
        engine.dispose()
