"""Two people decide from the same revision: both stand, unless it is about the same part."""

import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.names import RenameColumn
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.errors import UserError
from hourglass.study.actions.statements import Answered
from hourglass.study.commands.figures import set_figure, set_group_style, set_tracks
from hourglass.study.commands.files import attach_file, kept_file, read_again, receive_extract
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.statements import answer, begin_analysis, state
from hourglass.study.commands.steps import arrange_steps, edit_step, name_level, put_step, take_step
from hourglass.study.commands.steps import withdraw as take_back
from hourglass.study.commands.undoing import undo
from hourglass.study.commands.whole import delete, rename
from hourglass.study.demos import keep_file
from hourglass.study.rebasing import carried_out
from hourglass.study.source import source_of
from hourglass.study.study import StaleError

ROWS = b"t,s,g\n1,1,a\n2,0,b\n3,1,a\n4,0,b\n5,1,a\n"


@pytest.fixture
def world(repository, blobs):
    study = repository.load(repository.create("Together"))
    study, _ = keep_file(repository, blobs, study, "rows.csv", ROWS)
    study = put_step(repository, study, SetAside(rows=(1,), why="first"))
    study = put_step(repository, study, SetAside(rows=(2,), why="second"))
    return World(repository, blobs, study)


class World:
    """A study, and what can be done to it, by name."""

    def __init__(self, repository, blobs, study):
        self.repository, self.blobs, self.study = repository, blobs, study

    def at(self, study):
        return source_of(study, self.blobs)

    def file(self):
        return kept_file(self.blobs, "new.csv", ROWS + b"6,1,a\n", packed(read(ROWS + b"6,1,a\n")))

    def does(self, name):
        """A command that changes something, each time something else."""
        repository = self.repository
        self.turn = getattr(self, "turn", 0) + 1
        turn, (one, two) = self.turn, (p.id for p in self.study.steps)
        return {
            "rename": lambda s: rename(repository, s, f"Name {turn}"),
            "follow": lambda s: follow(
                repository, s, s.follow_up.model_copy(update={"event_name": f"end {turn}"}),
                self.at(s).after_steps(),
            ),
            "take": lambda s: take_step(
                repository, s, self.at(s), SetAside(rows=(3 + turn,), why="more")
            ),
            "edit one": lambda s: edit_step(
                repository, s, self.at(s), one, SetAside(rows=(1,), why=f"edit {turn}")
            ),
            "edit two": lambda s: edit_step(
                repository, s, self.at(s), two, SetAside(rows=(2,), why=f"edit {turn}")
            ),
            "arrange": lambda s: arrange_steps(
                repository, s, {p.id: not p.active for p in s.steps}
            ),
            "estimate": lambda s: state(
                repository, s, None, EstimateStatement(limit=float(turn)), self.at(s).after_steps()
            ),
            "compare": lambda s: state(
                repository, s, None, CompareStatement(seed=turn), self.at(s).after_steps()
            ),
            "begin": lambda s: begin_analysis(repository, s, "model", f"{turn}", None)[0],
            "name a": lambda s: name_level(
                repository, s, self.at(s).after_steps(), "g", "a", f"A{turn}"
            ),
            "figure": lambda s: set_figure(repository, s, "compare", {"width": 80 + turn}),
            "tracks": lambda s: set_tracks(repository, s, "compare", [{"id": f"{turn}"}]),
            "look": lambda s: set_group_style(repository, s, "compare", "g: a", {"tone": turn}),
            "answer": lambda s: answer(
                repository, s, Answered(stage="check", subject="few", choice="keep", words="x"), ""
            ),
            "withdraw": lambda s: take_back(repository, s, self.study.steps[0].decision),
            "receive": lambda s: receive_extract(repository, s, self.file()),
            "read again": lambda s: read_again(repository, s, self.file()),
            "undo": lambda s: undo(repository, s),
        }[name]  # fmt: skip


BOTH = (
    ("rename", "follow"), ("rename", "take"), ("follow", "take"), ("follow", "estimate"),
    ("take", "take"), ("take", "edit one"), ("edit one", "edit two"), ("estimate", "compare"),
    ("begin", "begin"), ("figure", "tracks"), ("look", "estimate"), ("take", "estimate"),
    ("receive", "take"), ("take", "receive"), ("answer", "rename"), ("arrange", "take"),
    ("name a", "rename"), ("edit one", "compare"), ("figure", "read again"),
)  # fmt: skip
ONE = (
    ("rename", "rename"), ("follow", "follow"), ("edit one", "edit one"), ("take", "arrange"),
    ("estimate", "estimate"), ("compare", "compare"), ("figure", "figure"), ("look", "look"),
    ("tracks", "tracks"), ("read again", "take"), ("read again", "estimate"), ("take", "undo"),
    ("withdraw", "withdraw"), ("withdraw", "edit one"), ("answer", "answer"),
    ("arrange", "edit two"), ("name a", "name a"), ("receive", "receive"),
)  # fmt: skip


