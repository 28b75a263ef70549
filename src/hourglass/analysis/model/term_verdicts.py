"""The one verdict on each term of a model, for Model's words and Check's mark alike."""

from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.analysis.model.design import Design
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.verdict import Verdict, verdict
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.regression.proportionality import ProportionalityTest


@dataclass(frozen=True, slots=True)
class TermVerdict:
    """Whether a term's ratio stays the same over time: its test and the verdict."""

    label: str
    test: Test
    verdict: Verdict


def term_verdicts(coded: Design, tested: ProportionalityTest) -> tuple[TermVerdict, ...]:
    """The one verdict on each term, for Model's words and Check's mark alike."""
    tests = [tested.of(coded.of_term(k)) for k in range(len(coded.terms))]
    return tuple(
        TermVerdict(label, test, verdict(test.p))
        for label, test in zip(coded.terms, tests, strict=True)
    )


def not_proportional(found: Sequence[TermVerdict]) -> list[Caution]:
    """One ratio shown where Check doubts that it stays the same."""
    fails = [_with_p(t) for t in found if t.verdict == "fails"]
    doubted = [_with_p(t) for t in found if t.verdict == "in doubt"]
    if not fails and not doubted:
        return []
    sentences = []
    if fails:
        ratio = "ratio" if len(fails) == 1 else "ratios"
        changes = "changes" if len(fails) == 1 else "change"
        sentences.append(
            f"Check finds that the {ratio} of {formatting.listed(fails)} {changes} over time"
        )
    if doubted:
        ratio = "ratio" if len(doubted) == 1 else "ratios"
        stays = "stays" if len(doubted) == 1 else "stay"
        sentences.append(
            f"Check doubts that the {ratio} of {formatting.listed(doubted)} {stays} the same"
        )
    return [
        Caution(
            key="not proportional",
            lead="Hazards not proportional." if fails else "Hazards perhaps not proportional.",
            sentence="; ".join(sentences) + ". The single ratio shown is then an average over this "
            "study's follow-up.",
        )
    ]


def _with_p(term: TermVerdict) -> str:
    return f"{term.label} ({formatting.p_phrase(term.test.p)})"
