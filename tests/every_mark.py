"""A figure with every kind of mark, for the screen and the printer to be held against."""

import numpy as np

from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, Panel, TimeLine, Track
from hourglass.analysis.shared.figure.marks import (
    Area,
    Bars,
    CountRow,
    Histogram,
    Inset,
    Line,
    Points,
    Region,
    Rule,
    step_area,
    step_line,
)
from hourglass.analysis.shared.figure.series import Series

END = 60.0


def steps(n=40, seed=1):
    """Times and a falling curve over them, from 1 at time 0."""
    rng = np.random.default_rng(seed)
    time = np.sort(rng.uniform(0, END, n))
    return np.concatenate([[0.0], time]), np.concatenate([[1.0], np.linspace(0.98, 0.1, n)])


def every_mark(n=40) -> Figure:
    """Steps, straight lines, areas, bars, points, rules, a region, a histogram, words, panels, counts."""
    x, y = steps(n)
    across = Axis(low=0, high=END, form="time", label="Months of follow-up", unit="months")
    grid = np.linspace(0, END, 30)
    survival = Track(
        id="survival",
        title="Free of the event",
        axis=Axis(low=0, high=1, form="percent"),
        height="room",
        marks=[
            Region(label="past the end", low=50, high=60),
            step_area("band", 0, x, y * 0.9, np.minimum(y * 1.1, 1), END),
            Area(
                label="hatched",
                tone=1,
                x=grid,
                low=grid * 0,
                high=grid / 200,
                step=False,
                hatched=True,
            ),
            Points(label="censored", tone=0, glyph="tick", x=x[5:9], y=y[5:9]),
            step_line("standard", 0, x, y, END),
            step_line("extended & <longer>", 1, x, y**0.5, END),
            Line(label="ghost", tone=2, x=grid, y=0.5 + grid / 300, step=False, ghost=True),
            Inset(label="words in the track", x=20, y=0.9),
        ],
        note="Ticks: censored.",
    )
    counts = [
        CountRow(label=name, tone=k, time=x[1:], number=np.arange(n, 0, -1.0))
        for k, name in enumerate(("standard", "extended & <longer>"))
    ]
    ratio = Track(
        id="ratio",
        title="vessels",
        subtitle="hazard ratio",
        verdict="in doubt",
        verdict_words="in doubt, fades",
        axis=Axis(low=0.2, high=8, form="ratio"),
        marks=[
            Rule(label="single", at=1.5, dashed=True),
            Rule(label="upright", at=24, upright=True),
            Points(
                label="events", glyph="dot", x=grid, y=np.exp(np.sin(grid)), rows=list(range(30))
            ),
            Points(label="rings", glyph="ring", x=grid[:3], y=np.array([1.0, 2, 3])),
            Points(label="diamonds", tone=1, glyph="diamond", x=grid[4:7], y=np.array([1.0, 2, 3])),
            Points(label="crosses", tone=2, glyph="cross", x=grid[8:11], y=np.array([1.0, 2, 3])),
            Bars(
                label="bars", at=grid[12:15], low=np.array([0.1, 1, 2]), high=np.array([1.0, 2, 9])
            ),
        ],
    )
    rate = Track(
        id="rate",
        title="Rate",
        axis=Axis(low=0, high=10, form="number", signed=True),
        marks=[
            Histogram(
                label="bins", edges=np.linspace(0, END, 7), heights=np.array([1.0, 3, 9, 4, 2, 1])
            )
        ],
    )
    panels = [
        Panel(title=name, tone=k, marks=[step_line(name, k, x, y ** (k + 1), END)])
        for k, name in enumerate(("one", "two"))
    ]
    apart = Track(
        id="apart", title="Apart", axis=Axis(low=0, high=1, form="percent"), panels=panels
    )
    own = Track(
        id="own",
        title="Over a number",
        axis=Axis(low=0, high=5, form="number"),
        across=Axis(low=40, high=80, form="number", label="age up to"),
        marks=[step_line("statistic", 1, np.array([50.0, 60, 70]), np.array([1.0, 4, 2]), 75)],
    )
    return Figure(
        name="A figure with every mark.",
        across=across,
        low=0,
        high=END,
        time=TimeLine(unit="months", decimals=1, events=Series(rule="from", time=x[1:]), start=12),
        tracks=[
            survival,
            Track(id="at_risk", title="Number at risk", counts=counts),
            ratio,
            rate,
            apart,
            own,
        ],
    )


def forest() -> Figure:
    """Intervals beside categories on a logarithmic axis."""
    return Figure(
        name="Hazard ratios.",
        across=Axis(low=0.25, high=4, form="ratio", label="Hazard ratio"),
        low=0.25,
        high=4,
        tracks=[
            Track(
                id="ratios",
                title="Hazard ratios",
                axis=Axis(low=-0.5, high=1.5, form="category", categories=["age", "sex M"]),
                marks=[
                    Bars(
                        label="intervals",
                        at=np.array([0.0, 1.0]),
                        low=np.array([0.5, 0.1]),
                        high=np.array([1.5, 2.0]),
                        upright=False,
                    ),
                    Points(
                        label="ratios",
                        glyph="diamond",
                        x=np.array([0.9, 0.6]),
                        y=np.array([0.0, 1.0]),
                    ),
                ],
            )
        ],
    )
