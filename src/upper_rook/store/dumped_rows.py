"""
The rows of a dump, put into tables that this app made itself.

A dump is a program: whoever wrote it could add functions, triggers, a signed-in device. So nothing of it is run. Only
the rows of known tables are read from it, as data.
"""

import re
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from graphlib import TopologicalSorter
from itertools import takewhile
from pathlib import Path
from typing import IO

import psycopg
from psycopg import sql
from sqlalchemy import Connection, inspect, text

from upper_rook.core.common.errors import BadInput
from upper_rook.store.database import remake_schema
from upper_rook.store.dumps import OF_THE_DOOR, ToolTrouble, tool

_COPY = re.compile(rb"COPY public\.(\w+) \(([^()]+)\) FROM stdin;\n")
_END = b"\\.\n"
_NOT_COPIED = frozenset({"alembic_version", *OF_THE_DOOR})


def load(connection: Connection, dump_file: Path, revision: str | None) -> None:
    """
    Puts the rows of a dump in place of everything that the database holds; within a transaction.

    `revision` is the schema that the dump is of: this app's own migrations make it.

    Raises TooNew for a schema that isn't known, BadInput for rows that don't fit it, ToolTrouble.
    """
    remake_schema(connection, revision)
    for table in _tables(connection):
        # What a migration put there itself.
        connection.execute(text(f"delete from {table}"))  # noqa: S608
    for table in _tables(connection):
        _copy(connection, dump_file, table)
    _number_on(connection)


def _tables(connection: Connection) -> list[str]:
    """Tables to fill, each after those that it refers to."""
    seen = inspect(connection)
    refers = {
        table: {key["referred_table"] for key in seen.get_foreign_keys(table)} for table in seen.get_table_names()
    }
    return [table for table in TopologicalSorter(refers).static_order() if table not in _NOT_COPIED]


def _copy(connection: Connection, dump_file: Path, table: str) -> None:
    known = {column["name"] for column in inspect(connection).get_columns(table)}
    with _script(dump_file, table) as lines:
        for line in lines:
            found = _COPY.fullmatch(line)
            if found is None or found[1].decode() != table:
                continue
            columns = [name.strip('"') for name in found[2].decode().split(", ")]
            if not known.issuperset(columns):
                raise BadInput(f"The backup’s {table} has columns that its version of Upper Rook doesn’t have.")
            _copy_rows(connection, table, columns, takewhile(lambda row: row != _END, lines))
            return


def _copy_rows(connection: Connection, table: str, columns: list[str], rows: Iterator[bytes]) -> None:
    into = sql.SQL("copy public.{} ({}) from stdin").format(
        sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, columns))
    )
    driver = connection.connection.driver_connection
    if driver is None:
        raise ToolTrouble("The connection to the database is gone.")
    try:
        with driver.cursor() as cursor, cursor.copy(into) as copy:
            for row in rows:
                copy.write(row)
    except psycopg.Error as error:
        raise ToolTrouble(f"PostgreSQL can’t take the backup’s {table}: {str(error).splitlines()[0]}.") from None


@contextmanager
def _script(dump_file: Path, table: str) -> Iterator[Iterator[bytes]]:
    """The script that pg_restore would have run to fill a table, line by line."""
    words = ("--data-only", "--schema=public", f"--table={table}", "--file=-", str(dump_file))
    with tempfile.TemporaryFile() as said:
        # The words are this module's own, but for the name of a file.
        with subprocess.Popen([tool("pg_restore"), *words], stdout=subprocess.PIPE, stderr=said) as running:  # noqa: S603
            yield _lines(running.stdout)
            # What follows a table's rows is of no interest, but its writer must be able to end.
            for _ in _lines(running.stdout):
                pass
        if running.returncode:
            said.seek(0)
            last = said.read().decode(errors="replace").strip().splitlines()[-1:] or ["no reason given"]
            raise ToolTrouble(f"pg_restore couldn’t do it: {last[0]}")


def _lines(stream: IO[bytes] | None) -> Iterator[bytes]:
    return iter(stream or ())


def _number_on(connection: Connection) -> None:
    """The next record's number follows the last one's."""
    if connection.execute(text("select to_regclass('arrival')")).scalar() is None:
        return
    seen = inspect(connection)
    numbered = [
        table
        for table in seen.get_table_names()
        if any(column["name"] == "arrival" for column in seen.get_columns(table))
    ]
    last = max(
        connection.execute(text(f"select coalesce(max(arrival), 0) from {table}")).scalar_one()  # noqa: S608
        for table in numbered
    )
    connection.execute(text("select setval('arrival', :last, :used)"), {"last": max(last, 1), "used": last > 0})
