"""Commands that start the app and let people in."""

import ipaddress
import re
import socket
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from upper_rook.cli.app import Refusal, app, own_settings
from upper_rook.cli.told import echo

if TYPE_CHECKING:
    from upper_rook.web.network import Wanted
    from upper_rook.web.settings import Settings


@app.command()
def serve(  # noqa: PLR0917
    port: Annotated[int | None, typer.Option(help="Port, 8765 unless given.", min=1, max=65535)] = None,
    lan: Annotated[
        bool, typer.Option("--lan", help="On the workshop’s network: over TLS, and everybody has to sign in.")
    ] = False,
    name: Annotated[str | None, typer.Option(help="With --lan: found on the network as NAME.local.")] = None,
    certificate: Annotated[Path | None, typer.Option(help="Another certificate than the workshop’s own.")] = None,
    key: Annotated[Path | None, typer.Option(help="Its key.")] = None,
    behind_proxy: Annotated[
        str | None,
        typer.Option(
            metavar="ADDRESSES|SOCKET",
            help="A proxy of your own does TLS and asks from there, or at a Unix socket; everybody signs in.",
        ),
    ] = None,
    host_name: Annotated[str | None, typer.Option(help="With --behind-proxy: the name it is asked under.")] = None,
) -> None:
    """Start the app on DATABASE_URL."""
    _refuse_mismatched(lan=lan, name=name, pair=(certificate, key), proxy=behind_proxy, host_name=host_name)
    from upper_rook.web.network import Wanted

    wanted = Wanted(
        certificate=(certificate, key) if certificate and key else None,
        name=name,
        proxies=_addresses(behind_proxy),
        socket=Path(behind_proxy) if behind_proxy and _is_socket(behind_proxy) else None,
        host=host_name,
    )
    _serve(port, demo=False, wanted=wanted if lan or behind_proxy else None)


def _is_socket(proxy: str) -> bool:
    return proxy.startswith("/")


def _addresses(proxy: str | None) -> tuple[str, ...]:
    """The addresses of proxies; none where a socket is named."""
    return () if not proxy or _is_socket(proxy) else tuple(proxy.replace(",", " ").split())


def _refuse_mismatched(
    *, lan: bool, name: str | None, pair: tuple[Path | None, Path | None], proxy: str | None, host_name: str | None
) -> None:
    """Words of `serve` that don't go together."""
    if (pair[0] is None) != (pair[1] is None):
        raise Refusal("A certificate goes with its key: give both, or neither.")
    if pair[0] is not None and not lan:
        raise Refusal("Only --lan is asked over TLS: add it, or leave the certificate out.")
    if name is not None and (not lan or not re.fullmatch(r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?", name)):
        raise Refusal("A name on the network goes with --lan and has small letters, digits and hyphens: --name rook.")
    if lan and proxy is not None:
        raise Refusal("Either this app does TLS (--lan) or a proxy before it does (--behind-proxy): leave one out.")
    if (proxy is None) != (host_name is None):
        raise Refusal(
            "Behind a proxy goes with the name that it is asked under: --behind-proxy 127.0.0.1 --host-name …"
        )
    for address in _addresses(proxy):
        try:
            ipaddress.ip_network(address)
        except ValueError:
            raise Refusal(
                f"“{address}” is no address of a proxy: give numbers such as 127.0.0.1, never a name, or the whole "
                "path of a Unix socket."
            ) from None


@app.command()
def demo(port: Annotated[int | None, typer.Option(help="Port on 127.0.0.1.", min=1, max=65535)] = None) -> None:
    """Start the app on DATABASE_URL with demo data; what is there already stays as it is."""
    _serve(port, demo=True)


@app.command("let-in")
def let_in(
    role: Annotated[str, typer.Option(help="owner, fitter, apprentice or looker_on.")] = "owner",
    person: Annotated[str | None, typer.Option("--for", help="Somebody who is here, with a new password.")] = None,
    device: Annotated[bool, typer.Option("--device", help="A device alone, within ten minutes.")] = False,
) -> None:
    """Print a one-time sign-in link, valid for 24 hours."""
    from sqlmodel import Session

    from upper_rook.core.common.roles import Role
    from upper_rook.desk.auth.links import AT_THE_MACHINE, invite
    from upper_rook.store.database import make_engine
    from upper_rook.store.links import Link
    from upper_rook.store.people import called

    if role not in set(Role):
        raise Refusal(f"There is no role “{role}”: it is one of {', '.join(Role)}.")
    settings = own_settings()
    _bring_up(settings)
    engine = make_engine(settings.database_url)
    try:
        with Session(engine) as session:
            link = Link() if device else Link(role=Role(role))
            if person is not None:
                link = Link(person=called(session, person).id)
            echo(f"/come-in#{invite(session, AT_THE_MACHINE, link)}")
    finally:
        engine.dispose()


def _serve(port: int | None, *, demo: bool, wanted: "Wanted | None" = None) -> None:
    from upper_rook.desk.scratch import sweep
    from upper_rook.web.server import run

    changed: dict[str, Any] = {"demo": demo} | ({"port": port} if port else {})
    settings = own_settings().model_copy(update=changed)
    tls = None
    if wanted is None or wanted.behind_proxy:
        _refuse_open_doors(settings.host)
    if wanted is not None:
        from upper_rook.web.network import announced, behind_a_proxy, on_the_network

        if wanted.behind_proxy:
            settings = behind_a_proxy(settings, wanted)
        else:
            settings, tls = on_the_network(settings, wanted)
    if settings.socket is None:
        _refuse_taken_port(settings.host, settings.port)
    sweep(settings.data / "backups")
    _bring_up(settings)
    if demo:
        from upper_rook.demo import fill

        fill(settings.database_url)
    if wanted is not None:
        if settings.fingerprint:
            echo(f"Devices have to trust {settings.authority} once; its fingerprint (SHA-256):")
            echo(f"  {settings.fingerprint}")
            plain = settings.addresses[0].replace("https://", "http://", 1)
            echo(f"A device that is new opens {plain} first: that page explains the warning and how to end it.")
        _tell_the_first(settings)
    if wanted is None:
        run(settings, echo)
        return
    with announced(settings, wanted.name):
        run(settings, echo, tls)


def _bring_up(settings: "Settings") -> None:
    """The database at this version's schema; one that holds something is backed up before it is changed."""
    from upper_rook.desk.backups import before_a_migration
    from upper_rook.store.database import migrate

    before_a_migration(settings.database_url, settings.data / "backups", lambda sentence: echo(sentence, err=True))
    migrate(settings.database_url)


def _tell_the_first(settings: "Settings") -> None:
    """Prints the link by which the first owner comes in, as long as there is none."""
    from upper_rook.web.network import as_code, first_link

    end = first_link(settings)
    if end is None:
        return
    # Behind the hash nothing of it reaches a log.
    address = f"{settings.addresses[0]}{end}"
    echo(f"The owner comes in here, once, within a day:\n{as_code(address)}\n  {address}")


def _refuse_open_doors(host: str) -> None:
    """Nobody has to sign in, so nobody else may come in."""
    if host not in ("127.0.0.1", "localhost", "::1"):
        raise Refusal(
            f"ROOK_HOST is {host}: without sign-in the app listens on this machine only (127.0.0.1). "
            "Use serve --lan for the network."
        )


def _refuse_taken_port(host: str, port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise Refusal(
                f"Port {port} can’t be used ({error.strerror}): stop what uses it, or give another with --port."
            ) from None
