"""Whether a likelihood has a maximum, judged in whole numbers: no linear programme, no tolerance."""

from itertools import combinations

import numpy as np
import pytest
from scipy.optimize import minimize
from scipy.stats import norm

from core.literal import regression as literal
from core.literal.data import rows
from examples import examples
from hourglass.core.followup import follow_up
from hourglass.core.regression.fit import fit
from hourglass.core.regression.profile import finite_limit
from hourglass.core.regression.ties import TIE_METHODS
from hourglass.core.variants import variant

SETS = {"Efron": examples(1_600), "exact": examples(800)}


def made(seed):
    """A small data set of whole numbers: ties, late entries and columns in steps."""
    rng = np.random.default_rng(seed)
    n, p = int(rng.integers(4, 9)), int(rng.integers(1, 4))
    t, s = rng.integers(1, n + 1, n), rng.integers(0, 2, n)
    s[rng.integers(n)] = 1
    e = np.where(rng.random(n) < (seed % 3 == 0) * 0.5, t - rng.integers(1, n, n), -np.inf)
    return t, s, np.where(e <= 0, -np.inf, e), rng.integers(-2, 3, (n, p))


def constraints(t, s, e, x, ties):
    """Each event's row less each row at risk with it: no direction of the cone makes it negative.

    With exact ties, less each that has not the event then: only which rows have it is compared.
    """
    pairs = [
        tuple(map(int, x[i] - x[k]))
        for i in range(len(t))
        if s[i] == 1
        for k in range(len(t))
        if e[k] < t[i] <= t[k] and not (ties == "exact" and s[k] == 1 and t[k] == t[i])
    ]
    return sorted(set(pairs) - {(0,) * x.shape[1]})


def rank(rows):
    """The rank of rows of whole numbers, by elimination without fractions."""
    rows, found = [list(r) for r in rows], 0
    for column in range(len(rows[0]) if rows else 0):
        lead = next((r for r in rows[found:] if r[column]), None)
        if lead is None:
            continue
        rows.remove(lead)
        rows.insert(found, lead)
        found += 1
        rows[found:] = [
            [lead[column] * v - r[column] * u for u, v in zip(lead, r)] for r in rows[found:]
        ]
    return found


def rays(rows, q):
    """Extreme rays of {γ: a γ ≥ 0 for all rows a} of rank q ≤ 3."""
    found = []
    for some in combinations(rows, q - 1):
        if q == 1:
            ray = (1,)
        elif q == 2:
            ray = (-some[0][1], some[0][0])
        else:
            (a, b, c), (d, e, f) = some
            ray = (b * f - c * e, c * d - a * f, a * e - b * d)
        for r in (ray, tuple(-v for v in ray)):
            if any(r) and all(sum(u * v for u, v in zip(row, r)) >= 0 for row in rows):
                found.append(r)
    return found


def judged(t, s, e, x, ties):
    """The columns that are not aliased, and the rays along which the likelihood never falls."""
    rows, kept = constraints(t, s, e, x, ties), []
    for k in range(x.shape[1]):
        if rows and rank([[r[c] for c in (*kept, k)] for r in rows]) > len(kept):
            kept.append(k)
    if not kept:
        return kept, []
    return kept, rays(sorted({tuple(r[c] for c in kept) for r in rows}), len(kept))


STATUSES = {
    (False, False): "finite",
    (True, False): "to +infinity",
    (False, True): "to -infinity",
    (True, True): "undetermined",
}


@pytest.mark.parametrize("ties", SETS)
def test_every_status_is_that_of_exact_arithmetic(ties):
    runs = 0
    for seed in range(SETS[ties]):
        t, s, e, x = made(seed)
        kept, away = judged(t, s, e, x, ties)
        found = fit(follow_up(t, s, e), x.astype(float), ties=variant(TIE_METHODS, ties))
        wanted = ["aliased"] * x.shape[1]
        for place, k in enumerate(kept):
            wanted[k] = STATUSES[any(r[place] > 0 for r in away), any(r[place] < 0 for r in away)]
        assert list(found.status) == wanted, seed
        runs += bool(away)
        if away and seed < 500:
            highest = far(t, s, e, x[:, kept], away, ties)
            assert found.value == pytest.approx(highest, abs=1e-7), seed
    assert 0.25 < runs / SETS[ties] < 0.95  # both kinds are among them


def far(t, s, e, x, away, ties):
    """The highest value where only what is furthest inside the cone is still compared."""
    along = x @ np.sum(away, axis=0)

    def lost(b):
        r, value = np.exp(x @ b), 0.0
        for at in set(t[s == 1]):
            tied, there = (t == at) & (s == 1), (e < at) & (at <= t)
            if ties == "exact":
                some = [list(c) for c in combinations(np.flatnonzero(there), tied.sum())]
                risk = [c for c in some if along[c].sum() == along[tied].sum()]
                value += np.log(r[tied].prod() / sum(r[c].prod() for c in risk))
                continue
            risk = there & (along == along[tied].max())
            value += np.log(r[tied]).sum()
            for factor in range(tied.sum()):
                value -= np.log(r[risk].sum() - factor / tied.sum() * r[tied].sum())
        return -value

    return -minimize(lost, np.zeros(x.shape[1]), method="BFGS", options={"gtol": 1e-9}).fun


def test_columns_that_order_the_events_and_lie_close_together_run_away():
    x = np.array([[-1.5], [-1.4], [0], [0.9]])
    found = fit(follow_up([1, 2, 3, 4], [1, 1, 1, 1]), x)
    assert found.status == ("to -infinity",)
    assert found.value == pytest.approx(0, abs=1e-12)
    close = fit(follow_up([1, 2, 3, 4], [1, 1, 1, 1]), np.array([[1e6], [1e6 - 1e-3], [3], [2]]))
    assert close.status == ("to +infinity",)


def test_what_is_finite_beside_what_runs_away_is_estimated_in_the_rows_still_compared():
    # Among treated rows there is no event, and age still orders the others.
    rng = np.random.default_rng(3)
    n = 40
    treated, age = np.arange(n) % 2, rng.normal(60, 9, n)
    t = np.round(rng.exponential(9, n), 1) + 1
    s = np.where(treated == 1, 0, rng.integers(0, 2, n))
    found = fit(follow_up(t, s), np.column_stack([treated, age]))
    only = treated == 0
    alone = fit(follow_up(t[only], s[only]), age[only, None])
    assert found.status == ("to -infinity", "finite")
    assert found.value == pytest.approx(alone.value, rel=1e-12)
    assert found.beta[1] == pytest.approx(alone.beta[0], rel=1e-9)
    assert found.standard_error[1] == pytest.approx(alone.standard_error[0], rel=1e-9)
    # The order that is left puts the treated last, and the others by their age.
    assert found.linear[~only].max() < found.linear[only].min()
    assert np.argsort(found.linear[only]).tolist() == np.argsort(alone.linear).tolist()


def test_the_finite_end_lies_where_the_profile_has_fallen_enough():
    for seed in range(300):
        t, s, e, x = made(seed)
        kept, away = judged(t, s, e, x, "Efron")
        if len(kept) != 1 or not away:
            continue
        data, column = follow_up(t, s, e), x[:, kept].astype(float)
        found = fit(data, column)
        limit = finite_limit(data, column, found, 0)
        under = literal.partial_likelihood(rows(t, s, e), column, literal.digits([limit]))[0]
        assert found.value - float(under) == pytest.approx(norm.ppf(0.975) ** 2 / 2, rel=1e-8), seed
