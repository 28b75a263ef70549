"""A level's name is that of the table: given anywhere, it becomes a step in Prepare."""

from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.levels import ReadAsText, RespellLevels
from hourglass.cohort.steps.step import BrokenStepError
from hourglass.cohort.table import NumberColumn, Table, TextColumn


def naming_steps(table: Table, column: str, level: str, name: str) -> list[Step]:
    """The steps that give a level its name; a column of numbers is first taken for a category.

    Raises:
        BrokenStepError: when there is no such level, or another is called that.
    """
    if not table.has(column):
        raise BrokenStepError(f"there is no column “{column}” now")
    held = table.column(column)
    steps: list[Step] = []
    if isinstance(held, NumberColumn):
        as_text = ReadAsText(column=column)
        held = as_text.on(table).table.column(column)
        steps.append(as_text)
    if not isinstance(held, TextColumn) or level not in held.levels:
        raise BrokenStepError(f"{column} has no level “{level}” now")
    name = name.strip()
    if not name:
        raise BrokenStepError("a level needs a name")
    if name != level and name in held.counts():
        raise BrokenStepError(
            f"another level of {column} is called “{name}”; levels are merged in Prepare"
        )
    return [*steps, RespellLevels(column=column, spelling={level: name}, in_place=True)]


def respelled_again(last: RespellLevels, steps: list[Step]) -> RespellLevels | None:
    """A step that names levels, with one name more; None if the steps do not only go on from it."""
    new = steps[-1]
    if len(steps) > 1 or not isinstance(new, RespellLevels):
        return None
    if last.column != new.column or last.into or not last.in_place:
        return None
    spelling = {a: new.spelling.get(b, b) for a, b in last.spelling.items()}
    added = {a: b for a, b in new.spelling.items() if a not in last.spelling.values()}
    return last.model_copy(update={"spelling": {**spelling, **added}})
