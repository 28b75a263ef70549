"""Each term of a model by itself, in the same rows as the whole model."""

from hourglass.analysis.model.fit_numbers import FitNumbers, fit_numbers, of_design
from hourglass.analysis.model.fitting import FittedModel, fit_design
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import ProgressCallback


def terms_alone(
    fitted: FittedModel, confidence: float, progress: ProgressCallback
) -> tuple[FitNumbers | None, ...]:
    """The fit of each term; None for one that cannot be fitted so. None at all of a single term."""
    if len(fitted.design.terms) == 1:
        return ()
    return tuple(_alone(fitted, k, confidence, progress) for k in range(len(fitted.design.terms)))


def _alone(
    fitted: FittedModel, term: int, confidence: float, progress: ProgressCallback
) -> FitNumbers | None:
    if fitted.design.stated_terms[term].of_terms:
        return None
    progress(f"{fitted.design.terms[term]} on its own", 0.3)
    own = fitted.design.with_columns(fitted.design.of_term(term))
    try:
        return fit_numbers(fit_design(own, fitted.model, progress, fitted.sets), confidence)
    except NotEstimableError:
        return None


def fitted_alone(
    fitted: FittedModel, known: tuple[FitNumbers | None, ...]
) -> tuple[FittedModel | None, ...]:
    """The fitted models that the numbers of the terms are of."""
    return tuple(
        None
        if one is None
        else of_design(fitted.design.with_columns(fitted.design.of_term(k)), fitted.model, one)
        for k, one in enumerate(known)
    )
