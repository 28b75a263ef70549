"""A figure arranged: other axes, groups hidden, in front, in other tones; never another number."""

import numpy as np
import pytest

from hourglass.analysis.level_names import naming_steps, respelled_again
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, FigureGroup, Panel, Track
from hourglass.analysis.shared.figure.figure_settings import (
    Arrangement,
    GroupStyle,
    arranged,
    styled,
)
from hourglass.analysis.shared.figure.marks import CountRow, step_area, step_line
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.steps.step import BrokenStepError
from making import table


def two_groups(low: float, *, grouped: bool = True) -> Figure:
    """Two curves that fall from 1 to ``low``, with their intervals and numbers at risk."""
    x, y = np.array([0.0, 2.0, 5.0]), np.array([1.0, 0.5 + low / 2, low])
    marks = [
        mark
        for k in (0, 1)
        for mark in (
            step_area(f"interval {k}", k, x, y, y, 6.0),
            step_line(f"curve {k}", k, x, y, 6.0),
        )
    ]
    axis = Axis(low=0, high=1, form="percent")
    return Figure(
        name="made up",
        across=Axis(low=0, high=6, form="time"),
        low=0,
        high=6,
        groups=[FigureGroup(key=f"bed: {k}", label=f"{k}", tone=k) for k in (0, 1)],
        tracks=[
            Track(id="survival", title="Free", axis=axis, marks=marks, grouped=grouped),
            Track(
                id="apart",
                title="Apart",
                axis=axis,
                panels=[Panel(title=f"{k}", tone=k, marks=marks) for k in (0, 1)],
            ),
            Track(
                id="at_risk",
                title="At risk",
                counts=[CountRow(label=f"{k}", tone=k, time=x, number=y) for k in (0, 1)],
            ),
        ],
    )


@pytest.mark.parametrize(
    ("low", "from_", "text"),
    [
        (0.93, 0.93, "axis from 93%"),
        (0.601, 0.6, "axis from 60%"),
        (0.02, 0.0, ""),
        (1.0, 0.9, "axis from 90%"),
    ],
)
def test_an_axis_from_the_data_begins_at_or_below_them_and_states_so(low, from_, text):
    track = arranged(two_groups(low), Arrangement(fitted=["survival"])).track("survival")
    assert (track.axis.low, track.subtitle) == (pytest.approx(from_), text)
    assert track.axis.low <= low <= track.axis.high <= 1
    assert track.axis.low < track.axis.high


def test_proportions_are_numbers_from_0_to_1_and_state_where_they_begin_as_such():
    how = Arrangement(proportion=["survival"], fitted=["survival"], every=1.5)
    figure = arranged(two_groups(0.8), how)
    track = figure.track("survival")
    assert (track.axis.form, track.subtitle) == ("number", "axis from 0.8")
    assert track.axis.ticked().ticks[-1][0].label == "0.8"
    assert figure.across.step == 1.5
    assert figure.track("apart").axis.form == "percent"


def test_a_hidden_group_is_in_no_track_of_its_view_and_in_every_other_view():
    group_styles = [GroupStyle(group="bed: 1", hidden=["estimate"])]
    shown = styled(two_groups(0.5), group_styles, "estimate")
    assert {mark.tone for mark in shown.track("survival").marks} == {0}
    assert [panel.tone for panel in shown.track("apart").panels] == [0]
    assert [row.tone for row in shown.track("at_risk").counts] == [0]
    elsewhere = styled(two_groups(0.5), group_styles, "compare").track("survival")
    assert {mark.tone for mark in elsewhere.marks} == {0, 1}


def test_a_group_in_front_is_drawn_last_a_bare_one_without_interval_a_tone_in_every_view():
    group_styles = [GroupStyle(group="bed: 0", tone=4, front=["estimate"], bare=["estimate"])]
    marks = styled(two_groups(0.5), group_styles, "estimate").track("survival").marks
    assert [(mark.label, mark.tone) for mark in marks] == [
        ("interval 1", 1),
        ("curve 1", 1),
        ("curve 0", 4),
    ]
    elsewhere = styled(two_groups(0.5), group_styles, "compare").track("at_risk")
    assert [row.tone for row in elsewhere.counts] == [4, 1]


def test_tones_that_are_not_those_of_groups_stay():
    group_styles = [GroupStyle(group="bed: 0", tone=4, hidden=["estimate"])]
    figure = two_groups(0.5, grouped=False)
    assert [
        mark.tone for mark in styled(figure, group_styles, "estimate").track("survival").marks
    ] == [0, 0, 1, 1]


def test_counts_so_far_hold_from_their_times_on_and_those_at_risk_until_them():
    time, number = np.array([1.0, 3.0]), np.array([2.0, 5.0])
    at = np.array([0.0, 1.0, 2.0, 3.0, 4.0])
    so_far = CountRow(label="", tone=0, rule="from", time=time, number=number)
    assert so_far.at(at).tolist() == [0, 2, 2, 5, 5]
    assert CountRow(label="", tone=0, time=time, number=number).at(at).tolist() == [2, 2, 5, 5, 0]


ROWS = "bed,dose\nb,1\na,2\nb,1\nc,2\n"


def named(text: str, column: str, *pairs: tuple[str, str]) -> tuple[str, ...]:
    now = table(text)
    for level, name in pairs:
        now, effects = apply_steps(now, naming_steps(now, column, level, name))
        assert not any(effect.broken for effect in effects)
    return now.column(column).levels


def test_a_level_keeps_its_place_under_another_name():
    assert named(ROWS, "bed", ("a", "zinc")) == ("zinc", "b", "c")
    assert named(ROWS, "dose", ("1", "low")) == ("low", "2")
    again = respelled_again(
        RespellLevels(column="bed", spelling={"a": "zinc"}, in_place=True),
        naming_steps(table(ROWS.replace("a", "zinc")), "bed", "zinc", "alder"),
    )
    assert again.spelling == {"a": "alder"}


@pytest.mark.parametrize(
    ("column", "level", "name", "text"),
    [
        ("bed", "a", "b", "another level of bed is called “b”"),
        ("bed", "q", "r", "has no level “q”"),
        ("pot", "a", "b", "no column “pot”"),
        ("bed", "a", "  ", "needs a name"),
    ],
)
def test_names_that_would_merge_levels_or_name_none_are_refused(column, level, name, text):
    with pytest.raises(BrokenStepError, match=text):
        naming_steps(table(ROWS), column, level, name)
