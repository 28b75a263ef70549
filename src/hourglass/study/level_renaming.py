"""What has been decided of levels goes on to hold where a step gives them other names."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import Stages
from hourglass.cohort.statement import FollowUpStatement, OtherFollowUp
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.study.study import Analysis, StudySnapshot

S = TypeVar("S", FollowUpStatement, OtherFollowUp)


@dataclass(frozen=True, slots=True)
class Renaming:
    """The levels of a column that get other names: old to new."""

    column: str
    names: Mapping[str, str]


def renaming_of(step: Step, instead_of: Step | None = None) -> Renaming | None:
    """What a step renames, beyond what the step did whose place it takes; None where that is nothing."""
    if not isinstance(step, RespellLevels) or step.into not in ("", step.column):
        return None
    earlier: Mapping[str, str] = {}
    if isinstance(instead_of, RespellLevels) and instead_of.column == step.column:
        earlier = instead_of.spelling
    files = {*earlier, *step.spelling}
    names = {earlier.get(level, level): step.spelling.get(level, level).strip() for level in files}
    names = {old: new for old, new in names.items() if old != new and new}
    return Renaming(step.column, names) if names else None


def with_levels_named(
    snapshot: StudySnapshot, renamings: Sequence[Renaming], stages: Stages = STAGES
) -> StudySnapshot:
    """Statements, meanings of codes and how groups are drawn, under the new names."""
    for of in renamings:
        group_styles = {_group(group, of): style for group, style in snapshot.group_styles.items()}
        snapshot = replace(
            snapshot,
            follow_up=_follow_up(snapshot.follow_up, of),
            analyses=tuple(
                _analysis(a, of, of.column == snapshot.follow_up.outcome, stages)
                for a in snapshot.analyses
            ),
            group_styles={
                group: {**style, "group": group} for group, style in group_styles.items()
            },
        )
    return snapshot


def _analysis(analysis: Analysis, of: Renaming, outcome: bool, stages: Stages) -> Analysis:
    stage = next((one for one in stages if one.name == analysis.stage), None)
    if stage is None or analysis.body is None:
        return analysis
    before = stage.statement.read(analysis.body)
    after = before.with_levels_named(of.column, of.names)
    if outcome:
        after = after.with_codes_named(of.names)
    if after == before:
        return analysis
    return replace(analysis, body=after.model_dump(mode="json"))


def _follow_up(statement: FollowUpStatement, of: Renaming) -> FollowUpStatement:
    """A statement, and those that wait in it, with what their codes mean under the new names."""
    others = tuple(_named(other, of) for other in statement.others)
    return _named(statement, of).model_copy(update={"others": others})


def _named(statement: S, of: Renaming) -> S:
    if statement.outcome != of.column:
        return statement
    meanings = {of.names.get(code, code): meaning for code, meaning in statement.meanings.items()}
    return statement.model_copy(update={"meanings": meanings})


def _group(group: str, of: Renaming) -> str:
    column, _, level = group.partition(": ")
    return f"{column}: {of.names[level]}" if column == of.column and level in of.names else group
