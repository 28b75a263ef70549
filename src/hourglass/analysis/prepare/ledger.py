"""The row ledger: where the rows went, from the file to the analysis."""

from collections.abc import Sequence

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.derive import Derivation, Derived
from hourglass.cohort.followup import Cohort
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import StepEffect
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.table import Table


class Loss(FrozenModel):
    """Rows lost, and why; ``becomes`` is the number of rows after another layout was made."""

    why: str
    rows: int
    becomes: int | None = None


class LedgerView(FrozenModel):
    """Rows read, set aside and analysed: read, lost for each reason, analysed (null while blocked).

    ``standing_for`` is how many subjects the analysed rows stand for, where they have counts;
    ``ended_early`` how many rows are followed less long than they could be, by decision.
    """

    read: int
    lost: list[Loss]
    analysed: int | None
    standing_for: int | None = None
    ended_early: int = 0


def ledger(
    table: Table,
    steps: Sequence[PlacedStep],
    effects: Sequence[StepEffect],
    statement: FollowUpStatement,
    cohort: Cohort | None,
    derived: Derived,
) -> LedgerView:
    """Lines for the steps that left rows out, then for what the statement leaves out.

    Args:
        derived: the times that the statement makes of the rows left.
        steps, effects: those that are switched on, in order, with what each did.
    """
    lost = []
    for placed, effect in zip(steps, effects, strict=True):
        if effect.becomes is not None:
            lost += [Loss(why=left.why, rows=left.rows) for left in effect.left_out]
            lost.append(Loss(why=effect.name, rows=0, becomes=effect.becomes))
        elif effect.rows_set_aside:
            step = placed.step
            why = step.why if isinstance(step, SetAside) else effect.name
            lost.append(Loss(why=why, rows=effect.rows_set_aside))
    early = 0
    if isinstance(derived, Derivation):
        made = shaped(derived, statement)
        lost += [Loss(why=line.label, rows=line.rows) for line in made.lost]
        early = made.ended_early
    counted = cohort is not None and statement.count is not None
    return LedgerView(
        read=table.size,
        lost=lost,
        analysed=None if cohort is None else cohort.table.size,
        standing_for=cohort.follow_up.size if counted and cohort is not None else None,
        ended_early=early,
    )
