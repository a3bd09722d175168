"""Commands that keep the data: backups, the way back, and the check of the trail."""

from pathlib import Path
from typing import Annotated

import typer

from upper_rook.cli.app import Refusal, app, own_settings
from upper_rook.cli.told import echo


@app.command()
def backup(
    file: Annotated[Path | None, typer.Argument(metavar="FILE", help="Among the app’s data unless given.")] = None,
) -> None:
    """Write everything in DATABASE_URL to one file of open formats, while the app goes on working."""
    from upper_rook.desk.backups import back_up, in_words, new_name, own_keys, signed_in_words

    settings = own_settings()
    target = file or new_name(settings.data / "backups", "rook")
    manifest = back_up(settings.database_url, target)
    echo(f"{target}: {in_words(manifest)}, {signed_in_words(target, own_keys(settings.database_url))}")


@app.command()
def verify(file: Annotated[Path, typer.Argument(metavar="FILE")]) -> None:
    """Read a backup from its beginning to its end and say what it holds."""
    from upper_rook.desk.backups import in_words, signed_in_words
    from upper_rook.desk.backups import verify as read

    echo(f"{file} is whole: {in_words(read(file))}, {signed_in_words(file)}")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(metavar="FILE")],
    over: Annotated[bool, typer.Option("--over", help="Even if there are jobs; they are backed up first.")] = False,
) -> None:
    """Put a backup in place of what DATABASE_URL holds, and compare everything with it."""
    from upper_rook.desk.backups import in_words, new_name, own_keys, signed_in_words
    from upper_rook.desk.backups import restore as put_back

    settings = own_settings()
    owner = _ask_the_owner(settings.database_url)
    aside = new_name(settings.data / "backups", "before-a-restore") if over else None
    # Asked of the database before it is replaced: the backup brings keys of its own.
    own = own_keys(settings.database_url)
    manifest = put_back(settings.database_url, file, aside)
    _note_a_restore(settings.database_url, owner, file.name)
    echo(f"Restored and compared: {in_words(manifest)}, {signed_in_words(file, own)}")
    if aside is not None and aside.exists():
        echo(f"The former data is in {aside}")


def _ask_the_owner(url: str) -> str:
    """Person who restores a backup: where people sign in, the owner has to confirm it."""
    from sqlalchemy import inspect
    from sqlmodel import Session

    from upper_rook.desk.auth.password_sign_in import confirm_owner
    from upper_rook.store.database import make_engine
    from upper_rook.store.people import has_owner

    engine = make_engine(url)
    try:
        with Session(engine) as session:
            if not inspect(engine).has_table("password") or not has_owner(session):
                return ""
            echo("A restore replaces all data. The owner has to agree.", err=True)
            name = typer.prompt("Owner’s name", err=True)
            return confirm_owner(session, name, typer.prompt("Password", hide_input=True, err=True)).name
    finally:
        engine.dispose()


def _note_a_restore(url: str, owner: str, file: str) -> None:
    from sqlmodel import Session

    from upper_rook.desk.transaction import transaction
    from upper_rook.store.database import make_engine
    from upper_rook.store.trail import Act, By, note

    engine = make_engine(url)
    try:
        with Session(engine) as session, transaction(session):
            note(session, By(owner, "at the machine"), Act.RESTORED, file)
    finally:
        engine.dispose()


@app.command("check-trail")
def check_trail() -> None:
    """Check that no act in the trail of DATABASE_URL was changed or taken out since it was noted."""
    from sqlmodel import Session

    from upper_rook.store.database import make_engine
    from upper_rook.store.trail import check

    engine = make_engine(own_settings().database_url)
    try:
        with Session(engine) as session:
            state = check(session)
    finally:
        engine.dispose()
    if state is None:
        raise Refusal("This database has no trail that could be checked: start the app as ./rook serve once.")
    if state.broken_at is not None:
        raise Refusal(f"The trail is broken at act {state.broken_at}: it, or the act before, was changed or taken out.")
    echo(f"The trail is whole: {state.acts} acts, the last with the digest {state.digest or 'of none'}.")
    echo("Note that digest: acts taken out at the end show by it alone.")
