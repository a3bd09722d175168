"""The app on the workshop's network: under which names, by which certificate, and who may come in first."""

import io
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import segno
from sqlmodel import Session
from zeroconf import ServiceInfo, Zeroconf

from upper_rook.core.common.errors import RookError
from upper_rook.desk.auth import links
from upper_rook.store.certificates import certificates, own_names
from upper_rook.store.database import make_engine
from upper_rook.web.server import Tls
from upper_rook.web.settings import Settings


class NotReady(RookError):
    """The network can't be served."""


class Wanted(NamedTuple):
    """How the app is to be reached from elsewhere."""

    certificate: tuple[Path, Path] | None = None
    """Another certificate than the workshop's own, with its key."""
    name: str | None = None
    """Its name on the network: `rook` is found as rook.local."""
    proxies: tuple[str, ...] = ()
    """Addresses of the machines that pass requests on; then they do TLS, and nobody else may ask."""
    socket: Path | None = None
    """A Unix socket that a proxy opens, in place of addresses."""
    host: str | None = None
    """Under which name the proxy is asked."""

    @property
    def behind_proxy(self) -> bool:
        """Whether a proxy does TLS."""
        return bool(self.proxies) or self.socket is not None


def on_the_network(settings: Settings, wanted: Wanted) -> tuple[Settings, Tls]:
    """
    The settings of an app that the network may ask, with doors; its certificate is made where none is given.

    Raises NotReady where a certificate is missing, can't be made or can't be read.
    """
    names = own_names()
    if wanted.name:
        names = (f"{wanted.name}.local", *names)
    # Only on every address at once can it be found under all of its names.
    settings = settings.model_copy(
        update={
            "host": "0.0.0.0",  # noqa: S104
            "doors": True,
            "hosts": (*settings.hosts, *names),
            "addresses": tuple(f"https://{text}:{settings.port}" for text in _reachable(names)),
        }
    )
    if wanted.certificate is not None:
        for file in wanted.certificate:
            if not file.is_file():
                raise NotReady(f"There is no file {file}.")
        return settings, Tls(*wanted.certificate)

    def renew() -> None:
        certificates(settings.data / "doors", names)

    try:
        made = certificates(settings.data / "doors", names)
    except (OSError, ValueError) as error:
        raise NotReady(f"The workshop’s certificates can’t be made or read: {error}.") from None
    told = {"authority": made.authority, "fingerprint": made.fingerprint}
    return settings.model_copy(update=told), Tls(made.certificate, made.key, renew)


def behind_a_proxy(settings: Settings, wanted: Wanted) -> Settings:
    """The settings of an app that proxies of the workshop's own pass requests on to. They do TLS."""
    host = wanted.host or ""
    return settings.model_copy(
        update={
            "doors": True,
            "hosts": (*settings.hosts, host.rsplit(":", 1)[0]),
            "addresses": (f"https://{host}",),
            "proxies": wanted.proxies,
            "socket": wanted.socket,
        }
    )


def _reachable(names: tuple[str, ...]) -> list[str]:
    """The names by which other devices find this machine: what was chosen, then numbers, then the rest."""
    others = [name for name in names if name not in ("localhost", "127.0.0.1", "::1")]
    numbers = [other for other in others if other.replace(".", "").isdigit()]
    words = [other for other in others if "." in other and other not in numbers]
    found = [*words[:1], *numbers] if words and words[0] == others[0] else [*numbers, *words]
    return found or ["localhost"]


def first_link(settings: Settings) -> str | None:
    """The end of the address by which the owner comes in, as long as none can."""
    engine = make_engine(settings.database_url)
    try:
        with Session(engine) as session:
            link = links.first_link(session)
    finally:
        engine.dispose()
    return f"/come-in#{link}" if link else None


def as_code(address: str) -> str:
    """An address as a code that a camera reads off a terminal."""
    drawn = io.StringIO()
    segno.make(address, error="l", micro=False).terminal(out=drawn, border=2, compact=True)
    return drawn.getvalue().rstrip("\n")


@contextmanager
def announced(settings: Settings, name: str | None) -> Iterator[None]:
    """Answers on the network to `name`.local (multicast DNS) meanwhile, where that is wanted."""
    if not name:
        yield
        return
    addresses = [
        socket.inet_aton(own_name)
        for own_name in own_names()
        if own_name.replace(".", "").isdigit() and own_name[:4] != "127."
    ]
    known = ServiceInfo(
        "_https._tcp.local.",
        f"Upper Rook {name}._https._tcp.local.",
        addresses=addresses,
        port=settings.port,
        server=f"{name}.local.",
    )
    try:
        radio = Zeroconf()
    except OSError as error:
        raise NotReady(f"The name can’t be announced on the network: {error}.") from None
    try:
        radio.register_service(known)
        yield
    finally:
        radio.unregister_all_services()
        radio.close()
