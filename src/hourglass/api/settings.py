"""What the server needs to know, from the environment."""

import os
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[3]
MIB = 1024 * 1024


@dataclass(frozen=True, slots=True)
class Settings:
    """Where things are, and how much is allowed."""

    database_url: str
    var: Path
    web: Path = ROOT / "web" / "dist"
    upload_limit: int = 200 * MIB
    port: int = 8000

    @property
    def hosts(self) -> frozenset[str]:
        """The Host headers that are answered: this machine's own names only."""
        names = ("127.0.0.1", "localhost", "[::1]")
        return frozenset([*names, *(f"{name}:{self.port}" for name in names)])


def from_environment(database_url: str, var: Path, port: int) -> Settings:
    """Settings with HOURGLASS_UPLOAD_LIMIT_MB heeded."""
    limit = int(os.environ.get("HOURGLASS_UPLOAD_LIMIT_MB", "200"))
    return Settings(database_url, var, upload_limit=limit * MIB, port=port)
