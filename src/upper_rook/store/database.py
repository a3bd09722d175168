"""The engine, and migrations at start."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, create_engine, inspect, text

from upper_rook import __version__
from upper_rook.core.common.errors import RookError
from upper_rook.core.system.job_sheet import FORMAT

MIGRATIONS = Path(__file__).parent / "migrations"
# Any fixed number: processes that start together migrate one after the other.
_MIGRATION_LOCK = 7_254_001

_WAIT_S = 3
# Nothing that the app asks takes longer, unless something holds it up; then one sentence is better than silence.
_LIMITS = (
    "-c statement_timeout=15s -c lock_timeout=5s -c idle_in_transaction_session_timeout=30s -c tcp_keepalives_idle=30"
)


class TooNew(RookError):
    """A database that a newer version of the app has written."""


def make_engine(url: str) -> Engine:
    """An engine whose connections are checked before use, so that a restarted server is not noticed twice."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=10,
        max_overflow=10,
        pool_timeout=_WAIT_S,
        # What was typed has no business in a log.
        hide_parameters=True,
        connect_args={"connect_timeout": _WAIT_S, "options": _LIMITS},
    )


def migration_config(url: str) -> Config:
    """Alembic's configuration for `url`."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def migrate(url: str) -> None:
    """
    Brings the database at `url` to the newest schema; safe to call from several processes at once.

    Raises TooNew where a newer version of the app has been at work.
    """
    engine = create_engine(url, connect_args={"connect_timeout": _WAIT_S})
    try:
        with engine.begin() as connection:
            connection.execute(text("select pg_advisory_xact_lock(:key)"), {"key": _MIGRATION_LOCK})
            config = migration_config(url)
            _refuse_newer(connection, ScriptDirectory.from_config(config))
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
            connection.execute(_KNOW_FORMAT, {"format": FORMAT, "version": __version__})
    finally:
        engine.dispose()


def remake_schema(connection: Connection, revision: str | None) -> None:
    """
    Replaces everything in the schema `public` by the empty tables that a version of the app had; within a transaction.

    Raises TooNew for a revision that this app doesn't know.
    """
    config = migration_config("")
    _refuse_unknown(revision, ScriptDirectory.from_config(config))
    connection.execute(text("drop schema public cascade"))
    connection.execute(text("create schema public"))
    if revision is not None:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)


def present_revision(connection: Connection) -> str | None:
    """The schema that a database has, or None for an empty one."""
    return MigrationContext.configure(connection).get_current_revision()


def head_revision() -> str | None:
    """The schema that this version of the app works with."""
    return ScriptDirectory(str(MIGRATIONS)).get_current_head()


def _refuse_newer(connection: Connection, scripts: ScriptDirectory) -> None:
    _refuse_unknown(present_revision(connection), scripts)
    if not inspect(connection).has_table("sheet_format"):
        return
    newer = connection.execute(_NEWER_FORMAT, {"format": FORMAT}).scalar()
    if newer is not None:
        raise TooNew(f"This database holds jobs that need version {newer} or newer of Upper Rook: bring it up to date.")


def _refuse_unknown(revision: str | None, scripts: ScriptDirectory) -> None:
    if revision is not None and revision not in {script.revision for script in scripts.walk_revisions()}:
        raise TooNew("This database was written by a newer version of Upper Rook: bring the app up to date.")


_NEWER_FORMAT = text("select least_version from sheet_format where format > :format order by format desc limit 1")
_KNOW_FORMAT = text("insert into sheet_format values (:format, :version) on conflict do nothing")
