"""What is shown of a model applied to another cohort."""

from pydantic import Field

from hourglass.analysis.applied.run import Applied, applied
from hourglass.analysis.check.calibration_readouts import calibration_track, differences
from hourglass.analysis.model.kept_models import model_words
from hourglass.analysis.model.ranking import in_figures
from hourglass.analysis.model.statement import HazardsModel
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate, limits_shown, number_cell, words
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.curve_form import ci
from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.analysis.shared.statement import USUAL_LEVEL
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback
from hourglass.core.regression.calibration import Calibration
from hourglass.core.regression.concordance import Concordance

NOTE = "The rows that made the model are not among these, unless both files hold them."


class AppliedResult(FrozenModel):
    """A model applied to another cohort, in words and figures; ``blank`` gives the reason it cannot be.

    Attributes:
        model: which, in words; ``time``: at which survival is predicted.
        figure: predicted survival against what was seen.
    """

    model: str
    blank: str | None = None
    time: float | None = None
    sections: list[Section] = Field(default_factory=list)
    figure: Figure | None = None


def applied_result(
    own: Cohort, model: HazardsModel, other: Cohort, time: float | None, progress: ProgressCallback
) -> AppliedResult:
    """Apply a model to another cohort, in words and figures."""
    try:
        found = applied(own, model, other, time, progress)
    except HourglassError as why:
        blank = f"The model cannot be applied: {why}."
        return AppliedResult(model=model_words(model), blank=blank)
    return applied_in_words(own, model, other, found)


def applied_in_words(
    own: Cohort, model: HazardsModel, other: Cohort, found: Applied
) -> AppliedResult:
    """What is shown of a model that was applied."""
    text = model_words(model)
    drawn = None
    if isinstance(found.calibration, Calibration):
        track = calibration_track(found.calibration, own.statement.unit, NOTE)
        name = f"Calibration of {text} on other rows"
        drawn = over_follow_up(other, name, [track], None).model_copy(update={"time": None})
    return AppliedResult(
        model=text,
        time=found.time,
        sections=[_rows(found), *_tenths(found), differences(found.calibration)],
        figure=drawn,
    )


def _rows(found: Applied) -> Section:
    rows: list[list[Cell]] = [
        [words("Rows that it is applied to"), _count(found.data.size)],
        *([words(f"Left out: {one.why}"), _count(one.rows)] for one in found.rows.left_out),
        [words("Observed events"), _count(found.events)],
        [
            words("Events that it expects while they are followed"),
            number_cell(formatting.rounded(found.expected, 1), found.expected),
        ],
        *(
            [
                [
                    words("Followed longer than the model: it expects nothing then"),
                    _count(found.beyond),
                ]
            ]
            if found.beyond
            else []
        ),
        [words("Concordance here"), _ranking(found.there)],
        [words("Concordance where it was fitted"), _ranking(found.here)],
    ]
    about = (
        "Concordance is given with its standard error. Where it was fitted, the same rows made the model, "
        "which flatters it."
    )
    table = Table(label="The model on other rows", keys=["what", "is"], rows=rows)
    return Section(
        id=SectionId.APPLIED, title="The model on other rows", blocks=[table, quiet(about)]
    )


def _tenths(found: Applied) -> list[Section]:
    if not isinstance(found.calibration, Calibration):
        return []
    when = formatting.plain(found.time)
    rows = []
    for tenth in found.calibration.tenths:
        seen = tenth.seen
        rows.append(
            [
                _count(tenth.subjects),
                number_cell(formatting.percent(tenth.predicted), tenth.predicted),
                words("nobody left")
                if seen is None
                else estimate(
                    formatting.percent(seen.survival), seen.survival, seen.lower, seen.upper
                ),
                limits_shown("")
                if seen is None or seen.lower is None or seen.upper is None
                else limits_shown(
                    f"{formatting.percent(seen.lower)} to {formatting.percent(seen.upper)}"
                ),
            ]
        )
    title = f"Survival at {when}, by deciles of predicted survival"
    head = ["subjects", "predicted", "observed", ci(USUAL_LEVEL)]
    keys = ["subjects", "predicted", "observed", "interval"]
    return [
        Section(
            id=SectionId.TENTHS,
            title=title,
            blocks=[Table(label=title, head=head, keys=keys, rows=rows)],
        )
    ]


def _count(n: int) -> Cell:
    return number_cell(formatting.grouped(n), n)


def _ranking(found: Concordance) -> Cell:
    return number_cell(in_figures(found) or found.blank or "no pair can be compared", found.value)
