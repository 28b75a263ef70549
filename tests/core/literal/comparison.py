"""Sections 3 and 5: comparing groups, and competing events."""

from itertools import combinations

import mpmath as mp
from mpmath import mpf

from core.literal.curves import curve
from core.literal.data import at_risk, deaths, event_times, z_of


def weights_of(key):
    """W from the (n, d) of the event times up to and at the one in question."""

    def peto(steps):
        w = mpf(1)
        for n, d in steps:
            w *= 1 - mpf(d) / (n + 1)
        return w

    def early_late(rho, gamma):
        def of(steps):
            s = mpf(1)
            for n, d in steps[:-1]:
                s *= 1 - mpf(d) / n
            return (s**rho if rho else mpf(1)) * ((1 - s) ** gamma if gamma else mpf(1))

        return of

    return {
        "log-rank": lambda steps: mpf(1),
        "Gehan–Breslow": lambda steps: mpf(steps[-1][0]),
        "Tarone–Ware": lambda steps: mp.sqrt(steps[-1][0]),
        "Peto–Peto": peto,
        "modified Peto–Peto": lambda steps: peto(steps) * steps[-1][0] / (steps[-1][0] + mpf(1)),
        "Fleming–Harrington 1, 0": early_late(1, 0),
        "Fleming–Harrington 0, 1": early_late(0, 1),
        "Fleming–Harrington 1, 1": early_late(1, 1),
        "Fleming–Harrington 0, 0": early_late(0, 0),
    }[key]


def strata_of(data):
    return [[r for r in data if r.stratum == k] for k in sorted({r.stratum for r in data})]


def steps_of(data, weight):
    """[(t, W, v, n, d, n_g, d_g)] over the event times of every stratum, v the unweighted variance."""
    groups, out = max(r.g for r in data) + 1, []
    for stratum in strata_of(data):
        past = []
        for t in event_times(stratum):
            n, d = at_risk(stratum, t), deaths(stratum, t)
            past.append((n, d))
            parts = [[r for r in stratum if r.g == g] for g in range(groups)]
            v = mpf(d) * (n - d) / (n - 1) if n > 1 else mpf(0)
            out.append(
                (
                    t,
                    weight(past),
                    v,
                    n,
                    d,
                    [at_risk(p, t) for p in parts],
                    [deaths(p, t) for p in parts],
                )
            )
    return out


def log_rank(data, weight):
    """U, V, the expected numbers, the degrees of freedom."""
    groups = max(r.g for r in data) + 1
    u, expected = [mpf(0)] * groups, [mpf(0)] * groups
    v = mp.zeros(groups)
    linked = {frozenset([g]) for g in range(groups)}
    for _, w, variation, n, d, ng, dg in steps_of(data, weight):
        for g in range(groups):
            u[g] += w * (dg[g] - mpf(ng[g]) * d / n)
            expected[g] += mpf(ng[g]) * d / n
            for h in range(groups):
                v[g, h] += w**2 * variation * mpf(ng[g]) / n * ((g == h) - mpf(ng[h]) / n)
        if w != 0 and d < n:
            here = [g for g in range(groups) if ng[g]]
            joined = frozenset().union(*(c for c in linked if c & set(here)))
            linked = {c for c in linked if not c & joined} | ({joined} if joined else set())
    return u, v, expected, groups - len(linked)


def statistic(u, v, df):
    """Uᵀ V⁻ U by the eigenvectors of V that are not null."""
    values, vectors = mp.eigsy(v)
    order = sorted(range(len(u)), key=lambda k: -values[k])[:df]
    return sum((sum(vectors[i, k] * u[i] for i in range(len(u)))) ** 2 / values[k] for k in order)


def trend(data, weight, scores):
    u, v, _, _ = log_rank(data, weight)
    g = range(len(u))
    variance = sum(mpf(scores[i]) * mpf(scores[j]) * v[i, j] for i in g for j in g)
    return sum(mpf(scores[i]) * u[i] for i in g) ** 2 / variance


def evidence(data, weight, group, level):
    """[(t, course, limit)] with strata added up at each time."""
    steps, out = steps_of(data, weight), []
    for t in sorted({s[0] for s in steps}):
        course, spread = mpf(0), mpf(0)
        for time, w, v, n, d, ng, dg in steps:
            if time <= t:
                share = mpf(ng[group]) / n
                course += w * (dg[group] - share * d)
                spread += w**2 * v * share * (1 - share)
        out.append((t, course, z_of(level) * mp.sqrt(spread)))
    return out


def adjusted(p, key):
    """Adjusted p-values, each by the sentence that defines it."""
    m = len(p)
    order = sorted(range(m), key=lambda k: p[k])
    rank = {k: i + 1 for i, k in enumerate(order)}

    def one(k):
        below, above = order[: rank[k]], order[rank[k] - 1 :]
        return {
            "none": lambda: p[k],
            "Bonferroni": lambda: m * p[k],
            "Šidák": lambda: 1 - (1 - mpf(p[k])) ** m,
            "Holm": lambda: max((m - rank[j] + 1) * p[j] for j in below),
            "Hochberg": lambda: min((m - rank[j] + 1) * p[j] for j in above),
            "Benjamini–Hochberg": lambda: min(mpf(m) * p[j] / rank[j] for j in above),
        }[key]()

    return [min(one(k), 1) for k in range(m)]


