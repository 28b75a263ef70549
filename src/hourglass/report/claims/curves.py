"""Claims about curves: how they were estimated, and what was read of them."""

from hourglass.analysis.catalogue import sources
from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.report.claims.claim import METHODS, Claim, Claimed, opens, printed_section
from hourglass.report.inputs import ReportInputs
from hourglass.report.sentences import worded


def _stated(found: ReportInputs) -> EstimateStatement:
    return statement_of(found.statements, EstimateStatement)


def _has_curves(found: ReportInputs) -> bool:
    return found.stage("estimate") is not None or found.stage("compare") is not None


def _survival(found: ReportInputs) -> Claimed | None:
    if not _has_curves(found):
        return None
    estimator = ESTIMATORS[_stated(found).estimator]
    return Claimed(estimator.claim, estimator.sources)


def _variance(found: ReportInputs) -> Claimed | None:
    if not _has_curves(found):
        return None
    estimator = ESTIMATORS[_stated(found).estimator]
    return Claimed(estimator.variance, estimator.of_variance) if estimator.variance else None


def _limits(found: ReportInputs) -> Claimed | None:
    if not _has_curves(found):
        return None
    stated = _stated(found)
    level, scale = formatting.level_percent(stated.confidence), INTERVAL_SCALES[stated.scale]
    kind = INTERVALS[stated.intervals]
    if kind.band is not None and not _band_refused(found):
        words = worded(
            METHODS, "simultaneous bands", level=level, kind=kind.called, scale=scale.name
        )
        return Claimed(words, (*kind.sources, *scale.sources))
    words = worded(METHODS, "pointwise intervals", level=level, scale=scale.name, drawn=kind.drawn)
    return Claimed(words, scale.sources)


def _band_refused(found: ReportInputs) -> bool:
    estimated = found.stage("estimate")
    return isinstance(estimated, EstimateResult) and bool(estimated.band_refused)


def _refused(found: ReportInputs) -> Claimed | None:
    estimated = found.stage("estimate")
    if not isinstance(estimated, EstimateResult) or not estimated.band_refused:
        return None
    return Claimed(worded(METHODS, "bands refused", reason=estimated.band_refused))


def _medians(found: ReportInputs) -> Claimed | None:
    if not _has_curves(found):
        return None
    return Claimed(worded(METHODS, "limits of medians"), (sources.MEDIAN_INTERVAL,))


def _follow_up(found: ReportInputs) -> Claimed | None:
    if "follow-up" in found.left_out or not _has_curves(found):
        return None
    return Claimed(worded(METHODS, "follow-up"), (sources.MEDIAN_FOLLOW_UP,))


def _means(found: ReportInputs) -> Claimed | None:
    printed = (("estimates", "estimate"), ("contrasts", "compare"))
    if not any(printed_section(found, piece, stage, SectionId.MEAN) for piece, stage in printed):
        return None
    return Claimed(worded(METHODS, "restricted means"))


def _rates(found: ReportInputs) -> Claimed | None:
    everyone = printed_section(found, "estimates", "estimate", SectionId.GROUPS)
    groups = printed_section(found, "contrasts", "compare", SectionId.RATES)
    if not (opens(everyone, "rate") or opens(groups, "rate")):
        return None
    return Claimed(worded(METHODS, "rates"), (sources.POISSON_INTERVAL,))


CLAIMS = (
    Claim("survival", _survival, ("estimate",)),
    Claim("variance of survival", _variance, ("estimate",)),
    Claim("limits of survival", _limits, ("estimate",)),
    Claim("bands refused", _refused, ("estimate",)),
    Claim("limits of medians", _medians, ("estimate",)),
    Claim("follow-up", _follow_up, ("estimate",)),
    Claim("restricted means", _means, ("estimate", "compare")),
    Claim("rates", _rates, ("estimate", "compare")),
)
