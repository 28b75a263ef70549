"""What the server needs to know, from the environment."""

import os
from dataclasses import dataclass, field
from pathlib import Path

from hourglass.cohort.reading.recipe import Limits

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
    limits: Limits = field(default_factory=Limits)
    reading_memory: int = 6144 * MIB
    reading_seconds: float = 300.0

    @property
    def hosts(self) -> frozenset[str]:
        """The Host headers that are answered: this machine's own names only."""
        names = ("127.0.0.1", "localhost", "[::1]")
        return frozenset([*names, *(f"{name}:{self.port}" for name in names)])


def from_environment(database_url: str, var: Path, port: int) -> Settings:
    """Settings with the limits of the environment heeded.

    HOURGLASS_UPLOAD_LIMIT_MB, HOURGLASS_MOST_CELLS, HOURGLASS_MOST_COLUMNS,
    HOURGLASS_UNPACKED_LIMIT_MB, HOURGLASS_READING_MEMORY_MB and HOURGLASS_READING_SECONDS are
    whole numbers.
    """
    usual = Limits()
    limits = Limits(
        most_columns=int(os.environ.get("HOURGLASS_MOST_COLUMNS", usual.most_columns)),
        most_cells=int(os.environ.get("HOURGLASS_MOST_CELLS", usual.most_cells)),
        most_unpacked=int(os.environ.get("HOURGLASS_UNPACKED_LIMIT_MB", usual.most_unpacked // MIB))
        * MIB,
    )
    return Settings(
        database_url,
        var,
        upload_limit=int(os.environ.get("HOURGLASS_UPLOAD_LIMIT_MB", "200")) * MIB,
        port=port,
        limits=limits,
        reading_memory=int(os.environ.get("HOURGLASS_READING_MEMORY_MB", "6144")) * MIB,
        reading_seconds=float(os.environ.get("HOURGLASS_READING_SECONDS", "300")),
    )
