"""What every action has in common."""

from collections.abc import Mapping
from functools import cached_property
from typing import Any, ClassVar, Self, TypeAlias

from pydantic import BaseModel, ConfigDict

DeferredSection: TypeAlias = tuple[str, ...]
"""A part of a study, as a path: one that begins another holds it; the empty path holds everything."""
Parts: TypeAlias = frozenset[DeferredSection]
PREPARE, REPORT = "prepare", "report"
"""The stages that are no analyses of a cohort: what forms it, and what is made of all the others."""
EVERYTHING: Parts = frozenset([()])
NO_PARTS: Parts = frozenset()
DATA, STEPS, FOLLOW_UP = ("data",), ("steps",), ("follow-up",)
NEW_STEPS: DeferredSection = (*STEPS, "new")
"""Steps after all that there are: taking one leaves the others as they are."""


def meet(one: Parts, other: Parts) -> bool:
    """Whether two sets of parts have something in common."""
    return any(a[: len(b)] == b[: len(a)] for a in one for b in other)


class BaseAction(BaseModel):
    """Something that was decided of a study.

    Attributes:
        undoable: whether undoing takes it back; what leaves all that is decided as it was is passed over.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    undoable: ClassVar[bool] = True
    kind: str

    @property
    def withdrawable(self) -> bool:
        """Whether it can be taken back on its own."""
        return False

    @property
    def where(self) -> str:
        """The stage in which it was done."""
        return PREPARE

    @property
    def about(self) -> str:
        """What it is about, by which a part of the screen finds it."""
        return self.kind

    @property
    def changes(self) -> Parts:
        """The parts of the study that it changes."""
        return EVERYTHING

    @property
    def rests_on(self) -> Parts:
        """The parts that must be as they were when somebody decided on it."""
        return self.changes

    @cached_property
    def sentence(self) -> str:
        """What was decided; worded once, since an action never changes."""
        return self._worded()

    def _worded(self) -> str:
        raise NotImplementedError

    @property
    def before_words(self) -> str:
        """How what was changed read before; blank where the sentence states it, or nothing was."""
        return ""

    def renumbered(self, ids: Mapping[str, Mapping[int, int]]) -> Self:
        """The same in a copy of the study, which has ids of its own for all that an action names."""
        update: dict[str, Any] = {
            name: known.get(getattr(self, name)) or getattr(self, name)
            for name, known in ids.items()
            if name in type(self).model_fields
        }
        return self.model_copy(update=update) if update else self


class OnItsOwn(BaseAction):
    """An action that can be taken back on its own, with its steps."""

    @property
    def withdrawable(self) -> bool:
        return True