def profile(data, x, weight):
    """{c: statistic} over the admissible cuts, x one value a row, counts of copies in the rows."""
    found, n = {}, sum(r.w for r in data)
    for c in sorted(set(x))[:-1]:
        for r, value in zip(data, x, strict=True):
            r.g = int(value > c)
        sides = [[r for r in data if r.g == g] for g in (0, 1)]
        if all(
            10 * sum(r.w for r in s) >= n and sum(r.w for r in s if r.s == 1) >= 5 for s in sides
        ):
            u, v, _, _ = log_rank(data, weight)
            if v[0, 0] > mpf("1e-30"):
                found[c] = u[0] ** 2 / v[0, 0]
    return found


def combined_z(data):
    """Z of the four weights with a variance, and their correlation."""
    weights = [
        weights_of(f"Fleming–Harrington {r}, {g}") for r, g in ((0, 0), (1, 0), (0, 1), (1, 1))
    ]
    all_steps = [steps_of(data, w) for w in weights]
    u = [sum(s[1] * (s[6][1] - mpf(s[5][1]) * s[4] / s[3]) for s in steps) for steps in all_steps]
    v = mp.matrix(4)
    for k, a in enumerate(all_steps):
        for j, b in enumerate(all_steps):
            for s, t in zip(a, b, strict=True):
                share = mpf(s[5][1]) / s[3]
                v[k, j] += s[1] * t[1] * s[2] * share * (1 - share)
    kept = [k for k in range(4) if v[k, k] > 0]
    z = [u[k] / mp.sqrt(v[k, k]) for k in kept]
    correlation = [[v[k, j] / mp.sqrt(v[k, k] * v[j, j]) for j in kept] for k in kept]
    return z, correlation


def incidence(data, cause):
    """[(t, F, Var F)] at the times of an event of any cause."""

    def any_cause(r):
        return r.s > 0

    all_cause = curve(data, of=any_cause)
    before = [mpf(1), *(p[3] for p in all_cause)]
    f, out = mpf(0), []
    terms = []
    for (t, n, d, *_), s in zip(all_cause, before):
        dk = deaths(data, t, lambda r: r.s == cause)
        f += s * dk / n
        terms.append((f, n, d, dk, s))
        variance = mpf(0)
        for fj, nj, dj, dkj, sj in terms:
            if nj != dj:
                variance += (f - fj) ** 2 * mpf(dj) / (nj * (nj - dj))
            variance += sj**2 * mpf(dkj) * (nj - dkj) / mpf(nj) ** 3
            variance -= 2 * (f - fj) * sj * mpf(dkj) / mpf(nj) ** 2
        out.append((t, f, variance))
    return out


def gray(data):
    """z and V."""
    groups = max(r.g for r in data) + 1
    times = event_times(data, lambda r: r.s > 0)
    parts = [[r for r in data if r.g == g] for g in range(groups)]
    curves = [curve(p, of=lambda r: r.s > 0) for p in parts]
    shares = [incidence(p, 1) for p in parts]

    def s_of(r, t, strictly):
        found = [p[3] for p in curves[r] if p[0] < t or (p[0] == t and not strictly)]
        return found[-1] if found else mpf(1)

    def f_before(r, t):
        found = [f for time, f, _ in shares[r] if time < t]
        return found[-1] if found else mpf(0)

    h = [[(mpf(at_risk(p, t)) / s_of(r, t, True)) if at_risk(p, t) else mpf(0) for t in times]
         for r, p in enumerate(parts)]  # fmt: skip
    total = [sum(h[r][j] for r in range(groups)) for j in range(len(times))]
    d1 = [[deaths(p, t) for t in times] for p in parts]
    d2 = [[deaths(p, t, lambda r: r.s > 1) for t in times] for p in parts]
    events = [sum(d1[r][j] for r in range(groups)) for j in range(len(times))]
    big = [[h[r][j] * (1 - f_before(r, t)) for j, t in enumerate(times)] for r in range(groups)]
    z = [
        sum(d1[k][j] - big[k][j] * mpf(events[j]) / sum(big[r][j] for r in range(groups))
            for j in range(len(times)) if sum(big[r][j] for r in range(groups)))
        for k in range(groups)
    ]  # fmt: skip
    df0 = [mpf(events[j]) / total[j] for j in range(len(times))]
    g0 = [1 - sum(df0[: j + 1]) for j in range(len(times))]
    g0_before = [mpf(1), *g0[:-1]]
    v = mp.zeros(groups)
    for j, t in enumerate(times):
        for r in range(groups):
            if h[r][j] == 0:
                continue
            s = s_of(r, t, False)
            c = g0[j] / s if s else mpf(0)

            def d(k, u, r=r):
                return h[r][u] * ((k == r) - h[k][u] / total[u])

            ahead = [
                sum(
                    d(k, u) * df0[u] / g0_before[u]
                    for u in range(j + 1, len(times))
                    if g0_before[u] > 0
                )
                for k in range(groups)
            ]
            a = [d(k, j) + (1 - c) * ahead[k] for k in range(groups)]
            b = [-c * ahead[k] for k in range(groups)]
            for k in range(groups):
                for m in range(groups):
                    v[k, m] += a[k] * a[m] * df0[j] / h[r][j]
                    v[k, m] += b[k] * b[m] * d2[r][j] / h[r][j] ** 2
    return z, v


def all_pairs(groups):
    return list(combinations(range(groups), 2))
