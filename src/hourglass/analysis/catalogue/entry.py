"""An entry of the catalogue: a method of the core with all that the screens and the report state about it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import TypeVar

from hourglass.analysis.catalogue.sources import Reference
from hourglass.core.variants import Keyed


@dataclass(frozen=True, slots=True, kw_only=True)
class MethodEntry:
    """What every entry has.

    Attributes:
        method: of the core.
        name: in a sentence and a list; ``note``: what choosing it would do.
        sources: what it rests on, cited where it was used.
    """

    method: Keyed
    name: str
    note: str
    sources: tuple[Reference, ...] = ()

    @property
    def key(self) -> str:
        """What it is called in a statement."""
        return self.method.key


E = TypeVar("E", bound=MethodEntry)


def catalogue(*entries: E, methods: Iterable[Keyed] = ()) -> Mapping[str, E]:
    """The entries of one kind of method by key, in the order in which they are offered.

    Args:
        methods: of the core, each of which must have its entry.
    """
    made = {entry.key: entry for entry in entries}
    missing = [one.key for one in methods if one.key not in made]
    assert not missing, f"no entry for {missing}"
    return MappingProxyType(made)
