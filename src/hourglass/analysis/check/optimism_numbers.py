"""The numbers of the part of Check that fits the model again on samples
(methods.md, section 9: Validation of a model)."""

from hourglass.analysis.model.fitting import fit_parted
from hourglass.analysis.model.statement import FIT_FIELDS, ModelStatement
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.optimism import Optimism, optimism

SEED = 1


def optimism_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> Optimism | Refused:
    """The concordance of the model, and what is left of it in rows that it was not fitted on."""
    model = statement_of(stated, ModelStatement).hazards_model
    try:
        fitted = fit_parted(cohort, model, progress)
        fitted.require_unpenalised()
        coded = fitted.design
        return optimism(coded.data, coded.x, fitted.plain, SEED, progress=progress)
    except HourglassError as why:
        return Refused(str(why))


OPTIMISM = Numbers({"model": (*FIT_FIELDS, "robust")}, optimism_numbers)