@pytest.mark.parametrize(("first", "second"), BOTH)
def test_what_concerns_other_parts_stands_beside_it(world, first, second):
    seen = world.study.revision
    one = carried_out(world.repository, world.study.id, seen, world.does(first))
    both = carried_out(world.repository, world.study.id, seen, world.does(second))
    assert len(both.decisions) == len(world.study.decisions) + 2
    assert both.decisions[:-1] == one.decisions
    assert both.meanwhile == one.decisions[-1:]
    alone = carried_out(world.repository, world.study.id, None, world.does("rename"))
    assert not alone.meanwhile


@pytest.mark.parametrize(("first", "second"), ONE)
def test_what_concerns_the_same_is_refused_with_what_was_decided_meanwhile(world, first, second):
    seen = world.study.revision
    one = carried_out(world.repository, world.study.id, seen, world.does(first))
    with pytest.raises(StaleError) as refused:
        carried_out(world.repository, world.study.id, seen, world.does(second))
    assert refused.value.since == one.decisions[-1:]
    assert world.repository.load(world.study.id) == one


def test_the_same_decided_twice_is_refused_the_second_time(world):
    """Who counts a name up must not hear that both of two did."""
    seen, repository = world.study.revision, world.repository
    for command in (
        lambda s: rename(repository, s, "1"),
        lambda s: set_tracks(repository, s, "compare", [{"id": "1"}]),
        lambda s: state(
            repository, s, None, EstimateStatement(limit=9.0), world.at(s).after_steps()
        ),
    ):
        carried_out(repository, world.study.id, seen, command)
        with pytest.raises(StaleError):
            carried_out(repository, world.study.id, seen, command)


def test_what_no_longer_fits_is_refused_as_changed_meanwhile(world):
    seen = world.study.revision
    column = RenameColumn(column="g", into="group")
    by_group = CompareStatement(by="g")

    def command(study):
        table = world.at(study).after_steps()
        return state(world.repository, study, None, by_group, table)

    carried_out(
        world.repository, world.study.id, seen, lambda s: put_step(world.repository, s, column)
    )
    with pytest.raises(StaleError):
        carried_out(world.repository, world.study.id, seen, command)
    with pytest.raises(UserError):
        carried_out(
            world.repository, world.study.id, None,
            lambda s: arrange_steps(world.repository, s, {10**9: True}),
        )  # fmt: skip


def test_a_revision_that_never_was_and_a_study_changed_meanwhile_are_not_deleted(world):
    with pytest.raises(StaleError):
        carried_out(world.repository, world.study.id, 10**9, world.does("rename"))
    seen = world.study.revision
    carried_out(world.repository, world.study.id, seen, world.does("figure"))
    with pytest.raises(StaleError):
        delete(world.repository, world.repository.load(world.study.id).seen_at(seen))


def test_whoever_is_a_moment_slower_begins_again(world):
    """Somebody else's change between the look and the write is no reason to refuse."""
    between = iter([world.does("figure"), world.does("tracks")])

    def command(study):
        quicker = next(between, None)
        if quicker is not None:
            quicker(world.repository.load(study.id))
        return rename(world.repository, study, "At last")

    seen = world.study.revision
    made = carried_out(world.repository, world.study.id, seen, command)
    assert made.name == "At last"
    assert len(made.decisions) == len(world.study.decisions) + 3


def test_a_file_is_not_attached_where_somebody_has_decided_meanwhile(repository, blobs):
    study = repository.load(repository.create("New"))
    study, _ = keep_file(repository, blobs, study, "rows.csv", ROWS)
    seen, other = study.revision, kept_file(blobs, "x.csv", ROWS, packed(read(ROWS)))
    put = SetAside(rows=(1,), why="x")
    carried_out(repository, study.id, seen, lambda s: put_step(repository, s, put))
    with pytest.raises(StaleError):
        carried_out(repository, study.id, seen, lambda s: attach_file(repository, s, other))
