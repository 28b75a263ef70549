"""Sections 4 and 6: the partial likelihood, what is made of it, and its residuals.

Numbers are of 50 digits, kept in arrays of objects; :func:`floats` makes ordinary ones of them.
"""

from itertools import combinations

import mpmath as mp
import numpy as np
from mpmath import mpf

from core.literal.curves import at, curve
from core.literal.data import event_times

exp, log, root = (np.vectorize(f, otypes=[object]) for f in (mp.exp, mp.log, mp.sqrt))


def digits(values):
    return np.vectorize(lambda v: mpf(float(v)), otypes=[object])(np.asarray(values))


def floats(values):
    return np.asarray(values, dtype=object).astype(float)


def solve(a, b):
    found = mp.lu_solve(mp.matrix(a.tolist()), mp.matrix(b.tolist()))
    return np.array([found[k] for k in range(len(b))], dtype=object)


def inverse(a):
    found = mp.inverse(mp.matrix(a.tolist()))
    return np.array([[found[i, j] for j in range(len(a))] for i in range(len(a))], dtype=object)


def times_of(data):
    """(stratum, t) of every event time."""
    return [
        (k, t)
        for k in sorted({r.stratum for r in data})
        for t in event_times([r for r in data if r.stratum == k])
    ]


def at_risk(data, k, t):
    return [i for i, r in enumerate(data) if r.stratum == k and r.e < t <= r.t and r.w]


def tied_at(data, k, t):
    return [i for i, r in enumerate(data) if r.stratum == k and r.t == t and r.s == 1 and r.w]


SHARES = {"Efron": lambda factor, d: mpf(factor) / d, "Breslow": lambda factor, d: mpf(0)}


def factors(data, x, r, k, t, ties):
    """φ, x̄ and V of each factor of an event time."""
    risk, tied = at_risk(data, k, t), tied_at(data, k, t)
    d = sum(data[i].w for i in tied)
    out = []
    for factor in range(d):
        share = SHARES[ties](factor, d)
        weights = {i: data[i].w * r[i] * (1 - share if i in tied else 1) for i in risk}
        phi = sum(weights.values())
        mean = sum(w * x[i] for i, w in weights.items()) / phi
        covariance = sum(w * np.outer(x[i] - mean, x[i] - mean) for i, w in weights.items()) / phi
        out.append((phi, mean, covariance, share))
    return out


def partial_likelihood(data, x, beta, ties="Efron", offset=None):
    """Log partial likelihood, score and information; and (time, tied, factors) of each event time."""
    x, beta = digits(x), np.asarray(beta, dtype=object)
    eta = x @ beta + (0 if offset is None else digits(offset))
    if ties == "exact":
        return *_exact(data, x, eta), []
    r, p = exp(eta), x.shape[1]
    value, score, info, steps = mpf(0), digits(np.zeros(p)), digits(np.zeros((p, p))), []
    for k, t in times_of(data):
        tied, made = tied_at(data, k, t), factors(data, x, r, k, t, ties)
        value += sum(data[i].w * eta[i] for i in tied) - sum(mp.log(f[0]) for f in made)
        score = score + sum(data[i].w * x[i] for i in tied) - sum(f[1] for f in made)
        info = info + sum(f[2] for f in made)
        steps.append((t, tied, made))
    return value, score, info, steps


def _exact(data, x, eta):
    """Every set of d copies at risk, one by one."""
    p = x.shape[1]
    value, score, info = mpf(0), digits(np.zeros(p)), digits(np.zeros((p, p)))
    for k, t in times_of(data):
        copies = [i for i in at_risk(data, k, t) for _ in range(data[i].w)]
        tied = [i for i in tied_at(data, k, t) for _ in range(data[i].w)]
        total, first, second = mpf(0), 0, 0
        for some in combinations(copies, len(tied)):
            weight, sums = mp.exp(sum(eta[i] for i in some)), sum(x[i] for i in some)
            total, first = total + weight, first + weight * sums
            second = second + weight * np.outer(sums, sums)
        mean = first / total
        value += sum(eta[i] for i in tied) - mp.log(total)
        score = score + sum(x[i] for i in tied) - mean
        info = info + second / total - np.outer(mean, mean)
    return value, score, info


def newton(data, x, start, ties="Efron", offset=None):
    """β̂ from a start near it, each step doubling the digits."""
    beta = digits(start)
    for _ in range(6):
        _, score, info, _ = partial_likelihood(data, x, beta, ties, offset)
        step = solve(info, score)
        beta = beta + step
        if max(abs(s) for s in step) < mpf("1e-40"):
            break
    return beta


def schoenfeld(data, x, beta, ties="Efron"):
    """(time, residual) of each event, by time."""
    x, out = digits(x), []
    for t, tied, made in partial_likelihood(data, x, beta, ties)[3]:
        mean = sum(f[1] for f in made) / len(made)
        for i in tied:
            out += [(t, x[i] - mean)] * data[i].w
    return sorted(out, key=lambda pair: pair[0])


