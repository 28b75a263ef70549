"""The numbers of the parts of Model that are fitted again on samples of the rows."""

import numpy as np

from hourglass.analysis.model.adjusted import Adjusted, adjusted_levels
from hourglass.analysis.model.fitting import fit_model, fit_parted
from hourglass.analysis.model.profiles import core_profile, whom
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.stated import LEVEL_OF_STUDY, level_of, model_of
from hourglass.analysis.model.statement import FIT_FIELDS
from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.adjusted import SAMPLES
from hourglass.core.regression.predicted_means import PredictedMeans, predicted_means

SEED = 1


def mean_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> PredictedMeans | Refused:
    """Every profile's mean up to the end of the shortest of their curves, with limits of refits."""
    statement = model_of(stated)
    model = statement.hazards_model
    try:
        fitted = fit_parted(cohort, model, progress)
        coded = fitted.design
        fitted.require_unpenalised()
        fitted.require_constant_values()
        subjects = [whom(cohort, model, profile) for profile in statement.profiles]
        profiles = [core_profile(cohort, coded, model, one) for one in subjects]
        made = fitted.baselines()
        limit = min((made[p.stratum].last for p in profiles if p.stratum in made), default=0.0)
        return predicted_means(
            coded.data,
            coded.x,
            fitted.plain,
            profiles,
            limit,
            SEED,
            level_of(stated),
            progress=progress,
            over_time=coded.over_time,
        )
    except HourglassError as why:
        return Refused(str(why))


OF_SAMPLES = (*FIT_FIELDS, "robust", "confidence")
MEANS = Numbers({"model": (*OF_SAMPLES, "profiles"), **LEVEL_OF_STUDY}, mean_numbers)


def adjusted_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> Adjusted | Refused | None:
    """The adjusted curves at the chosen times, with limits of refits; None where none are requested."""
    statement = model_of(stated)
    try:
        fitted = fit_model(cohort, statement.hazards_model, progress)
    except HourglassError as why:
        return Refused(str(why))
    times = np.array(reading_times(cohort, statement))
    return adjusted_levels(
        cohort, fitted, statement.adjusted, level_of(stated), times, SAMPLES, progress
    )


ADJUSTED = Numbers(
    {"model": (*OF_SAMPLES, "adjusted", "times"), **LEVEL_OF_STUDY}, adjusted_numbers
)
