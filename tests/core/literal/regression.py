"""Slow, literal transcriptions of methods.md, one loop a formula; data are lists of dicts.

A row is {"t": exit, "s": status, "e": entry (-inf when none), "w": count}.
"""

import math
from statistics import NormalDist

import numpy as np


def rows(t, s, e=None, w=None):
    n = len(t)
    e = [-math.inf] * n if e is None else e
    w = [1] * n if w is None else w
    return [{"t": float(t[i]), "s": int(s[i]), "e": float(e[i]), "w": int(w[i])} for i in range(n)]


def z_of(level):
    return NormalDist().inv_cdf(1 - (1 - level) / 2)


def at_risk(data, t):
    return sum(r["w"] for r in data if r["e"] < t <= r["t"])


def event_times(data, status=1):
    return sorted({r["t"] for r in data if r["s"] == status and r["w"] > 0})


def deaths(data, t, status=1):
    return sum(r["w"] for r in data if r["t"] == t and r["s"] == status)


def survival(data, t, status=1):
    """S, sigma2 at t."""
    s, sigma2 = 1.0, 0.0
    for tj in event_times(data, status):
        if tj <= t:
            n, d = at_risk(data, tj), deaths(data, tj, status)
            s *= 1 - d / n
            sigma2 = math.inf if n == d else sigma2 + d / (n * (n - d))
    return s, sigma2


def log_log(s, sigma2, level):
    if s == 1:
        return 1.0, 1.0
    if s <= 0:
        return None, None
    zs = z_of(level) * math.sqrt(sigma2) / math.log(s)
    return s ** math.exp(-zs), s ** math.exp(zs)


def quantile(data, q, level=0.95, status=1):
    times = event_times(data, status)
    curve = [survival(data, t, status) for t in times]
    time = None
    for j, (s, _) in enumerate(curve):
        if s <= 1 - q + 1e-12:
            equal = abs(s - (1 - q)) <= 1e-12 and j + 1 < len(times)
            time = (times[j] + times[j + 1]) / 2 if equal else times[j]
            break
    limits = [log_log(s, v, level) for s, v in curve]
    lower = next((t for t, (lo, _) in zip(times, limits) if lo is not None and lo <= 1 - q), None)
    upper = next((t for t, (_, up) in zip(times, limits) if up is not None and up <= 1 - q), None)
    return time, lower, upper


WEIGHTS = {"equal": lambda n: 1.0, "root at risk": math.sqrt}


def log_rank(data, group, groups, weight=WEIGHTS["equal"]):
    """U, V, expected; ``weight`` is W from the number at risk."""
    u, v, expected = np.zeros(groups), np.zeros((groups, groups)), np.zeros(groups)
    parts = [[r for r, g in zip(data, group) if g == h] for h in range(groups)]
    for t in event_times(data):
        n, d = at_risk(data, t), deaths(data, t)
        ng = [at_risk(part, t) for part in parts]
        for g in range(groups):
            u[g] += weight(n) * (deaths(parts[g], t) - ng[g] * d / n)
            expected[g] += ng[g] * d / n
            for h in range(groups):
                if n > 1:
                    c = weight(n) ** 2 * d * (n - d) / (n - 1)
                    v[g, h] += c * ng[g] / n * ((g == h) - ng[h] / n)
    return u, v, expected


def efron_share(factor, d):
    return factor / d


def breslow_share(factor, d):
    return 0.0


def partial_likelihood(data, x, beta, share=efron_share):
    """Log partial likelihood, score and information; and (time, xbar list, V list) per event time."""
    x, beta = np.asarray(x, float), np.asarray(beta, float)
    r = np.exp(x @ beta)
    value, score, info, steps = 0.0, np.zeros(x.shape[1]), np.zeros((x.shape[1],) * 2), []
    for t in event_times(data):
        risk = [i for i, row in enumerate(data) if row["e"] < t <= row["t"]]
        tied = [i for i, row in enumerate(data) if row["t"] == t and row["s"] == 1]
        d = sum(data[i]["w"] for i in tied)
        for i in tied:
            value += data[i]["w"] * float(x[i] @ beta)
            score += data[i]["w"] * x[i]
        means, covariances = [], []
        for factor in range(d):
            weights = {i: data[i]["w"] * r[i] for i in risk}
            for i in tied:
                weights[i] -= share(factor, d) * data[i]["w"] * r[i]
            phi = sum(weights.values())
            mean = sum(w * x[i] for i, w in weights.items()) / phi
            covariance = (
                sum(w * np.outer(x[i] - mean, x[i] - mean) for i, w in weights.items()) / phi
            )
            value -= math.log(phi)
            score -= mean
            info += covariance
            means.append(mean)
            covariances.append(covariance)
        steps.append((t, tied, means, covariances))
    return value, score, info, steps


def newton(data, x, tolerance=1e-13, share=efron_share):
    beta = np.zeros(np.asarray(x).shape[1])
    for _ in range(50):
        value, score, info, _ = partial_likelihood(data, x, beta, share)
        step = np.linalg.solve(info, score)
        while partial_likelihood(data, x, beta + step, share)[0] < value - 1e-9:
            step = step / 2
        beta = beta + step
        if np.abs(step).max() < tolerance * max(1.0, np.abs(beta).max()):
            break
    return beta


def schoenfeld(data, x, beta):
    """(time, residual) of each event, by time."""
    out = []
    for t, tied, means, _ in partial_likelihood(data, x, beta)[3]:
        xbar = np.mean(means, axis=0)
        for i in tied:
            out += [(t, np.asarray(x[i]) - xbar)] * data[i]["w"]
    return out


def proportionality(data, x, beta, g_at):
    """(U_theta, reduced information), g_at maps a time to g."""
    p = len(beta)
    u, bb, bt, tt = np.zeros(p), np.zeros((p, p)), np.zeros((p, p)), np.zeros((p, p))
    for t, tied, means, covariances in partial_likelihood(data, x, beta)[3]:
        g, v, xbar = g_at(t), sum(covariances), np.mean(means, axis=0)
        for i in tied:
            u += g * data[i]["w"] * (np.asarray(x[i]) - xbar)
        bb, bt, tt = bb + v, bt + g * v, tt + g * g * v
    return u, tt - bt.T @ np.linalg.inv(bb) @ bt


def concordance(data, score):
    """Value, and the infinitesimal jackknife's standard error, by all pairs."""
    n = len(data)
    agree, pairs = np.zeros(n), np.zeros(n)
    for i, a in enumerate(data):
        for j, b in enumerate(data):
            if i == j or a["s"] != 1 or not b["e"] < a["t"]:
                continue
            if a["t"] < b["t"] or (a["t"] == b["t"] and b["s"] != 1):
                point = 1.0 if score[i] > score[j] else 0.5 if score[i] == score[j] else 0.0
                for one, other in ((i, b), (j, a)):
                    agree[one] += other["w"] * point
                    pairs[one] += other["w"]
    w = np.array([r["w"] for r in data])
    total = (w * pairs).sum() / 2
    value = (w * agree).sum() / 2 / total
    return value, math.sqrt((w * ((agree - value * pairs) / total) ** 2).sum())
