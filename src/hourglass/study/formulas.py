"""Formulas over many rows, worked out by another process and remembered."""

from collections.abc import Mapping

from hourglass.cohort.steps.apply import NOTHING_MADE, Made, NotMade
from hourglass.cohort.steps.numbers import NewColumn
from hourglass.study.processes import WorkEndedError
from hourglass.study.recent import Recent
from hourglass.study.source import Source
from hourglass.study.tasks import RunFormulas
from hourglass.study.work import Executor, WorkUnderWay

ROWS_WORKED_OUT_AT_ONCE = 20_000
"""Rows up to which formulas are worked out where they are wanted, within some tens of milliseconds."""
TOO_MUCH = "the formulas need more memory than there is: make columns of their parts"
_made: Recent[Mapping[int, Made]] = Recent("columns by formulas")


class FormulasElsewhere:
    """Has an executor work formulas out, so that they take neither this process's memory nor its time."""

    def __init__(self, under_way: WorkUnderWay, executor: Executor) -> None:
        self._under_way, self._executor = under_way, executor

    def __call__(self, source: Source) -> Mapping[int, Made]:
        """What the formulas among the steps of a source make; waits for it.

        Raises:
            CancelledError: when somebody has cancelled the work.
        """
        places = [k for k, step in enumerate(source.steps) if isinstance(step, NewColumn)]
        if not places or source.rows <= ROWS_WORKED_OUT_AT_ONCE:
            return NOTHING_MADE
        up_to_last = source.with_steps(source.steps[: places[-1] + 1])
        return _made.get(up_to_last.steps_hash, lambda: self._work_out(up_to_last, places))

    def _work_out(self, source: Source, places: list[int]) -> Mapping[int, Made]:
        key = ("formulas", source.steps_hash)
        work = self._under_way.start(key, RunFormulas(source), self._executor)
        try:
            made: dict[int, Made] = work.future.result()
        except WorkEndedError:
            return dict.fromkeys(places, NotMade(TOO_MUCH))
        return made
