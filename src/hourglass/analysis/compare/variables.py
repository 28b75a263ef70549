"""The variables that can be tested in turn, and their tests (methods.md, section 3: Comparing groups)."""

from dataclasses import dataclass
from typing import cast

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared.groups import categories, group_by, numbers
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.comparison.screening import Candidate, Category, Screened, Tertiles, screen

THIRDS = ("lower third", "middle third", "upper third")


@dataclass(frozen=True, slots=True)
class Variable:
    """A variable of the screen: the labels of its groups, and how the core forms them."""

    name: str
    labels: tuple[str, ...]
    candidate: Candidate

    @property
    def split(self) -> bool:
        """Whether a number is parted into thirds."""
        return isinstance(self.candidate, Tertiles)


def variables_of(cohort: Cohort) -> tuple[Variable, ...]:
    """Every category by its levels, every other number by its tertiles."""
    named = categories(cohort)
    return (
        *(_category(cohort, name) for name in named),
        *(_thirds(cohort, name) for name in numbers(cohort) if name not in named),
    )


def screened(cohort: Cohort, statement: CompareStatement) -> tuple[Screened, ...]:
    """The test of each variable, the strongest first."""
    return screen(
        cohort.follow_up,
        [v.candidate for v in variables_of(cohort)],
        WEIGHTS[statement.weight].method,
        adjustment=ADJUSTMENTS[statement.adjustment].method,
    )


def _category(cohort: Cohort, name: str) -> Variable:
    groups = group_by(cohort.table, name, None)
    return Variable(name, groups.labels, Category(groups.code))


def _thirds(cohort: Cohort, name: str) -> Variable:
    column = cast(NumberColumn, cohort.table.column(name))
    return Variable(name, THIRDS, Tertiles(column.values))
