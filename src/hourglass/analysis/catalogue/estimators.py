"""How a survival curve may be estimated (methods.md, section 2: Survival curve)."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.catalogue.sources import CUMULATIVE_HAZARD, Reference
from hourglass.core.arrays import FloatArray
from hourglass.core.curves import estimators as core


@dataclass(frozen=True, slots=True, kw_only=True)
class EstimatorEntry(MethodEntry):
    """An estimator of survival, and how its figure is written out.

    Attributes:
        claim: the sentence on it in the section on methods.
        variance: the sentence on its variance there, with its source; blank where none is needed.
        formula: the definition; ``part``: one event time's, from its events and number at risk.
        joint: what stands between parts; ``around``: what stands around them.
        step: what an event time adds to it is called; ``steps``: these, (K,) from n and d.
        sigma2: the definition of σ²; ``rests_on``: where both come from, under the workings.
    """

    method: core.Estimator
    claim: str
    variance: str = ""
    of_variance: tuple[Reference, ...] = ()
    formula: str
    part: Callable[[int, int], str]
    joint: str
    around: str = "{}"
    step: str
    steps: Callable[[FloatArray, FloatArray], FloatArray]
    sigma2: str
    rests_on: str


PRODUCT_LIMIT = EstimatorEntry(
    method=core.PRODUCT_LIMIT,
    name="Kaplan–Meier",
    note="the product of the shares that pass each event time",
    sources=(
        Reference(
            "Kaplan & Meier 1958",
            "Kaplan EL, Meier P. Nonparametric estimation from incomplete observations. Journal of the "
            "American Statistical Association 1958; 53: 457–481.",
        ),
    ),
    claim="Survival was estimated by the Kaplan–Meier method",
    variance="Its variance was estimated by Greenwood’s formula",
    of_variance=(
        Reference(
            "Greenwood 1926",
            "Greenwood M. The natural duration of cancer. Reports on Public Health and Medical Subjects "
            "1926; 33: 1–26.",
        ),
    ),
    formula="S(t) = Π (1 − d/n), over the event times up to t",
    part=lambda d, n: f"(1 − {d}/{n})",
    joint=" × ",
    step="1 − d/n",
    steps=lambda n, d: (n - d) / n,
    sigma2="σ² = Σ d / (n (n − d))",
    rests_on="Kaplan & Meier (1958); variance by Greenwood (1926).",
)
ESTIMATORS = catalogue(
    PRODUCT_LIMIT,
    EstimatorEntry(
        method=core.FROM_HAZARD,
        name="exp(−H), Nelson–Aalen",
        note="from the cumulative hazard H, the sum of events over the number at risk",
        sources=(CUMULATIVE_HAZARD,),
        claim="Survival was estimated as exp(−H), H the Nelson–Aalen estimate of the cumulative hazard",
        formula="S(t) = exp(−H), H = Σ d/n over the event times up to t",
        part=lambda d, n: f"{d}/{n}",
        joint=" + ",
        around="exp(−({}))",
        step="d/n",
        steps=core.TIES_TOGETHER.steps,
        sigma2="σ² = Var H = Σ d / n²",
        rests_on="Nelson–Aalen; variance by Aalen (1978).",
    ),
    EstimatorEntry(
        method=core.FROM_HAZARD_SPREAD,
        name="exp(−H), tied events spread",
        note="the same with tied events taken one after the other",
        sources=(
            CUMULATIVE_HAZARD,
            Reference(
                "Fleming & Harrington 1984",
                "Fleming TR, Harrington DP. Nonparametric estimation of the survival distribution in "
                "censored data. Communications in Statistics – Theory and Methods 1984; 13: 2469–2486.",
            ),
        ),
        claim="Survival was estimated as exp(−H), H the cumulative hazard with tied events taken one after "
        "the other",
        formula="S(t) = exp(−H), H = Σ (1/n + 1/(n − 1) + … + 1/(n − d + 1)) over the event times up to t",
        part=lambda d, n: f"1/{n}" if d == 1 else f"(1/{n} + … + 1/{n - d + 1})",
        joint=" + ",
        around="exp(−({}))",
        step="1/n + … + 1/(n − d + 1)",
        steps=core.TIES_SPREAD.steps,
        sigma2="σ² = Var H = Σ (1/n² + … + 1/(n − d + 1)²)",
        rests_on="Fleming & Harrington (1984), tied events one after the other.",
    ),
    methods=core.ESTIMATORS,
)
