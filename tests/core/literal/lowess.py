"""LOWESS as methods.md defines it (section 6): every weight of every point, in 40 digits."""

import mpmath as mp

TWO_THIRDS = mp.mpf(2) / 3


def lowess(x, y, span=TWO_THIRDS, passes=3):
    """The height of the line at each point; one that no point speaks for keeps its height."""
    x, y = [[mp.mpf(float(v)) for v in values] for values in (x, y)]
    n, robust, line = len(x), [mp.mpf(1)] * len(x), [mp.mpf(0)] * len(x)
    nearest = max(int(mp.floor(span * n + mp.mpf("1e-9"))), 1)
    for _ in range(passes + 1):
        for i in range(n):
            apart = [abs(v - x[i]) for v in x]
            farthest = sorted(apart)[nearest - 1]
            if farthest:
                close = [(1 - min(d / farthest, 1) ** 3) ** 3 for d in apart]
            else:
                close = [mp.mpf(d == 0) for d in apart]
            weight = [a * b for a, b in zip(close, robust, strict=True)]
            total = mp.fsum(weight)
            if total:
                line[i] = _height(x, y, weight, total, x[i])
        residual = [abs(a - b) for a, b in zip(y, line, strict=True)]
        ordered = sorted(residual)
        middle = (ordered[(n - 1) // 2] + ordered[n // 2]) / 2
        if middle < mp.mpf(10) ** -20:
            break
        robust = [max(1 - (e / (6 * middle)) ** 2, 0) ** 2 for e in residual]
    return line


def _height(x, y, weight, total, at):
    mean_x = mp.fdot(weight, x) / total
    mean_y = mp.fdot(weight, y) / total
    spread = mp.fsum(w * (v - mean_x) ** 2 for w, v in zip(weight, x, strict=True))
    if not spread:
        return mean_y
    cross = mp.fsum(w * (v - mean_x) * u for w, v, u in zip(weight, x, y, strict=True))
    return mean_y + cross / spread * (at - mean_x)
