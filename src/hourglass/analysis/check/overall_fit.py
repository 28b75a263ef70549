"""Fit and ranking: Cox–Snell residuals against the diagonal, concordance, calibration
(methods.md, section 6: Residuals and checks)."""

import numpy as np

from hourglass.analysis.check.calibration_readouts import calibration_track, differences
from hourglass.analysis.check.checked import Checked
from hourglass.analysis.check.parts import TITLE as OPTIMISM
from hourglass.analysis.check.parts import optimism_offer
from hourglass.analysis.check.question import Answer, Question, WordedVerdict, not_weighed
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import OVERALL_FIT
from hourglass.analysis.model.ranking import TITLE, in_figures, ranking_table
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import WorkingsOf
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import AnyMark, Area, Line
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.round_times import middle_of_follow_up
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, quiet
from hourglass.analysis.shared.sentence import Entry, Slot
from hourglass.cohort.followup import Cohort
from hourglass.core.curves.hazard import cumulative_hazard
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.followup import follow_up
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.calibration import Calibration, calibration
from hourglass.core.regression.concordance import Concordance
from hourglass.core.risk_table import risk_table

TENTH = "tenth-of-calibration"


def reading_time(cohort: Cohort, statement: CheckStatement) -> float:
    """The time at which predictions are compared: as stated, else the middle of the follow-up."""
    if statement.time is not None:
        return min(statement.time, cohort.follow_up.end)
    return middle_of_follow_up(cohort)


def _sentence_parts(
    cohort: Cohort, stated: ModelStatement, statement: CheckStatement
) -> list[str | Slot]:
    at = formatting.plain(reading_time(cohort, statement))
    unit = cohort.statement.unit
    slot = Slot(
        id="time",
        label=f"{at} {unit}",
        title="Time at which predictions are compared",
        entry=Entry(kind="number", field="time", label=f"Time, in {unit}", value=at),
    )
    return ["does it fit overall and rank well, and are its predictions right at ", slot, "?"]


def _verdict(checked: Checked, found: Concordance | Refused) -> WordedVerdict:
    if isinstance(found, Refused):
        return not_weighed(found)
    if found.value is None:
        return WordedVerdict("unknown", found.blank or "no pair can be compared")
    text = f"concordance {in_figures(found)}"
    low = found.value - normal_quantile(0.95) * (found.standard_error or 0.0)
    if low > 0.5:
        return WordedVerdict("holds", text)
    return WordedVerdict("in doubt", f"{text}: chance would do as well")


def _answer(checked: Checked, found: Concordance | Refused) -> Answer:
    compared = calibration_of(checked)
    tracks = [_cox_snell(checked)]
    if isinstance(compared, Calibration):
        note = "The same rows made the predictions, so this flatters the model."
        unit = checked.cohort.statement.unit
        tracks.append(calibration_track(compared, unit, note, WorkingsOf(figure=TENTH)))
    return Answer(tracks, [_concordance(found), _optimism(checked), differences(compared)])


def _optimism(checked: Checked) -> Section:
    """Without being requested where it takes seconds."""
    offer = optimism_offer(checked.cohort)
    return Section(id=SectionId.OPTIMISM, title=OPTIMISM, part="optimism", offer=offer)


def _cox_snell(checked: Checked) -> Track:
    """The cumulative hazard of the residuals, which is the diagonal under a model that holds."""
    by_subject = checked.by_subject
    expected, happened = np.asarray(by_subject.expected), by_subject.events > 0
    there = expected > 0
    table = risk_table(
        follow_up(expected[there], happened[there].astype(np.int64), count=by_subject.copies[there])
    )
    hazard = cumulative_hazard(table, checked.form.confidence)
    top = float(max(table.time.max(initial=0.1), hazard.value.max(initial=0.1)))
    marks: list[AnyMark] = [
        Area(
            label="interval",
            x=table.time,
            low=hazard.lower,
            high=np.minimum(hazard.upper, 10 * top),
            end=top,
        ),
        Line(
            label="a model that holds",
            x=np.array([0.0, top]),
            y=np.array([0.0, top]),
            step=False,
            ghost=True,
        ),
        Line(label="cumulative hazard of the residuals", x=table.time, y=hazard.value, end=top),
    ]
    return Track(
        id="cox-snell",
        title="Cox–Snell residuals",
        subtitle="their cumulative hazard",
        height="room",
        grouped=False,
        axis=Axis(low=0, high=1.05 * top, form="number"),
        across=Axis(low=0, high=top, form="number", label="Cox–Snell residual"),
        marks=marks,
        note="Under a model that holds the line lies near the faint diagonal. It is a coarse check: a model "
        "that misses much can still lie near it.",
    )


def calibration_of(checked: Checked) -> Calibration | str:
    """Predictions beside what was seen, or why they cannot be compared."""
    coded = checked.fitted.design
    at = reading_time(checked.cohort, checked.statement)
    if coded.over_time is not None:
        return "predictions of changing ratios are not compared here"
    try:
        checked.fitted.require_constant_values()
        return calibration(coded.data, coded.x, checked.fitted.plain, at, checked.form.confidence)
    except (NotEstimableError, RefusedRowsError) as why:
        return str(why)


def _concordance(found: Concordance | Refused) -> Section:
    if isinstance(found, Refused):
        blank = quiet(f"No concordance: {found.why}.")
        return Section(id=SectionId.CONCORDANCE, title=TITLE, blocks=[blank])
    about = "The share of pairs put in the order in which they happened; 0.5 is chance."
    blocks: list[ContentBlock] = [ranking_table(found, found.blank or ""), quiet(about)]
    return Section(id=SectionId.CONCORDANCE, title=TITLE, blocks=blocks)


QUESTION = Question(
    OVERALL_FIT, "overall fit and discrimination", _sentence_parts, _verdict, _answer
)
