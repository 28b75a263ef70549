"""Claims about comparisons of groups: the tests that were made, and those that were refused."""

from hourglass.analysis.catalogue import sources
from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.number_splits import AS_IT_IS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.core.curves.median_ratio import SAMPLES
from hourglass.report.claims.claim import METHODS, Claim, Claimed, opens, printed_section
from hourglass.report.inputs import ReportInputs
from hourglass.report.sentences import worded


def _compared(found: ReportInputs) -> tuple[CompareResult, CompareStatement] | None:
    result = found.stage("compare")
    if not isinstance(result, CompareResult):
        return None
    return result, statement_of(found.statements, CompareStatement)


def _test(found: ReportInputs) -> Claimed | None:
    pair = _compared(found)
    if pair is None or (pair[0].test.p is None and not pair[1].each):
        return None
    stated = pair[1]
    weight, strata = WEIGHTS[stated.weight], formatting.listed(list(stated.within))
    if stated.each:
        adjustment = ADJUSTMENTS[stated.adjustment]
        name = "stratified each variable" if stated.within else "each variable"
        words = worded(METHODS, name, test=weight.test, strata=strata, adjusted=adjustment.claim)
        unsplit = [one.column for one in stated.variables if one.way == AS_IT_IS]
        if unsplit:
            columns, were = formatting.listed(unsplit), formatting.were(len(unsplit))
            words += "; " + worded(METHODS, "variables as they are", columns=columns, were=were)
        return Claimed(words, (*weight.sources, *adjustment.sources))
    name = "stratified test of groups" if stated.within else "test of groups"
    return Claimed(worded(METHODS, name, test=weight.test, strata=strata), weight.sources)


def _no_test(found: ReportInputs) -> Claimed | None:
    result = found.results.get("compare")
    if not isinstance(result, CompareResult):
        return None
    if result.blank is not None:
        return Claimed(worded(METHODS, "comparison not made", reason=_sentence(result.blank)))
    stated = statement_of(found.statements, CompareStatement)
    if result.test.p is None and not stated.each:
        return Claimed(worded(METHODS, "test not made", reason=_sentence(str(result.test.blank))))
    return None


def _pairs(found: ReportInputs) -> Claimed | None:
    pair = _compared(found)
    if pair is None or printed_section(found, "tests", "compare", SectionId.PAIRS) is None:
        return None
    adjustment = ADJUSTMENTS[pair[1].adjustment]
    return Claimed(worded(METHODS, "pairs", adjusted=adjustment.claim), adjustment.sources)


def _could_be_tested(found: ReportInputs) -> bool:
    pair = _compared(found)
    return pair is not None and pair[0].test.p is not None


def _weights(found: ReportInputs) -> Claimed | None:
    if not _could_be_tested(found):
        return None
    if printed_section(found, "weights", "compare", SectionId.WEIGHTS) is None:
        return None
    return Claimed(worded(METHODS, "other weights"))


def _combined(found: ReportInputs) -> Claimed | None:
    if not opens(printed_section(found, "weights", "compare", SectionId.WEIGHTS), "combined"):
        return None
    return Claimed(worded(METHODS, "combined weights"), (sources.COMBINED_WEIGHTS,))


def _threshold(found: ReportInputs) -> Claimed | None:
    if not opens(printed_section(found, "tests", "compare", SectionId.THRESHOLD), "thresholds"):
        return None
    return Claimed(worded(METHODS, "threshold"))


def _incidence(found: ReportInputs) -> Claimed | None:
    if not opens(printed_section(found, "tests", "compare", SectionId.INCIDENCE), "gray"):
        return None
    return Claimed(worded(METHODS, "test of incidence"), (sources.COMPETING_TEST,))


def _no_incidence(found: ReportInputs) -> Claimed | None:
    """Competing events were seen, and their incidence is not compared: the reason stands beside the test."""
    section = printed_section(found, "tests", "compare", SectionId.INCIDENCE)
    if section is None or opens(section, "gray"):
        return None
    return Claimed(worded(METHODS, "incidence not tested"))


def _at_times(found: ReportInputs) -> Claimed | None:
    if not _could_be_tested(found):
        return None
    if not opens(
        printed_section(found, "contrasts", "compare", SectionId.CHOSEN_TIMES), "difference"
    ):
        return None
    return Claimed(worded(METHODS, "chosen times"), (sources.CHOSEN_TIMES,))


def _needed(found: ReportInputs) -> Claimed | None:
    if _at_times(found) is None or found.cohort.competing:
        return None
    return Claimed(worded(METHODS, "number needed"), (sources.NUMBER_NEEDED,))


def _rate_ratios(found: ReportInputs) -> Claimed | None:
    if not opens(printed_section(found, "contrasts", "compare", SectionId.RATES), "rate-ratio"):
        return None
    return Claimed(worded(METHODS, "rate ratios"))


def _median_ratio(found: ReportInputs) -> Claimed | None:
    if not opens(printed_section(found, "contrasts", "compare", SectionId.MEDIANS), "median-ratio"):
        return None
    return Claimed(worded(METHODS, "ratio of medians", samples=formatting.grouped(SAMPLES)))


def _sentence(reason: str) -> str:
    return reason[:1].lower() + reason[1:].rstrip(".")


CLAIMS = (
    Claim("test of groups", _test, ("compare",)),
    Claim("test not made", _no_test, ("compare",)),
    Claim("pairs", _pairs, ("compare",)),
    Claim("other weights", _weights, ("compare",)),
    Claim("combined weights", _combined, ("compare",)),
    Claim("threshold", _threshold, ("compare",)),
    Claim("test of incidence", _incidence, ("compare",)),
    Claim("incidence not tested", _no_incidence, ("compare",)),
    Claim("chosen times", _at_times, ("compare",)),
    Claim("number needed", _needed, ("compare",)),
    Claim("rate ratios", _rate_ratios, ("compare",)),
    Claim("ratio of medians", _median_ratio, ("compare",)),
)
