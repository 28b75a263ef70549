"""Section 2: the survival curve, and what is read off it."""

from itertools import pairwise

from mpmath import asin, exp, inf, log, mpf, pi, sin, sqrt

from core.literal.data import at_risk, deaths, end, event_times, z_of


def jumps(data, of=lambda r: r.s == 1):
    """(t, n, d) of each event time."""
    return [(t, at_risk(data, t), deaths(data, t, of)) for t in event_times(data, of)]


def product_limit(steps):
    """(S, σ², the step of σ²) after each jump."""
    s, total, out = mpf(1), mpf(0), []
    for _, n, d in steps:
        step = inf if n == d else mpf(d) / (n * (n - d))
        s, total = s * (1 - mpf(d) / n), total + step
        out.append((s, total, step))
    return out


def nelson_aalen(n, d):
    return mpf(d) / n, mpf(d) / n**2


def spread(n, d):
    return sum(mpf(1) / (n - k) for k in range(d)), sum(mpf(1) / (n - k) ** 2 for k in range(d))


def from_hazard(steps, one):
    h, total, out = mpf(0), mpf(0), []
    for _, n, d in steps:
        up, step = one(n, d)
        h, total = h + up, total + step
        out.append((exp(-h), total, step))
    return out


ESTIMATORS = {
    "Kaplan–Meier": product_limit,
    "Nelson–Aalen": lambda steps: from_hazard(steps, nelson_aalen),
    "Nelson–Aalen, ties spread": lambda steps: from_hazard(steps, spread),
}


def curve(data, estimator=product_limit, of=lambda r: r.s == 1):
    """[(t, n, d, S, σ², step)]."""
    steps = jumps(data, of)
    return [(*jump, *made) for jump, made in zip(steps, estimator(steps), strict=True)]


def at(points, t):
    """S and σ² at t."""
    s, v = mpf(1), mpf(0)
    for time, _, _, survival, sigma2, _ in points:
        if time <= t:
            s, v = survival, sigma2
    return s, v


def held(x):
    return min(max(x, mpf(0)), mpf(1))


def limits(s, reach, scale):
    """Limits, with z σ (or what takes its place) given; None once S is 0."""
    if s == 0:
        return None
    if s == 1:
        return mpf(1), mpf(1)
    low = {
        "linear": lambda k: s + k * s * reach,
        "log": lambda k: s * exp(k * reach),
        "log-log": lambda k: s ** exp(-k * abs(reach / log(s))),
        "logit": lambda k: 1 / (1 + exp(-(log(s / (1 - s)) + k * reach / (1 - s)))),
        "arcsine": lambda k: (
            sin(min(max(asin(sqrt(s)) + k * reach / 2 * sqrt(s / (1 - s)), mpf(0)), pi / 2)) ** 2
        ),
    }[scale]
    return held(low(-1)), held(low(1))


def intervals(points, scale, level):
    z = z_of(level)
    return [limits(s, None if s == 0 else z * sqrt(v), scale) for *_, s, v, _ in points]


def quantile_of(points, q):
    """The time of a quantile by the rule; None for "not reached"."""
    target, near = 1 - mpf(q), mpf("1e-12")
    for j, (t, _, _, s, _, _) in enumerate(points):
        if s <= target + near:
            later = [p[0] for p in points[j + 1 :] if p[3] < s]
            return (mpf(t) + later[0]) / 2 if abs(s - target) <= near and later else mpf(t)
    return None


def quantile(points, q, scale="log-log", level=0.95):
    """t, and the limits; None for "not reached"."""
    target, near = 1 - mpf(q), mpf("1e-12")
    time = quantile_of(points, q)
    found = intervals(points, scale, level)
    ends = []
    for side in (0, 1):
        met = [p[0] for p, i in zip(points, found) if i is not None and i[side] <= target + near]
        ends.append(mpf(met[0]) if met else None)
    return time, *ends


def area(points, low, high):
    """∫ S from low to high."""
    edges = [low, *(p[0] for p in points if low < p[0] < high), high]
    return sum((at(points, a)[0] * (mpf(b) - a) for a, b in pairwise(edges)), mpf(0))


def restricted_mean(points, tau):
    variance = mpf(0)
    for t, _, _, _, _, step in points:
        if t <= tau and step != inf:
            variance += area(points, t, tau) ** 2 * step
    return area(points, 0, tau), variance


def mean_contrasts(a, b, tau, level=0.95):
    """(difference, low, high, z), (ratio, low, high, z)."""
    (ma, va), (mb, vb) = restricted_mean(a, tau), restricted_mean(b, tau)
    z, half = z_of(level), sqrt(va + vb)
    error = sqrt(va / ma**2 + vb / mb**2)
    r = log(mb / ma)
    return (
        (mb - ma, mb - ma - z * half, mb - ma + z * half, (mb - ma) / half),
        (mb / ma, exp(r - z * error), exp(r + z * error), r / error),
    )


def hazard(data, level=0.95, one=nelson_aalen):
    """[(H, Var H, low, high)]."""
    h, v, out = mpf(0), mpf(0), []
    for _, n, d in jumps(data):
        up, step = one(n, d)
        h, v = h + up, v + step
        apart = exp(z_of(level) * sqrt(v) / h)
        out.append((h, v, h / apart, h * apart))
    return out


def kernel(z, q_left, q_right):
    if q_left < 1:
        q = q_left
    elif q_right < 1:
        z, q = -z, q_right
    else:
        return mpf(3) / 4 * (1 - z * z) if abs(z) <= 1 else mpf(0)
    if not -1 <= z <= q:
        return mpf(0)
    return 12 / (1 + q) ** 4 * (z + 1) * (z * (1 - 2 * q) + (3 * q * q - 2 * q + 1) / 2)


def smoothed(data, t, b=None):
    low, high = max(min(r.e for r in data), 0), end(data)
    b = (mpf(high) - low) / 6 if b is None else mpf(b)
    total = sum(
        kernel((t - mpf(tj)) / b, (t - mpf(low)) / b, (mpf(high) - t) / b) * mpf(d) / n / b
        for tj, n, d in jumps(data)
    )
    return max(total, mpf(0))
