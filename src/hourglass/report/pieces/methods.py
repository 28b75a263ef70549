"""How the figures were made: the statements as a paragraph, with the sources of the methods."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import cast

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.weight_words import WORDS as WEIGHTS
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.curve_words import (
    ESTIMATOR_WORDS,
    INTERVAL_WORDS,
    NO_INTERVAL,
    SCALE_WORDS,
)
from hourglass.core.curves.estimators import PRODUCT_LIMIT
from hourglass.core.curves.scales import LINEAR
from hourglass.core.regression.ties import BRESLOW, EFRON, EXACT
from hourglass.report import references as sources
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.references import Reference

OF_WEIGHT = {
    "equal": sources.LOG_RANK,
    "at risk": sources.AT_RISK_WEIGHT,
    "root at risk": sources.ROOT_WEIGHT,
    "survival": sources.SURVIVAL_WEIGHT,
    "modified survival": sources.SURVIVAL_WEIGHT,
}
"""Where the weight of a test comes from; those that are not named are powers of the curve."""
OF_TIES = {
    EFRON.key: ("by Efron’s method", sources.TIES_OF_EFRON),
    BRESLOW.key: ("by Breslow’s method", sources.TIES_OF_BRESLOW),
    EXACT.key: ("by the exact likelihood", sources.HAZARDS_MODEL),
}


@dataclass(frozen=True, slots=True)
class Told:
    """A sentence, and the sources that it rests on."""

    words: str
    sources: tuple[Reference, ...] = ()


def _methods(found: Findings) -> Printed:
    told = [one for stage in OF_STAGES if found.stage(stage) for one in OF_STAGES[stage](found)]
    used = list(dict.fromkeys(source for one in told for source in one.sources))
    sentences = [f"{one.words}{_numbers(one, used)}." for one in told]
    return Printed(
        method=found.prepare.sentence.text,
        paragraphs=(" ".join(sentences),) if sentences else (),
        items=tuple((source.full, "", "") for source in used),
    )


def _numbers(told: Told, used: list[Reference]) -> str:
    numbers = sorted(used.index(source) + 1 for source in told.sources)
    return f" [{', '.join(map(str, numbers))}]" if numbers else ""


def _curves(found: Findings) -> list[Told]:
    said = cast(EstimateStatement, found.statements["estimate"])
    limit = said.estimator == PRODUCT_LIMIT.key
    name = "the product-limit method" if limit else ESTIMATOR_WORDS[said.estimator].name
    told = [
        Told(
            f"Survival was estimated by {name}",
            (sources.PRODUCT_LIMIT if limit else sources.CUMULATIVE_HAZARD,),
        )
    ]
    if said.intervals != NO_INTERVAL:
        level = wording.level_percent(said.confidence)
        scale = SCALE_WORDS[said.scale].name
        told.append(
            Told(
                f"It is given with {INTERVAL_WORDS[said.intervals].name}, {level}, on the {scale} scale",
                () if said.scale == LINEAR.key else (sources.TRANSFORMED_INTERVALS,),
            )
        )
    told.append(Told("Intervals of medians invert those of the curve", (sources.MEDIAN_INTERVAL,)))
    told.append(
        Told(
            "Median follow-up is that of the curve of being censored, in which events end it",
            (sources.MEDIAN_FOLLOW_UP,),
        )
    )
    if found.cohort.competing:
        told.append(
            Told(
                "Cumulative incidence counts competing events as what they are, not as censored",
                (sources.COMPETING_CURVES,),
            )
        )
    return told


def _test(found: Findings) -> list[Told]:
    said = cast(CompareStatement, found.statements["compare"])
    name = WEIGHTS[said.weight].test
    source = OF_WEIGHT.get(said.weight, sources.POWER_WEIGHT)
    strata = f", within levels of {wording.listed(list(said.within))}" if said.within else ""
    told = [Told(f"Groups were compared by the {name} test{strata}", (source,))]
    if found.cohort.competing:
        told.append(
            Told(
                "Cumulative incidence was compared by a test of its own hazard",
                (sources.COMPETING_TEST,),
            )
        )
    return told


def _model(found: Findings) -> list[Told]:
    said = cast(ModelStatement, found.statements["model"])
    ties, source = OF_TIES[said.ties]
    strata = (
        f", with a baseline for each level of {wording.listed(list(said.strata))}"
        if said.strata
        else ""
    )
    cause = f" of {said.cause}" if said.cause else ""
    told = [
        Told(
            f"Rates{cause} were related to variables by proportional hazards regression{strata}",
            (sources.HAZARDS_MODEL,),
        ),
        Told(f"Ties were handled {ties}", (source,)),
    ]
    if said.penalised:
        told.append(Told("The likelihood was penalised", (sources.PENALTY,)))
    if said.robust is not None:
        told.append(Told("Standard errors are robust", (sources.ROBUST_ERRORS,)))
    if found.has("model/ranking"):
        told.append(Told("Ranking is told by concordance", (sources.CONCORDANCE,)))
    return told


def _checks(found: Findings) -> list[Told]:
    return [
        Told(
            "Whether hazards are proportional was tested by scaled score residuals against time",
            (sources.PROPORTIONALITY,),
        )
    ]


OF_STAGES: dict[str, Callable[[Findings], list[Told]]] = {
    "estimate": _curves,
    "compare": _test,
    "model": _model,
    "check": _checks,
}
PIECE = Piece("methods", "Methods", "methods with their sources", _methods)
