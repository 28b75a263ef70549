"""Claims about comparisons of groups: the tests that were made, and those that were refused."""

from hourglass.analysis.catalogue import sources
from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.core.curves.median_ratio import SAMPLES
from hourglass.report.claims.claim import Claim, Claimed, opens, printed_section
from hourglass.report.findings import Findings


def _compared(found: Findings) -> tuple[CompareResult, CompareStatement] | None:
    result = found.stage("compare")
    if not isinstance(result, CompareResult):
        return None
    return result, statement_of(found.statements, CompareStatement)


def _test(found: Findings) -> Claimed | None:
    pair = _compared(found)
    if pair is None or (pair[0].test.p is None and not pair[1].each):
        return None
    asked = pair[1]
    strata = f", stratified by {wording.listed(list(asked.within))}" if asked.within else ""
    weight = WEIGHTS[asked.weight]
    if asked.each:
        adjustment = ADJUSTMENTS[asked.adjustment]
        words = f"Each variable in turn was tested by the {weight.test} test, the p-values {adjustment.claim}"
        return Claimed(words, (*weight.sources, *adjustment.sources))
    return Claimed(f"Groups were compared by the {weight.test} test{strata}", weight.sources)


def _no_test(found: Findings) -> Claimed | None:
    result = found.results.get("compare")
    if not isinstance(result, CompareResult):
        return None
    if result.blank is not None:
        return Claimed(f"The planned comparison could not be made: {_sentence(result.blank)}")
    asked = statement_of(found.statements, CompareStatement)
    if result.test.p is None and not asked.each:
        return Claimed(f"The planned test could not be made: {_sentence(str(result.test.blank))}")
    return None


def _pairs(found: Findings) -> Claimed | None:
    pair = _compared(found)
    if pair is None or printed_section(found, "tests", "compare", SectionId.PAIRS) is None:
        return None
    adjustment = ADJUSTMENTS[pair[1].adjustment]
    return Claimed(
        f"Pairs of groups were tested, their p-values {adjustment.claim}", adjustment.sources
    )


def _weights(found: Findings) -> Claimed | None:
    pair = _compared(found)
    if pair is None or pair[0].test.p is None:
        return None
    if printed_section(found, "weights", "compare", SectionId.WEIGHTS) is None:
        return None
    return Claimed("The comparison was repeated with other weights of the event times")


def _combined(found: Findings) -> Claimed | None:
    if not opens(printed_section(found, "weights", "compare", SectionId.WEIGHTS), "combined"):
        return None
    words = "The largest of four weighted log-rank tests was referred to their joint distribution"
    return Claimed(words, (sources.COMBINED_WEIGHTS,))


def _threshold(found: Findings) -> Claimed | None:
    if not opens(printed_section(found, "tests", "compare", SectionId.THRESHOLD), "thresholds"):
        return None
    return Claimed("The largest statistic over all thresholds was tested by seeded permutations")


def _incidence(found: Findings) -> Claimed | None:
    if not opens(printed_section(found, "tests", "compare", SectionId.INCIDENCE), "gray"):
        return None
    return Claimed("Cumulative incidence was compared by Gray’s test", (sources.COMPETING_TEST,))


def _no_incidence(found: Findings) -> Claimed | None:
    """Competing events were seen, and their incidence is not compared: the reason stands beside the test."""
    section = printed_section(found, "tests", "compare", SectionId.INCIDENCE)
    if section is None or opens(section, "gray"):
        return None
    return Claimed("Cumulative incidence was not compared by a test")


def _at_times(found: Findings) -> Claimed | None:
    pair = _compared(found)
    if pair is None or pair[0].test.p is None:
        return None
    if not opens(
        printed_section(found, "contrasts", "compare", SectionId.CHOSEN_TIMES), "difference"
    ):
        return None
    words = "Survival at chosen times was compared with plain intervals, and tested on the log–log scale"
    return Claimed(words, (sources.CHOSEN_TIMES,))


def _needed(found: Findings) -> Claimed | None:
    if _at_times(found) is None or found.cohort.competing:
        return None
    return Claimed(
        "Numbers needed to treat were calculated as inverted differences", (sources.NUMBER_NEEDED,)
    )


def _rate_ratios(found: Findings) -> Claimed | None:
    if not opens(printed_section(found, "contrasts", "compare", SectionId.RATES), "rate-ratio"):
        return None
    return Claimed(
        "Ratios of rates were given exact intervals, conditional on the number of events"
    )


def _median_ratio(found: Findings) -> Claimed | None:
    if not opens(printed_section(found, "contrasts", "compare", SectionId.MEDIANS), "median-ratio"):
        return None
    samples = wording.grouped(SAMPLES)
    return Claimed(
        f"Ratios of medians were given percentile intervals of {samples} bootstrap samples"
    )


def _sentence(reason: str) -> str:
    return reason[:1].lower() + reason[1:].rstrip(".")


CLAIMS = (
    Claim("test of groups", _test),
    Claim("test not made", _no_test),
    Claim("pairs", _pairs),
    Claim("other weights", _weights),
    Claim("combined weights", _combined),
    Claim("threshold", _threshold),
    Claim("test of incidence", _incidence),
    Claim("incidence not tested", _no_incidence),
    Claim("chosen times", _at_times),
    Claim("number needed", _needed),
    Claim("rate ratios", _rate_ratios),
    Claim("ratio of medians", _median_ratio),
)
