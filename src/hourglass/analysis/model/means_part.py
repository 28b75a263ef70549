"""The part of Model that shows predicted restricted means with percentile limits of refits
(methods.md, section 4: Proportional hazards regression, "Predicted quantiles")."""

import numpy as np

from hourglass.analysis.model.distinguished import levels_drawn, tones_of_profiles
from hourglass.analysis.model.offers import means_offer
from hourglass.analysis.model.profiles import Whom, whom
from hourglass.analysis.model.sampled import MEANS, SEED
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.groups import Groups
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, quiet
from hourglass.cohort.followup import Cohort
from hourglass.core.regression.adjusted import SAMPLES
from hourglass.core.regression.predicted_means import PredictedMeans

TITLE = "Predicted restricted means, with limits"


class MeansOfProfiles(PartResult):
    """The mean up to a limit that the model predicts for each profile."""


def means_of_profiles(
    numbers: PredictedMeans | Refused, cohort: Cohort, statements: Statements
) -> MeansOfProfiles:
    """Every profile's mean up to the end of the shortest of their curves."""
    statement = statement_of(statements, ModelStatement)
    if not statement.profiles:
        return MeansOfProfiles(sections=[_section([quiet("No profile is stated.")])])
    if isinstance(numbers, Refused):
        return MeansOfProfiles(sections=[_section([quiet(f"No means: {numbers.why}.")])])
    form, model = study_form(statements).at_level(statement.confidence), statement.hazards_model
    subjects = [whom(cohort, model, profile) for profile in statement.profiles]
    table = _table(cohort, subjects, numbers, form.ci, levels_drawn(cohort, statement))
    about = quiet(
        f"Percentile limits of {SAMPLES} bootstrap refits (seed {SEED}); {numbers.left_out} were left out."
    )
    return MeansOfProfiles(sections=[_section([table, about])])


def _section(blocks: list[ContentBlock]) -> Section:
    return Section(id=SectionId.MEANS, title=TITLE, place="main", blocks=blocks)


def _table(
    cohort: Cohort,
    subjects: list[Whom],
    found: PredictedMeans,
    interval: str,
    levels: Groups | None,
) -> Table:
    decimals = cohort.decimals
    rows: list[list[Cell]] = []
    for k, tone in enumerate(tones_of_profiles(subjects, levels)):
        value, low, high = (float(v[k]) for v in (found.mean, found.lower, found.upper))
        shown = formatting.computed_time(value, decimals)
        if np.isfinite([low, high]).all():
            limits = formatting.interval(
                formatting.computed_time(low, decimals), formatting.computed_time(high, decimals)
            )
            shown = f"{shown} ({limits})"
        rows.append([words(subjects[k].label, tone=tone), estimate(shown, value, low, high)])
    to = formatting.time(found.limit, cohort.decimals)
    head = ["", f"restricted mean to {to} {cohort.statement.unit} ({interval})"]
    return Table(label=TITLE, head=head, keys=["profile", "restricted_mean"], rows=rows)


PART = DeferredSection(
    key="means",
    title=TITLE,
    result=MeansOfProfiles,
    numbers=MEANS,
    show=means_of_profiles,
    offer=means_offer,
)