def proportionality(data, x, beta, g_at, ties="Efron"):
    """U_θ and its reduced information, ``g_at`` maps a time to g."""
    x, p = digits(x), len(beta)
    u, bb, bt, tt = digits(np.zeros(p)), 0, 0, 0
    for t, tied, made in partial_likelihood(data, x, beta, ties)[3]:
        g, v = g_at(t), sum(f[2] for f in made)
        mean = sum(f[1] for f in made) / len(made)
        for i in tied:
            u = u + g * data[i].w * (x[i] - mean)
        bb, bt, tt = bb + v, bt + g * v, tt + g * g * v
    return u, tt - bt.T @ inverse(bb) @ bt


TIME_FUNCTIONS = {
    "one minus survival": lambda data: lambda t: 1 - at([p for p in curve(data) if p[0] < t], t)[0],
    "time": lambda data: mpf,
    "log time": lambda data: mp.log,
    "rank": lambda data: lambda t: mpf(event_times(data).index(t) + 1),
}


def concordance(data, score):
    """Value, and the infinitesimal jackknife's standard error over subjects, by all pairs of rows."""
    n = len(data)
    whose = [i if r.subject is None else r.subject for i, r in enumerate(data)]
    agree, pairs = dict.fromkeys(whose, mpf(0)), dict.fromkeys(whose, mpf(0))
    total, value = mpf(0), mpf(0)
    for i in range(n):
        for j in range(n):
            a, b = data[i], data[j]
            if i == j or a.s != 1 or not b.e < a.t or a.stratum != b.stratum:
                continue
            if a.t < b.t or (a.t == b.t and b.s != 1):
                point = mpf(1) if score[i] > score[j] else mpf(int(score[i] == score[j])) / 2
                for one, other in ((i, b), (j, a)):
                    agree[whose[one]] += other.w * point
                    pairs[whose[one]] += other.w
                value, total = value + a.w * b.w * point, total + a.w * b.w
    value = value / total
    copies = {s: next(r.w for r, o in zip(data, whose) if o == s) for s in set(whose)}
    squares = sum(copies[s] * ((agree[s] - value * pairs[s]) / total) ** 2 for s in set(whose))
    return value, mp.sqrt(squares)


def hazard_of(data, x, beta, i, ties="Efron", offset=None):
    """Λ_i and ∫ (x_i − x̄) dM_i of row i, one copy."""
    x, beta = digits(x), np.asarray(beta, dtype=object)
    r = exp(x @ beta + (0 if offset is None else digits(offset)))
    total, score = mpf(0), digits(np.zeros(x.shape[1]))
    for k, t in times_of(data):
        if i not in at_risk(data, k, t):
            continue
        tied, made = tied_at(data, k, t), factors(data, x, r, k, t, ties)
        for phi, mean, _, share in made:
            part = r[i] * (1 - share if i in tied else 1) / phi
            total += part
            score = score - part * (x[i] - mean)
            if i in tied:
                score = score + (x[i] - mean) / len(made)
    return total, score


def dfbetas(data, x, beta, ties="Efron", offset=None):
    """dfbeta of every row, one copy."""
    info = partial_likelihood(data, x, beta, ties, offset)[2]
    v = inverse(info)
    return [hazard_of(data, x, beta, i, ties, offset)[1] @ v for i in range(len(data))]


def baseline(data, x, beta, k, ties="Efron", offset=None):
    """(t, Λ0, Σ 1/φ², Σ x̄/φ) of stratum k, for covariates 0."""
    x, beta = digits(x), np.asarray(beta, dtype=object)
    r = exp(x @ beta + (0 if offset is None else digits(offset)))
    level, squares, means, out = mpf(0), mpf(0), digits(np.zeros(x.shape[1])), []
    for own, t in times_of(data):
        if own != k:
            continue
        for phi, mean, _, _ in factors(data, x, r, k, t, ties):
            level, squares, means = level + 1 / phi, squares + 1 / phi**2, means + mean / phi
        out.append((t, level, squares, means))
    return out


def predicted(steps, v, beta, profile, z):
    """(t, Λ, Var Λ, S, lower, upper) of a profile."""
    profile, out = digits(profile), []
    score = mp.exp(profile @ beta)
    for t, level, squares, means in steps:
        h = profile * level - means
        variance = score**2 * (squares + h @ v @ h)
        cumulative = score * level
        apart = mp.exp(z * mp.sqrt(variance) / cumulative)
        survival = mp.exp(-cumulative)
        out.append((t, cumulative, variance, survival, survival**apart, survival ** (1 / apart)))
    return out


def penalised(data, x, beta, ties="Efron"):
    """ℓ + ½ ln |I|."""
    value, _, info, _ = partial_likelihood(data, x, beta, ties)
    return value + mp.log(mp.det(mp.matrix(info.tolist()))) / 2


def slope(f, beta, k):
    """∂f/∂β_k by central differences, at 50 digits no matter."""
    step = digits(np.zeros(len(beta)))
    step[k] = mpf("1e-15")
    return (f(beta + step) - f(beta - step)) / mpf("2e-15")
