"""Settings of the server from outside."""

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[3]
FRONT_END = ROOT / "frontend" / "dist"
THIRD_PARTY = ROOT / "THIRD-PARTY.md"


class Settings(BaseSettings):
    """Read from the environment: DATABASE_URL, ROOK_HOST, ROOK_PORT, ROOK_HOSTS, ROOK_FRONT_END, ROOK_DATA."""

    model_config = SettingsConfigDict(env_prefix="ROOK_", populate_by_name=True)

    database_url: str = Field(default="", validation_alias="DATABASE_URL")
    host: str = "127.0.0.1"
    port: int = 8765
    hosts: tuple[str, ...] = ("127.0.0.1", "localhost", "[::1]")
    """Names under which the app may be asked; others are refused, so that no foreign page reaches it by name."""
    front_end: Path = FRONT_END
    data: Path = Path(".data")
    """A folder on the disk that the data lies on."""
    demo: bool = False
    doors: bool = False
    """Whether everybody has to sign in. Only then may anybody but this machine reach it."""
    addresses: tuple[str, ...] = ()
    """Under which devices reach it, the one that most will first."""
    proxies: tuple[str, ...] = ()
    """Addresses of the machines that pass requests on, where only those may ask."""
    socket: Path | None = None
    """A Unix socket of a proxy's, in place of the port."""
    authority: Path | None = None
    """The certificate of the workshop's own authority."""
    fingerprint: str | None = None
