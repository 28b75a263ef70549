"""All claims of the methods section, in their order: an explicit table."""

from hourglass.analysis.catalogue.sources import Reference
from hourglass.report.claims import comparison, conduct, curves, follow_up, models
from hourglass.report.claims.claim import Claim, Claimed
from hourglass.report.inputs import ReportInputs

TOPICS: tuple[tuple[Claim, ...], ...] = (
    follow_up.CLAIMS,
    curves.CLAIMS,
    comparison.CLAIMS,
    models.CLAIMS,
    conduct.CLAIMS,
)
"""A paragraph each."""
CLAIMS: tuple[Claim, ...] = tuple(claim for topic in TOPICS for claim in topic)


def sources_of(found: ReportInputs) -> list[Reference]:
    """The sources of what is claimed, in the order in which they are first cited."""
    claims = claims_of(found).values()
    return list(dict.fromkeys(source for one in claims for source in one.sources))


def claims_of(found: ReportInputs) -> dict[str, Claimed]:
    """What is claimed of a report, by the keys of the claims."""
    made = {claim.key: claim.made(found) for claim in CLAIMS}
    return {key: claimed for key, claimed in made.items() if claimed is not None}
