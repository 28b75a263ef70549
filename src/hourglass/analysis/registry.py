"""The stages that analyse a cohort, each an entry of an explicit table: nothing else lists them."""

from typing import cast

from hourglass.analysis.check import workings as check_workings
from hourglass.analysis.check.field_words import CHECK_WORDS
from hourglass.analysis.check.parts import PARTS as CHECK_PARTS
from hourglass.analysis.check.run import CheckResult, check
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare import workings as compare_workings
from hourglass.analysis.compare.field_words import COMPARE_WORDS
from hourglass.analysis.compare.key_numbers import key_numbers as compare_numbers
from hourglass.analysis.compare.parts import PARTS as COMPARE_PARTS
from hourglass.analysis.compare.run import CompareResult, compare
from hourglass.analysis.compare.statement import CompareStatement, first_comparison
from hourglass.analysis.estimate import workings as estimate_workings
from hourglass.analysis.estimate.field_words import ESTIMATE_WORDS
from hourglass.analysis.estimate.key_numbers import key_numbers as estimate_numbers
from hourglass.analysis.estimate.run import EstimateResult, estimate
from hourglass.analysis.estimate.statement import EstimateStatement, first_estimate
from hourglass.analysis.model import workings as model_workings
from hourglass.analysis.model.field_words import MODEL_WORDS
from hourglass.analysis.model.key_numbers import key_numbers as model_numbers
from hourglass.analysis.model.parts import PARTS as MODEL_PARTS
from hourglass.analysis.model.run import ModelResult, model
from hourglass.analysis.model.sentence import first_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.curve_form import FORM_FIELDS, study_form
from hourglass.analysis.shared.curve_words import NO_INTERVAL
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.stage import Stage, Statements
from hourglass.analysis.shared.tried_curves import tried_curves
from hourglass.cohort.followup import Cohort
from hourglass.core.regression.time_functions import TIME_FUNCTIONS
from hourglass.core.variants import variant
from hourglass.core.watch import Watch


def _estimate(cohort: Cohort, asked: Statements, watch: Watch) -> EstimateResult:
    return estimate(cohort, cast(EstimateStatement, asked["estimate"]), watch)


def _compare(cohort: Cohort, asked: Statements, watch: Watch) -> CompareResult:
    of_curves = cast(EstimateStatement, asked["estimate"])
    return compare(cohort, cast(CompareStatement, asked["compare"]), of_curves, watch)


def _model(cohort: Cohort, asked: Statements, watch: Watch) -> ModelResult:
    key = cast(CheckStatement, asked["check"]).time_function
    statement = cast(ModelStatement, asked["model"])
    return model(cohort, statement, watch, variant(TIME_FUNCTIONS, key), study_form(asked))


def _check(cohort: Cohort, asked: Statements, watch: Watch) -> CheckResult:
    of, how = cast(ModelStatement, asked["model"]), cast(CheckStatement, asked["check"])
    return check(cohort, of, how, watch, study_form(asked))


def _try_estimate(cohort: Cohort, asked: Statements) -> Figure:
    statement = cast(EstimateStatement, asked["estimate"])
    return tried_curves(
        cohort, statement, statement.form, shaded=statement.intervals != NO_INTERVAL
    )


def _try_compare(cohort: Cohort, asked: Statements) -> Figure:
    statement = cast(CompareStatement, asked["compare"])
    return tried_curves(cohort, statement, study_form(asked), shaded=False)


def _first_check(cohort: Cohort) -> CheckStatement:
    return CheckStatement()


def _in_doubt(result: CheckResult) -> str:
    return "in doubt" if result.verdict in ("in doubt", "fails") else ""


STAGES: tuple[Stage, ...] = (
    Stage(
        name="estimate",
        title="Estimate",
        about="Survival of everyone.",
        statement=EstimateStatement,
        result=EstimateResult,
        needs=("estimate",),
        default=first_estimate,
        run=_estimate,
        field_words=ESTIMATE_WORDS,
        tries=_try_estimate,
        workings=estimate_workings.WORKINGS,
        key_numbers=estimate_numbers,
    ),
    Stage(
        name="compare",
        title="Compare",
        about="Survival by group, and the test.",
        statement=CompareStatement,
        result=CompareResult,
        needs=("estimate", "compare"),
        takes={"estimate": (*FORM_FIELDS, "times", "limit")},
        default=first_comparison,
        run=_compare,
        field_words=COMPARE_WORDS,
        tries=_try_compare,
        parts=COMPARE_PARTS,
        workings=compare_workings.WORKINGS,
        key_numbers=compare_numbers,
    ),
    Stage(
        name="model",
        title="Model",
        about="The hazards model.",
        statement=ModelStatement,
        result=ModelResult,
        needs=("estimate", "model", "check"),
        takes={"estimate": FORM_FIELDS},
        default=first_model,
        run=_model,
        field_words=MODEL_WORDS,
        parts=MODEL_PARTS,
        workings=model_workings.WORKINGS,
        key_numbers=model_numbers,
    ),
    Stage(
        name="check",
        title="Check",
        about="The model's checks.",
        statement=CheckStatement,
        result=CheckResult,
        needs=("estimate", "model", "check"),
        takes={"estimate": FORM_FIELDS},
        default=_first_check,
        run=_check,
        field_words=CHECK_WORDS,
        mark=_in_doubt,
        parts=CHECK_PARTS,
        workings=check_workings.WORKINGS,
        asks_for=("model",),
    ),
)
