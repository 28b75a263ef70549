"""Claims about curves: how they were estimated, and what was read of them."""

from hourglass.analysis.estimate.result import EstimateResult
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.curve_form import BAND_KEYS, BARS, NO_INTERVAL
from hourglass.analysis.shared.curve_words import SCALE_WORDS
from hourglass.analysis.shared.declared import statement_of
from hourglass.core.curves.bands import EQUAL_PRECISION, HALL_WELLNER
from hourglass.core.curves.estimators import FROM_HAZARD, FROM_HAZARD_SPREAD, PRODUCT_LIMIT
from hourglass.core.curves.scales import LINEAR
from hourglass.report import references as sources
from hourglass.report.claims.claim import Claim, Claimed, opens, printed_section
from hourglass.report.findings import Findings

ESTIMATORS = {
    PRODUCT_LIMIT.key: Claimed(
        "Survival was estimated by the Kaplan–Meier method", (sources.PRODUCT_LIMIT,)
    ),
    FROM_HAZARD.key: Claimed(
        "Survival was estimated as exp(−H), H the Nelson–Aalen estimate of the cumulative hazard",
        (sources.CUMULATIVE_HAZARD,),
    ),
    FROM_HAZARD_SPREAD.key: Claimed(
        "Survival was estimated as exp(−H), H the cumulative hazard with tied events taken one after the "
        "other",
        (sources.CUMULATIVE_HAZARD, sources.SPREAD_TIES),
    ),
}
BANDS = {
    HALL_WELLNER.key: ("Hall–Wellner", sources.HALL_WELLNER_BAND),
    EQUAL_PRECISION.key: ("equal precision", sources.EQUAL_PRECISION_BAND),
}


def _asked(found: Findings) -> EstimateStatement:
    return statement_of(found.statements, EstimateStatement)


def _has_curves(found: Findings) -> bool:
    return found.stage("estimate") is not None or found.stage("compare") is not None


def _survival(found: Findings) -> Claimed | None:
    return ESTIMATORS[_asked(found).estimator] if _has_curves(found) else None


def _variance(found: Findings) -> Claimed | None:
    if not _has_curves(found) or _asked(found).estimator != PRODUCT_LIMIT.key:
        return None
    return Claimed("The variance of survival is Greenwood’s", (sources.GREENWOOD,))


def _limits(found: Findings) -> Claimed | None:
    if not _has_curves(found):
        return None
    asked = _asked(found)
    level, scale = wording.level_percent(asked.confidence), SCALE_WORDS[asked.scale].name
    of_scale = () if asked.scale == LINEAR.key else (sources.TRANSFORMED_INTERVALS,)
    if asked.intervals in BAND_KEYS and not _band_refused(found):
        name, source = BANDS[asked.intervals]
        words = f"Limits of survival are {level} simultaneous bands ({name}) on the {scale} scale"
        return Claimed(words, (source, *of_scale))
    drawn = {
        BARS: "; the figure shows ± 1 standard error",
        NO_INTERVAL: "; the figure shows none",
    }.get(asked.intervals, "")
    words = (
        f"Limits of survival are pointwise {level} confidence intervals on the {scale} scale{drawn}"
    )
    return Claimed(words, of_scale)


def _band_refused(found: Findings) -> bool:
    estimated = found.stage("estimate")
    return isinstance(estimated, EstimateResult) and bool(estimated.band_refused)


def _refused(found: Findings) -> Claimed | None:
    estimated = found.stage("estimate")
    if not isinstance(estimated, EstimateResult) or not estimated.band_refused:
        return None
    return Claimed(f"Simultaneous bands were not used: {estimated.band_refused}")


def _medians(found: Findings) -> Claimed | None:
    if not _has_curves(found):
        return None
    words = "Confidence intervals of medians invert the pointwise limits of survival"
    return Claimed(words, (sources.MEDIAN_INTERVAL,))


def _follow_up(found: Findings) -> Claimed | None:
    if "follow-up" in found.left_out or not _has_curves(found):
        return None
    words = "Median follow-up was estimated by the reverse Kaplan–Meier method"
    return Claimed(words, (sources.MEDIAN_FOLLOW_UP,))


def _means(found: Findings) -> Claimed | None:
    printed = (("estimates", "estimate"), ("contrasts", "compare"))
    if not any(printed_section(found, piece, stage, "mean") for piece, stage in printed):
        return None
    return Claimed(
        "Restricted mean survival times are areas under the curve, with normal intervals"
    )


def _rates(found: Findings) -> Claimed | None:
    everyone = printed_section(found, "estimates", "estimate", "groups")
    groups = printed_section(found, "contrasts", "compare", "rates")
    if not (opens(everyone, "rate") or opens(groups, "rate")):
        return None
    return Claimed("Rates have exact Poisson intervals", (sources.POISSON_INTERVAL,))


CLAIMS = (
    Claim("survival", _survival),
    Claim("variance of survival", _variance),
    Claim("limits of survival", _limits),
    Claim("bands refused", _refused),
    Claim("limits of medians", _medians),
    Claim("follow-up", _follow_up),
    Claim("restricted means", _means),
    Claim("rates", _rates),
)
