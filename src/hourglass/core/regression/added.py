"""Whether columns that are not in a model would add to it: score tests at its estimates
(methods.md, section 4: Proportional hazards regression, "Tests")."""

import numpy as np

from hourglass.core.arrays import FloatArray
from hourglass.core.comparison.chi_squared import Test, chi_squared, no_test
from hourglass.core.followup import FollowUp
from hourglass.core.regression.fitted import HazardsFit
from hourglass.core.regression.likelihood import likelihood_of, moments, seen_at_events
from hourglass.core.regression.residuals import estimated
from hourglass.core.regression.risk_sets import columns_of, risk_sets

MIN_SHARE_OF_INFORMATION = 1e-9
"""Share of a column's information that is left beside the others, below which it adds nothing of its own."""


def beside_the_model(
    data: FollowUp, x: FloatArray, fitted: HazardsFit, added: FloatArray
) -> tuple[Test, ...]:
    """U² / (I_kk − I_kβ I_ββ⁻¹ I_βk) of each added column by itself, at its coefficient 0 and at β̂.

    One evaluation of the likelihood serves all of them.

    Args:
        data, x, fitted: a fit and what it was made of.
        added: (n, m) columns, each tested alone beside those of the fit.

    Raises:
        NotEstimableError: with exact ties, or when a coefficient has no finite estimate.
    """
    kept = estimated(fitted)
    sets = risk_sets(data, fitted.ties, fitted.stratum)
    z = np.vstack([columns_of(x, sets.order, kept), columns_of(added, sets.order)])
    z -= sets.mean_at_risk(z)[:, None]
    spread = np.sqrt(sets.mean_at_risk(np.square(z)))
    z /= np.where(spread > 0, spread, 1.0)[:, None]
    m = moments(sets, z, sets.ordered(fitted.linear))
    at = likelihood_of(sets, z, seen_at_events(sets, z), m)
    own = int(kept.sum())
    inner = at.information[:own, :own]
    found = []
    for k in range(own, z.shape[0]):
        cross = at.information[:own, k]
        explained = float(cross @ np.linalg.solve(inner, cross)) if own else 0.0
        whole = float(at.information[k, k])
        left = whole - explained
        if spread[k] == 0 or not left > MIN_SHARE_OF_INFORMATION * max(whole, 0.0):
            found.append(no_test("it adds nothing to the columns of the model"))
        else:
            found.append(chi_squared(float(at.gradient[k]) ** 2 / left, 1))
    return tuple(found)
