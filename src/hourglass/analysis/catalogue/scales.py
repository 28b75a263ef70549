"""The scales on which a curve's intervals may be made (methods.md, section 2: Survival curve)."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.catalogue.sources import TRANSFORMED_INTERVALS
from hourglass.core.curves import scales as core


@dataclass(frozen=True, slots=True, kw_only=True)
class ScaleEntry(MethodEntry):
    """A scale of intervals, and how limits on it are written out.

    Attributes:
        definition: of the limits; ``filled``: the same with S, z and σ written in.
        rests_on: what is stated about it under the workings.
    """

    method: core.IntervalScale
    definition: str
    filled: Callable[[str, str, str], str]
    rests_on: str


INTERVAL_SCALES = catalogue(
    ScaleEntry(
        method=core.LOG_LOG,
        name="log–log",
        note="keeps to 0 and 100% and covers well in small groups",
        sources=(TRANSFORMED_INTERVALS,),
        definition="S ^ exp(± z σ / ln S)",
        filled=lambda s, z, sigma: f"{s} ^ exp(± {z} × {sigma} / ln {s})",
        rests_on="Interval on the log–log scale (Borgan & Liestøl 1990).",
    ),
    ScaleEntry(
        method=core.LINEAR,
        name="linear",
        note="symmetric; may leave 0 to 100% and is then held to it",
        definition="S ± z S σ",
        filled=lambda s, z, sigma: f"{s} ± {z} × {s} × {sigma}",
        rests_on="Plain interval, held to 0 and 1.",
    ),
    ScaleEntry(
        method=core.LOG,
        name="log",
        note="relative to the curve; may leave 100% and is then held to it",
        sources=(TRANSFORMED_INTERVALS,),
        definition="S exp(± z σ)",
        filled=lambda s, z, sigma: f"{s} × exp(± {z} × {sigma})",
        rests_on="Interval on the log scale, held to 1.",
    ),
    ScaleEntry(
        method=core.LOGIT,
        name="logit",
        note="by the odds of being free of the event",
        sources=(TRANSFORMED_INTERVALS,),
        definition="o / (1 + o), o = S/(1 − S) × exp(± z σ / (1 − S))",
        filled=lambda s, z, sigma: (
            f"o = {s} / (1 − {s}) × exp(± {z} × {sigma} / (1 − {s})), o / (1 + o)"
        ),
        rests_on="Interval by the odds.",
    ),
    ScaleEntry(
        method=core.ARCSINE,
        name="arcsine",
        note="by the angle whose sine is the root of the curve",
        sources=(TRANSFORMED_INTERVALS,),
        definition="sin²(asin √S ± ½ z σ √(S / (1 − S))), the angle held to 0 and a right one",
        filled=lambda s, z, sigma: f"sin²(asin √{s} ± ½ × {z} × {sigma} × √({s} / (1 − {s})))",
        rests_on="Interval by the angle.",
    ),
    methods=core.INTERVAL_SCALES,
)
