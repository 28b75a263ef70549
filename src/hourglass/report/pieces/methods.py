"""How the figures were made: the claims, a paragraph a topic, with the numbers of their sources."""

from hourglass.analysis.catalogue.sources import Reference
from hourglass.report.claims.claim import Claimed
from hourglass.report.claims.registry import TOPICS, claims_of, sources_of
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import CitedSentence
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.study.actions.action import PREPARE

STAGES = ("estimate", "compare", "model", "check")


def _methods(found: ReportInputs) -> Printed:
    claims = claims_of(found)
    used = sources_of(found)
    paragraphs = []
    for topic in TOPICS:
        made = tuple(
            CitedSentence(_cited(claims[claim.key], used), claim.stages)
            for claim in topic
            if claim.key in claims
        )
        if made:
            paragraphs.append(made)
    return Printed(paragraphs=tuple(paragraphs))


def _cited(claimed: Claimed, used: list[Reference]) -> str:
    """The sentence of a claim with the numbers of its sources."""
    numbers = sorted(used.index(source) + 1 for source in claimed.sources)
    return f"{claimed.words} [{', '.join(map(str, numbers))}]." if numbers else f"{claimed.words}."


PIECE = Piece(
    key="methods",
    title="Methods",
    words="methods",
    shortest="journal",
    uses=(PREPARE, *STAGES),
    render=_methods,
)
