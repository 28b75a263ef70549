"""Actions on what is shown and printed. No number depends on it."""

from typing import Any, Literal

from pydantic import Field

from hourglass.analysis.shared.field_words import details_of, worded_changes
from hourglass.cohort.words import listed
from hourglass.study.actions.action import BaseAction, Parts
from hourglass.study.view_keys import stage_of_view


class OfView(BaseAction):
    """What is done to the figure of a view."""

    view: str

    @property
    def where(self) -> str:
        return stage_of_view(self.view)

    @property
    def changes(self) -> Parts:
        return frozenset([(self.kind, self.view)])


class FigureSet(OfView):
    """How the figure of a view is printed was set."""

    kind: Literal["figure set"] = "figure set"
    before: dict[str, Any] = Field(default_factory=dict)
    after: dict[str, Any]

    def _worded(self) -> str:
        return f"Printed figure: {details_of(worded_changes(self.before, self.after, {})) or 'as before'}"


class TracksShown(OfView):
    """Which tracks a view shows was set; None where it showed its own."""

    kind: Literal["tracks shown"] = "tracks shown"
    before: tuple[dict[str, Any], ...] | None = None
    after: tuple[dict[str, Any], ...]

    def _worded(self) -> str:
        return f"Tracks shown: {_tracks(self.after)}"

    @property
    def before_words(self) -> str:
        return "" if self.before is None else _tracks(self.before)


class GroupStyleSet(OfView):
    """How a group is drawn was set."""

    kind: Literal["look set"] = "look set"
    group: str
    before: dict[str, Any] | None = None
    after: dict[str, Any]

    @property
    def changes(self) -> Parts:
        return frozenset([("look", self.group)])

    def _worded(self) -> str:
        was = {k: v for k, v in (self.before or {}).items() if k != "group"}
        now = {k: v for k, v in self.after.items() if k != "group"}
        return (
            f"How {self.group} is drawn: {details_of(worded_changes(was, now, {})) or 'as before'}"
        )


def _tracks(shown: tuple[dict[str, Any], ...]) -> str:
    return listed([str(track["id"]) for track in shown], 20) or "none"
