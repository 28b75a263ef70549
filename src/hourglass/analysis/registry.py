"""The stages that analyse a cohort, each on one line of an explicit table: nothing else lists them."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, cast

from pydantic import BaseModel

from hourglass.analysis.check import CheckResult, check
from hourglass.analysis.compare import CompareResult, compare
from hourglass.analysis.defaults import first_comparison, first_model, round_times
from hourglass.analysis.estimate import EstimateResult, estimate
from hourglass.analysis.model import ModelResult, model
from hourglass.analysis.statements import (
    CheckStatement,
    CompareStatement,
    EstimateStatement,
    ModelStatement,
    ReportStatement,
    Stage,
    Statement,
)
from hourglass.analysis.watch import Watch
from hourglass.cohort.followup import Cohort

Statements = Mapping[Stage, Statement]


@dataclass(frozen=True, slots=True)
class Analysis:
    """A stage that analyses a cohort.

    Attributes:
        name: what the stage is called, in addresses and in the database.
        about: in a sentence, for the description of the interface.
        result: the type of its result, which has a ``headline`` for the spine.
        needs: the stages whose statements its result follows from, its own among them.
        default: what it states before anybody has changed its statement.
        run: its result, from the cohort and the statements it needs.
        mark: what the spine shows when something in the result is in doubt; blank otherwise.
    """

    name: Stage
    about: str
    result: type[BaseModel]
    needs: tuple[Stage, ...]
    default: Callable[[Cohort], Statement]
    run: Callable[[Cohort, Statements, Watch], BaseModel]
    mark: Callable[[Any], str] = lambda result: ""


def _estimate(cohort: Cohort, asked: Statements, watch: Watch) -> EstimateResult:
    return estimate(cohort, cast(EstimateStatement, asked["estimate"]), watch)


def _compare(cohort: Cohort, asked: Statements, watch: Watch) -> CompareResult:
    times = cast(EstimateStatement, asked["estimate"]).times
    return compare(cohort, cast(CompareStatement, asked["compare"]), times, watch)


def _model(cohort: Cohort, asked: Statements, watch: Watch) -> ModelResult:
    clock = cast(CheckStatement, asked["check"]).clock
    return model(cohort, cast(ModelStatement, asked["model"]), watch, clock)


def _check(cohort: Cohort, asked: Statements, watch: Watch) -> CheckResult:
    of, how = cast(ModelStatement, asked["model"]), cast(CheckStatement, asked["check"])
    return check(cohort, of, how, watch)


def _in_doubt(result: CheckResult) -> str:
    return "in doubt" if result.verdict in ("in doubt", "fails") else ""


ANALYSES: tuple[Analysis, ...] = (
    Analysis(
        "estimate",
        "Survival of everyone.",
        EstimateResult,
        ("estimate",),
        lambda cohort: EstimateStatement(times=round_times(cohort)),
        _estimate,
    ),
    Analysis(
        "compare",
        "Survival by group, and the test.",
        CompareResult,
        ("estimate", "compare"),
        first_comparison,
        _compare,
    ),
    Analysis("model", "The hazards model.", ModelResult, ("model", "check"), first_model, _model),
    Analysis(
        "check",
        "The model's checks.",
        CheckResult,
        ("model", "check"),
        lambda cohort: CheckStatement(),
        _check,
        _in_doubt,
    ),
)
_BY_NAME = {analysis.name: analysis for analysis in ANALYSES}


def analysis_of(stage: Stage) -> Analysis:
    """The analysis of that name."""
    return _BY_NAME[stage]


def default_statement(stage: Stage, cohort: Cohort) -> Statement:
    """What a stage states before anybody has changed its statement."""
    return ReportStatement() if stage == "report" else analysis_of(stage).default(cohort)


def statements_for(analysis: Analysis, own: Statements, cohort: Cohort) -> dict[Stage, Statement]:
    """The statements that an analysis needs: those somebody wrote, else what stages start from."""
    return {name: own.get(name) or default_statement(name, cohort) for name in analysis.needs}
