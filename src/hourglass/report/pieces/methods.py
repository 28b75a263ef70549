"""How the figures were made: the claims, a paragraph a topic, with the numbers of their sources."""

from hourglass.analysis.catalogue.sources import Reference
from hourglass.report.claims.claim import Claimed
from hourglass.report.claims.registry import TOPICS, claims_of, sources_of
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Printed

STAGES = ("estimate", "compare", "model", "check")


def _methods(found: Findings) -> Printed:
    claims = claims_of(found)
    used = sources_of(found)
    paragraphs = []
    for topic in TOPICS:
        made = [claims[claim.key] for claim in topic if claim.key in claims]
        if made:
            paragraphs.append(" ".join(f"{one.words}{_numbers(one, used)}." for one in made))
    return Printed(paragraphs=tuple(paragraphs))


def _numbers(claimed: Claimed, used: list[Reference]) -> str:
    numbers = sorted(used.index(source) + 1 for source in claimed.sources)
    return f" [{', '.join(map(str, numbers))}]" if numbers else ""


PIECE = Piece(
    key="methods",
    title="Methods",
    words="methods",
    shortest="journal",
    uses=STAGES,
    render=_methods,
)
