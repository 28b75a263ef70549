"""Workings of the log-rank statistic."""

import numpy as np

from hourglass.analysis import wording
from hourglass.analysis.compare import Comparison
from hourglass.analysis.workings.sheet import Workings, decimal, digits, table_of, whole


def log_rank_workings(found: Comparison) -> Workings:
    """Observed less expected at every event time, their sums, and the statistic from them."""
    labels, test = found.groups.labels, found.log_rank
    pooled = test.pooled
    n, d = pooled.at_risk.astype(np.float64), pooled.events.astype(np.float64)
    spread = np.divide(d * (n - d), n - 1, out=np.zeros_like(n), where=n > 1)
    columns = [decimal("time", "time"), whole("at_risk", "at risk n"), whole("events", "events d")]
    cells = [pooled.time, pooled.at_risk, pooled.events]
    for g, label in enumerate(labels):
        share = test.at_risk[:, g] / n
        columns += [
            whole(f"at_risk_{g}", f"at risk, {label}"),
            whole(f"events_{g}", f"events, {label}"),
            decimal(f"expected_{g}", f"expected, {label}"),
            decimal(f"variance_{g}", f"variance, {label}"),
        ]
        cells += [test.at_risk[:, g], test.events[:, g], share * d, spread * share * (1 - share)]
    excess = test.observed - test.expected
    formula = [
        "expected in a group at an event time = n of the group × d / n; "
        "variance = d (n − d) / (n − 1) × share × (1 − share)",
        *(
            f"{label}: observed {o} − expected {digits(e)} = {digits(u)}"
            for label, o, e, u in zip(labels, test.observed, test.expected, excess, strict=True)
        ),
    ]
    statistic = test.test.statistic
    if statistic is None:
        formula.append(f"There is no statistic: {test.test.blank}.")
    elif len(labels) == 2:
        formula.append(
            f"χ² = (O − E)² / V = {digits(excess[0])}² / {digits(test.variance[0, 0])} = "
            f"{digits(statistic)}, 1 degree of freedom, {wording.p_phrase(test.test.p)}"
        )
    else:
        formula += [
            "χ² = Uᵀ V⁻ U with U = observed − expected of all groups but the first, and V:",
            *(
                f"V of {label}: " + ", ".join(digits(v) for v in test.variance[g])
                for g, label in enumerate(labels)
            ),
            f"χ² = {digits(statistic)}, {test.test.df} degrees of freedom, "
            f"{wording.p_phrase(test.test.p)}",
        ]
    return Workings(
        title=f"Log-rank: χ² {wording.statistic(statistic)}",
        formula=formula,
        columns=columns,
        rows=table_of(*cells),
        note="Mantel (1966). All event times weigh equally.",
    )
