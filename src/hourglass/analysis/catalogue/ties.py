"""How events at one time may enter the partial likelihood
(methods.md, section 4: Proportional hazards regression)."""

from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.catalogue.sources import HAZARDS_MODEL, Reference
from hourglass.core.regression import ties as core


@dataclass(frozen=True, slots=True, kw_only=True)
class TieEntry(MethodEntry):
    """A rule for ties.

    Attributes:
        claim: after "Ties were handled"; ``printed``: under a table of the report.
        workings: under the workings of a ratio; ``less``: what its factors φ leave out, in words.
        has_residuals: whether the fit gives residuals, and what is made of them.
    """

    method: core.TieMethod
    claim: str
    printed: str
    workings: str
    less: str = ""
    has_residuals: bool = True


TIE_METHODS = catalogue(
    TieEntry(
        method=core.EFRON,
        name="Efron",
        note="close to the exact likelihood, and quick",
        sources=(
            Reference(
                "Efron 1977",
                "Efron B. The efficiency of Cox’s likelihood function for censored data. Journal of the "
                "American Statistical Association 1977; 72: 557–565.",
            ),
        ),
        claim="by Efron’s method",
        printed="Ties by Efron (1977)",
        workings="ties by Efron (1977): among d tied events x̄ and the information are the mean and the sum "
        "over the d factors",
        less=" − f × Σ exp(xβ) of those with the event then, f = 0, 1/d, … (Efron 1977)",
    ),
    TieEntry(
        method=core.BRESLOW,
        name="Breslow",
        note="coarser where many events share a time",
        sources=(
            Reference(
                "Breslow 1974",
                "Breslow N. Covariance analysis of censored survival data. Biometrics 1974; 30: 89–99.",
            ),
        ),
        claim="by Breslow’s method",
        printed="Ties by Breslow (1974)",
        workings="ties by Breslow (1974): each of d tied events has the whole risk set",
    ),
    TieEntry(
        method=core.EXACT,
        name="exact (discrete)",
        note="of times that are truly discrete; gives no residuals or predictions",
        sources=(HAZARDS_MODEL,),
        claim="by the exact (discrete) likelihood",
        printed="Ties by the exact likelihood (Cox 1972)",
        workings="ties by the exact likelihood (Cox 1972): d x̄ and the information are the mean and the "
        "variance of Σ x over all sets of d of those at risk, each weighing Π exp(xβ̂)",
        has_residuals=False,
    ),
    methods=core.TIE_METHODS,
)
