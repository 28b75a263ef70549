"""The stages, each an entry of an explicit table: nothing else lists them."""

from hourglass.analysis.check import workings as check_workings
from hourglass.analysis.check.field_words import CHECK_WORDS
from hourglass.analysis.check.numbers import NUMBERS as CHECK_NUMBERS
from hourglass.analysis.check.parts import PARTS as CHECK_PARTS
from hourglass.analysis.check.result import CheckResult, check_result
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare import workings as compare_workings
from hourglass.analysis.compare.field_words import COMPARE_WORDS
from hourglass.analysis.compare.key_numbers import key_numbers as of_compare
from hourglass.analysis.compare.numbers import NUMBERS as COMPARE_NUMBERS
from hourglass.analysis.compare.parts import PARTS as COMPARE_PARTS
from hourglass.analysis.compare.result import CompareResult, compare_result
from hourglass.analysis.compare.statement import CompareStatement, first_comparison
from hourglass.analysis.compare.tried import tried_comparison
from hourglass.analysis.estimate import workings as estimate_workings
from hourglass.analysis.estimate.field_words import ESTIMATE_WORDS
from hourglass.analysis.estimate.key_numbers import key_numbers as of_estimate
from hourglass.analysis.estimate.numbers import NUMBERS as ESTIMATE_NUMBERS
from hourglass.analysis.estimate.result import EstimateResult, estimate_result
from hourglass.analysis.estimate.statement import EstimateStatement, first_estimate
from hourglass.analysis.estimate.tried import tried_estimate
from hourglass.analysis.model import workings as model_workings
from hourglass.analysis.model.field_words import MODEL_WORDS
from hourglass.analysis.model.key_numbers import key_numbers as of_model
from hourglass.analysis.model.numbers import NUMBERS as MODEL_NUMBERS
from hourglass.analysis.model.parts import PARTS as MODEL_PARTS
from hourglass.analysis.model.result import ModelResult, model_result
from hourglass.analysis.model.sentence import first_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.stage import Stage
from hourglass.cohort.followup import Cohort


def _first_check(cohort: Cohort) -> CheckStatement:
    return CheckStatement()


def _in_doubt(result: CheckResult) -> str:
    return "in doubt" if result.verdict in ("in doubt", "fails") else ""


STAGES: tuple[Stage, ...] = (
    Stage(
        name="estimate",
        title="Estimate",
        about="Survival of all subjects, or by group.",
        statement=EstimateStatement,
        result=EstimateResult,
        numbers=ESTIMATE_NUMBERS,
        show=estimate_result,
        reads=("estimate",),
        default=first_estimate,
        field_words=ESTIMATE_WORDS,
        tries=tried_estimate,
        workings=estimate_workings.WORKINGS,
        key_numbers=of_estimate,
    ),
    Stage(
        name="compare",
        title="Compare",
        about="Survival by group, and the test.",
        statement=CompareStatement,
        result=CompareResult,
        numbers=COMPARE_NUMBERS,
        show=compare_result,
        reads=("estimate", "compare"),
        default=first_comparison,
        field_words=COMPARE_WORDS,
        tries=tried_comparison,
        parts=COMPARE_PARTS,
        workings=compare_workings.WORKINGS,
        key_numbers=of_compare,
    ),
    Stage(
        name="model",
        title="Model",
        about="The hazards model.",
        statement=ModelStatement,
        result=ModelResult,
        numbers=MODEL_NUMBERS,
        show=model_result,
        reads=("estimate", "model"),
        default=first_model,
        field_words=MODEL_WORDS,
        parts=MODEL_PARTS,
        workings=model_workings.WORKINGS,
        key_numbers=of_model,
        several_views=False,
    ),
    Stage(
        name="check",
        title="Check",
        about="The model's checks.",
        statement=CheckStatement,
        result=CheckResult,
        numbers=CHECK_NUMBERS,
        show=check_result,
        reads=("estimate", "model", "check"),
        default=_first_check,
        field_words=CHECK_WORDS,
        mark=_in_doubt,
        parts=CHECK_PARTS,
        workings=check_workings.WORKINGS,
        opens_too=("model",),
    ),
)
