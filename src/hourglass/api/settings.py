"""What the server needs to know: from the environment, each with its usual value."""

from pathlib import Path

from platformdirs import user_data_path
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from hourglass.cohort.reading.recipe import Limits
from hourglass.study.place import CHECKOUT, CLIENT
from hourglass.study.processes import MAX_MEMORY
from hourglass.study.recent import USUAL_BUDGET

MIB = 1024 * 1024
HTTP_PORT = 80
"""The port that browsers leave out."""
USUAL_VAR = user_data_path("olden-hourglass") if CHECKOUT is None else CHECKOUT / "var"
"""Where what is kept lies: beside the sources of a checkout, else among the user's data."""
NAMES = ("127.0.0.1", "localhost")
"""The names that are answered: those of this machine, on which alone the server listens."""


class Settings(BaseSettings):
    """Where things are, and how much is allowed.

    The environment's DATABASE_URL, PORT, HOURGLASS_VAR, HOURGLASS_UPLOAD_LIMIT_MB, HOURGLASS_MOST_CELLS,
    HOURGLASS_MOST_COLUMNS, HOURGLASS_UNPACKED_LIMIT_MB, HOURGLASS_READING_MEMORY_MB,
    HOURGLASS_READING_SECONDS, HOURGLASS_MEMORY_MB, HOURGLASS_WORK_MEMORY_MB and HOURGLASS_PROCESSES; with 0
    processes the server computes on threads of its own. HOURGLASS_TOKEN is what lets people in; ``start``
    makes a new one where it is blank, and an application made without one lets everybody in.
    """

    model_config = SettingsConfigDict(env_prefix="HOURGLASS_", frozen=True, extra="ignore")

    database_url: str = Field(validation_alias="database_url")
    var: Path = USUAL_VAR
    web: Path = CLIENT
    port: int = Field(default=8000, ge=0, le=65_535, validation_alias="port")
    token: str = Field(default="", pattern=r"^[A-Za-z0-9_-]*$", max_length=200)
    upload_limit_mb: float = Field(default=200, gt=0, le=100_000)
    most_columns: int = Field(default=Limits().most_columns, gt=0, le=10**6)
    most_cells: int = Field(default=Limits().most_cells, gt=0, le=10**10)
    unpacked_limit_mb: int = Field(default=Limits().most_unpacked // MIB, gt=0, le=10**6)
    reading_memory_mb: int = Field(default=6144, gt=0, le=10**6)
    reading_seconds: float = Field(default=300, gt=0, le=86_400)
    memory_mb: int = Field(default=USUAL_BUDGET // MIB, gt=0, le=10**6)
    work_memory_mb: int = Field(default=MAX_MEMORY // MIB, gt=0, le=10**6)
    processes: int = Field(default=2, ge=0, le=64)

    @property
    def upload_limit(self) -> int:
        """The largest upload, in bytes."""
        return int(self.upload_limit_mb * MIB)

    @property
    def reading_memory(self) -> int:
        """How much memory the reading of one file may take, in bytes."""
        return self.reading_memory_mb * MIB

    @property
    def limits(self) -> Limits:
        """How large a table may be."""
        return Limits(
            most_columns=self.most_columns,
            most_cells=self.most_cells,
            most_unpacked=self.unpacked_limit_mb * MIB,
        )

    @property
    def origins(self) -> frozenset[str]:
        """The origins of our own pages, whole, as browsers name them."""
        port = "" if self.port == HTTP_PORT else f":{self.port}"
        return frozenset(f"http://{name}{port}" for name in NAMES)
