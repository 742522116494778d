"""Settings, from the environment (`IRON_GULP_…`) or the command line."""

from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where data live and where to serve."""

    model_config = SettingsConfigDict(env_prefix="IRON_GULP_")

    data: Path = Path(".data")
    host: str = "127.0.0.1"
    port: int = Field(8472, ge=0, le=65_535)
    names: list[str] = []  # host names the server answers to, beside its address and loopback

    @property
    def database(self) -> Path:
        return self.data / "iron_gulp.sqlite3"
