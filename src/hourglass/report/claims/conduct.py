"""Claims about how the analysis was conducted: what was planned, what was missing, by what program."""

from hourglass import VERSION
from hourglass.analysis.model.result import ModelResult
from hourglass.report.claims.claim import METHODS, Claim, Claimed
from hourglass.report.inputs import ReportInputs
from hourglass.report.sentences import worded


def _planned(found: ReportInputs) -> Claimed | None:
    """Whether a plan was sealed, and when; that none was is claimed where something was tested or fitted."""
    plan = found.sealed
    if plan is None:
        analysed = found.stage("compare") is not None or found.stage("model") is not None
        return Claimed(worded(METHODS, "no plan")) if analysed else None
    order = {True: "planned before the data", False: "planned after the data", None: "planned"}
    departs = "with departures" if plan.departures else "without departures"
    words = worded(METHODS, order[plan.before], day=f"{plan.at:%-d %B %Y}")
    return Claimed(words + worded(METHODS, departs))


def _missing(found: ReportInputs) -> Claimed | None:
    model = found.stage("model")
    if not isinstance(model, ModelResult) or not any(one.column for one in model.left_out):
        return None
    return Claimed(worded(METHODS, "missing values", subjects=found.cohort.rows_are))


def _software(found: ReportInputs) -> Claimed | None:
    return Claimed(worded(METHODS, "software", version=VERSION))


CLAIMS = (
    Claim("planned", _planned),
    Claim("missing values", _missing, ("model",)),
    Claim("software", _software),
)
