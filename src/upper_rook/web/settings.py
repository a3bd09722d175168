"""What the server is told from outside."""

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

FRONT_END = Path(__file__).resolve().parents[3] / "frontend" / "dist"


class Settings(BaseSettings):
    """Read from the environment: DATABASE_URL, ROOK_HOST, ROOK_PORT, ROOK_HOSTS, ROOK_FRONT_END."""

    model_config = SettingsConfigDict(env_prefix="ROOK_", populate_by_name=True)

    database_url: str = Field(default="", validation_alias="DATABASE_URL")
    host: str = "127.0.0.1"
    port: int = 8765
    hosts: tuple[str, ...] = ("127.0.0.1", "localhost", "[::1]")
    """Names under which the app may be asked; others are refused, so that no foreign page reaches it by name."""
    front_end: Path = FRONT_END
    demo: bool = False
