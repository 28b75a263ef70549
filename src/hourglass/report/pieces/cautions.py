"""What would mislead, from every stage that is in the report."""

from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.result import StageResult
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Piece, Printed

MAX_IN_SUMMARY = 3
GRAVEST = (
    "not proportional",
    "curves cross",
    "everyone had the event",
    "threshold",
    "screen",
    "time-varying groups",
    "followed after the event",
    "landmark",
    "late entry",
    "nobody at first",
    "competing events: curve",
    "competing events: ratio",
    "few events",
    "few at risk",
    "close times",
)
"""Cautions by how far they can change what is read from the summary."""


def cautions_of(found: ReportInputs) -> tuple[Caution, ...]:
    """The cautions of all stages that are in the report, each once."""
    seen: dict[str, Caution] = {}
    for result in found.results.values():
        for caution in result.cautions if isinstance(result, StageResult) else ():
            seen.setdefault(caution.key, caution)
    return tuple(seen.values())


def most_serious(found: tuple[Caution, ...]) -> tuple[Caution, ...]:
    """The cautions of the summary, those that can change most before the others; of one kind the first."""
    order = {key: k for k, key in enumerate(GRAVEST)}
    ranked = sorted(found, key=lambda caution: order.get(caution.key, len(order)))
    kinds: dict[str, Caution] = {}
    for caution in ranked:
        kinds.setdefault(caution.key.partition(":")[0], caution)
    return tuple(kinds.values())[:MAX_IN_SUMMARY]


def _others(found: ReportInputs) -> Printed:
    """All cautions but those of the summary, where that is printed."""
    every = cautions_of(found)
    above = () if "summary" in found.left_out else most_serious(every)
    return Printed(cautions=tuple(one for one in every if one not in above))


PIECE = Piece(
    key="cautions", title="Read with care", words="cautions", shortest="journal", render=_others
)
