"""The numbers of the parts of Model that fit many models: kept ones, candidates, each cause."""

from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.analysis.model.fit_numbers import FitNumbers, fitted_numbers
from hourglass.analysis.model.new_term import candidate_terms
from hourglass.analysis.model.stated import LEVEL_OF_STUDY, level_of_study, model_of
from hourglass.analysis.model.statement import MODEL_FIELDS, HazardsModel
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.shared.declared import Statements
from hourglass.analysis.shared.numbers import Numbers, Refused
from hourglass.cohort.followup import Cohort
from hourglass.core.progress import ProgressCallback


@dataclass(frozen=True, slots=True)
class KeptNumbers:
    """The model that is shown, and the kept ones by their letter."""

    shown: FitNumbers | Refused
    kept: dict[str, FitNumbers | Refused]


def kept_numbers(cohort: Cohort, stated: Statements, progress: ProgressCallback) -> KeptNumbers:
    """Fit every kept model."""
    statement, of_study = model_of(stated), level_of_study(stated)
    first = fitted_numbers(cohort, statement.hazards_model, of_study, progress)
    found = {}
    for k, one in enumerate(statement.kept):
        progress(f"fitting model {one.letter}", 0.3 + 0.7 * k / len(statement.kept))
        found[one.letter] = fitted_numbers(cohort, one.model, of_study, progress)
    return KeptNumbers(first, found)


KEPT = Numbers({"model": (*MODEL_FIELDS, "kept"), **LEVEL_OF_STUDY}, kept_numbers)


@dataclass(frozen=True, slots=True)
class CandidateNumbers:
    """All candidates in one model, and each alone."""

    together: FitNumbers | Refused
    alone: tuple[FitNumbers | Refused, ...]


def candidate_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> CandidateNumbers:
    """Fit every candidate, alone on the rows that have it, and together on those that have all."""
    statement, of_study = model_of(stated), level_of_study(stated)
    model = statement.hazards_model
    terms = candidate_terms(cohort, statement.candidates)
    together = fitted_numbers(cohort, _with_terms(model, terms), of_study, progress)
    alone = []
    for k, term in enumerate(terms):
        progress(f"{term.column} alone", 0.2 + 0.8 * k / len(terms))
        alone.append(fitted_numbers(cohort, _with_terms(model, (term,)), of_study, progress))
    return CandidateNumbers(together, tuple(alone))


def _with_terms(model: HazardsModel, terms: Sequence[Term]) -> HazardsModel:
    return model.model_copy(update={"terms": tuple(terms)})


WITHOUT_TERMS = tuple(name for name in MODEL_FIELDS if name != "terms")
CANDIDATES = Numbers({"model": (*WITHOUT_TERMS, "candidates"), **LEVEL_OF_STUDY}, candidate_numbers)


def cause_numbers(
    cohort: Cohort, stated: Statements, progress: ProgressCallback
) -> tuple[FitNumbers | Refused, ...]:
    """The same terms with each cause as the event in turn, that of the study first."""
    model, causes = model_of(stated).hazards_model, ("", *cohort.competing)
    found = []
    for k, code in enumerate(causes):
        progress(f"fitting cause {k + 1} of {len(causes)}", k / len(causes))
        of_cause = model.model_copy(update={"cause": code})
        found.append(fitted_numbers(cohort, of_cause, level_of_study(stated), progress))
    return tuple(found)


WITHOUT_CAUSE = tuple(name for name in MODEL_FIELDS if name != "cause")
CAUSES = Numbers({"model": WITHOUT_CAUSE, **LEVEL_OF_STUDY}, cause_numbers)
