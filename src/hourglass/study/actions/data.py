"""Actions on a study's data: files read, data extracts received, taken into use and refused."""

from typing import ClassVar, Literal

from hourglass.cohort.reading.recipe import Recipe
from hourglass.study.actions.action import DATA, EVERYTHING, FOLLOW_UP, STEPS, BaseAction, Parts


class FileAttached(BaseAction):
    """A study got its file, or another while nothing depended on it; ``before``: that one's name."""

    kind: Literal["file attached"] = "file attached"
    name: str
    sha256: str
    before: str = ""

    @property
    def changes(self) -> Parts:
        return frozenset([DATA, FOLLOW_UP, STEPS])

    def _worded(self) -> str:
        return f"File read: {self.name}"

    @property
    def before_words(self) -> str:
        return self.before


class FileReadOtherwise(BaseAction):
    """The same bytes were read by another recipe; ``how`` and ``how_before`` state how in words."""

    kind: Literal["file read otherwise"] = "file read otherwise"
    before: Recipe
    after: Recipe
    how_before: str
    how: str

    @property
    def changes(self) -> Parts:
        return frozenset([DATA])

    @property
    def rests_on(self) -> Parts:
        return frozenset([DATA, STEPS, FOLLOW_UP])

    def _worded(self) -> str:
        return f"File read otherwise: {self.how}"

    @property
    def before_words(self) -> str:
        return self.how_before


class ExtractTaken(BaseAction):
    """Another data extract was taken into use; ``before``: the name of the one that was."""

    kind: Literal["export taken into use"] = "export taken into use"
    export: int
    name: str
    before: str = ""

    @property
    def changes(self) -> Parts:
        return frozenset([DATA, STEPS])

    @property
    def rests_on(self) -> Parts:
        return EVERYTHING

    def _worded(self) -> str:
        return f"Data extract in use: {self.name}"

    @property
    def before_words(self) -> str:
        return self.before


WAITING = ("waiting",)


class ExtractReceived(BaseAction):
    """A new data extract was read, and waits."""

    kind: Literal["export received"] = "export received"
    undoable: ClassVar[bool] = False
    name: str
    sha256: str

    @property
    def changes(self) -> Parts:
        return frozenset([WAITING])

    def _worded(self) -> str:
        return f"New data extract received: {self.name}"


class ExtractRefused(BaseAction):
    """The data extract that waited was let go."""

    kind: Literal["export refused"] = "export refused"
    undoable: ClassVar[bool] = False
    name: str

    @property
    def changes(self) -> Parts:
        return frozenset([WAITING])

    def _worded(self) -> str:
        return f"New data extract refused: {self.name}"
