"""The numbers of every stage on a data extract, on the next one, and on what lies between them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.analysis.model.design import UnusableTermError
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.key_numbers import KeyNumber
from hourglass.analysis.shared.stage import Stage
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step, StepEffect, apply_steps
from hourglass.cohort.table import NoSuchColumnError, Table
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import ProgressCallback

NOW, NEXT = "now", "with the new data extract"
WITHOUT_GONE, WITH_CHANGED = "without the rows that are gone", "with the cells that changed"


@dataclass(frozen=True, slots=True)
class ExtractSide:
    """A data extract as read, after its steps, what those did, and the steps."""

    raw: Table
    after: Table
    effects: tuple[StepEffect, ...]
    steps: tuple[Step, ...] = ()


def side_of(raw: Table, steps: Sequence[Step]) -> ExtractSide:
    """A data extract with its steps carried out."""
    return ExtractSide(raw, *apply_steps(raw, steps), tuple(steps))


@dataclass(frozen=True, slots=True)
class OpenedStage:
    """An analysis to be computed on both sides.

    Attributes:
        stage: what it is; ``name``: what it is called beside others of its stage.
        own: the statements that somebody wrote, by stage; ``needs``: the stages they belong to.
    """

    stage: Stage
    name: str
    own: Mapping[str, StageStatement]
    needs: Mapping[str, Stage]

    @property
    def title(self) -> str:
        """What it is called."""
        return f"{self.stage.title} {self.name}".strip()

    def on(self, cohort: Cohort, progress: ProgressCallback) -> tuple[str, tuple[KeyNumber, ...]]:
        """Its result in a line, or why there is none, and its key numbers."""
        stated = {
            name: self.own.get(name) or stage.default(cohort) for name, stage in self.needs.items()
        }
        try:
            found = self.stage.now(cohort, stated, progress)
        except (NoSuchColumnError, UnusableTermError, NotEstimableError) as error:
            return f"not there: {error}", ()
        return found.headline, () if found.blank else self.stage.key_numbers(found)


class HeadlinePair(FrozenModel):
    """A result in a line, on the old data extract and on the new one."""

    stage: str
    before: str
    after: str


class NumberOnSides(FrozenModel):
    """A number of a stage on each side, blank where it is not there."""

    stage: str
    name: str
    texts: list[str]


@dataclass(frozen=True, slots=True)
class OnSides:
    """Every stage on both data extracts, and its numbers on what lies between: see ``sides_between``."""

    headlines: list[HeadlinePair]
    sides: list[str]
    numbers: list[NumberOnSides]


def sides_between(
    before: ExtractSide,
    after: ExtractSide,
    was: NDArray[np.int64],
    now: NDArray[np.int64],
    changed: bool,
) -> list[tuple[str, ExtractSide]]:
    """Both data extracts, and between them what one kind of change after the other makes of the first.

    Args:
        was, now: the places of the rows that are in both, in each of them.
        changed: whether any of these holds another value.
    """
    gone, new = was.size < before.raw.size, now.size < after.raw.size
    found = [(NOW, before)]
    if gone and (changed or new):
        found.append((WITHOUT_GONE, side_of(before.raw.take(np.sort(was)), before.steps)))
    if changed and new:
        words = f"and {WITH_CHANGED}" if gone else WITH_CHANGED
        found.append((words, side_of(after.raw.take(np.sort(now)), after.steps)))
    return [*found, (NEXT, after)]


def on_sides(
    sides: Sequence[tuple[str, ExtractSide]],
    statement: FollowUpStatement,
    stated: Sequence[OpenedStage],
    progress: ProgressCallback,
) -> OnSides:
    """Compute every stage on each side; the first and the last are the data extracts themselves."""
    titles = ["Prepare", *(one.title for one in stated)]
    found = []
    for k, (words, side) in enumerate(sides):
        progress(f"computing every stage {words}", 0.5 + 0.5 * k / len(sides))
        found.append(_on(side, statement, stated, progress))
    names = list(dict.fromkeys(key for _, numbers in found for key in numbers))
    return OnSides(
        [
            HeadlinePair(stage=title, before=old, after=new)
            for title, old, new in zip(titles, found[0][0], found[-1][0], strict=True)
        ],
        [words for words, _ in sides],
        [
            NumberOnSides(
                stage=stage, name=name, texts=[n.get((stage, name), "") for _, n in found]
            )
            for stage, name in names
        ],
    )


def _on(
    side: ExtractSide,
    statement: FollowUpStatement,
    stated: Sequence[OpenedStage],
    progress: ProgressCallback,
) -> tuple[list[str], dict[tuple[str, str], str]]:
    """The headlines of the stages, and their key numbers by stage and name."""
    broken = [e for e in side.effects if e.broken]
    formed = form_cohort(side.after, statement)
    if isinstance(formed, tuple) or broken:
        waits = f"step broken: {broken[0].name}" if broken else formed[0].sentence  # type: ignore[index]
        return [waits, *("waits for Prepare" for _ in stated)], {}
    size, read = formatting.grouped(formed.follow_up.size), formatting.grouped(side.raw.size)
    lines = [f"{size} of {read} rows kept"]
    numbers: dict[tuple[str, str], str] = {}
    for one in stated:
        headline, key = one.on(formed, progress)
        lines.append(headline)
        numbers |= {(one.title, number.name): number.text for number in key}
    return lines, numbers
