"""A result being made: its numbers, which are kept, and what is shown of them, which is not."""

from dataclasses import dataclass
from typing import Any, Protocol

from hourglass.analysis.shared.figure.thumbnail import Thumbnail
from hourglass.analysis.shared.packing import UnknownPackedError, pack, unpack
from hourglass.analysis.shared.sent import Drawing
from hourglass.core.progress import ProgressCallback
from hourglass.study.repository import BlobStore
from hourglass.study.turns import Turn


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is shown of numbers.

    Attributes:
        result: typed, its figure whole; ``body``: as it is sent, in JSON.
        headline, mark: its line on the stage list.
        drawing: the whole figure and the long series, which further requests are answered from.
        thumbnail: its curves in a list of studies.
    """

    result: Any
    body: bytes
    headline: str = ""
    mark: str = ""
    drawing: Drawing | None = None
    thumbnail: Thumbnail | None = None


class Making(Protocol):
    """How a result is made."""

    @property
    def turn(self) -> Turn:
        """The turn that computing it takes."""
        ...

    def compute(self, progress: ProgressCallback) -> Any:
        """Its numbers."""
        ...

    def show(self, numbers: Any, drawing: str) -> Shown:
        """What is shown of them; ``drawing`` is the key of its figure."""
        ...


@dataclass(frozen=True, slots=True)
class Made:
    """A result that was made: where its numbers are kept, and what is shown of them.

    ``key`` is that of the statements it follows from; ``numbers`` is blank where they are not kept.
    """

    key: str
    numbers: str
    shown: Shown


@dataclass(frozen=True, slots=True, kw_only=True)
class Make:
    """A task: take the numbers that are kept, or compute and keep them, and show them.

    Attributes:
        kept: the name of the numbers, where they are kept; ``keep``: whether new ones are to be kept.
        key: of what is shown.
    """

    making: Making
    blobs: BlobStore
    key: str
    kept: str = ""
    keep: bool = True

    @property
    def turn(self) -> Turn:
        """Its turn."""
        return self.making.turn

    def __call__(self, progress: ProgressCallback) -> Made:
        name = self.kept
        numbers = kept_numbers(self.blobs, name)
        if numbers is None:
            computed = self.making.compute(progress)
            name = self.blobs.put_numbers(pack(computed)) if self.keep else ""
        else:
            (computed,) = numbers
        progress("drawing", 0.9)
        return Made(self.key, name, self.making.show(computed, self.key))


def kept_numbers(blobs: BlobStore, name: str) -> tuple[Any] | None:
    """The numbers of a name, by themselves in a tuple; None where they are gone, or not this program's."""
    packed = blobs.numbers(name) if name else None
    if packed is None:
        return None
    try:
        return (unpack(packed),)
    except UnknownPackedError:
        return None
