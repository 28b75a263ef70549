"""Studies come back as they were kept, in the database and in memory alike."""

import uuid
from dataclasses import replace

import pytest

from hourglass.analysis.shared.figure.thumbnail import Thumbnail, ThumbnailLine
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.errors import UserError
from hourglass.study.actions.follow_up import FollowUpSet
from hourglass.study.actions.statements import Answered
from hourglass.study.commands.figures import set_figure, set_group_style
from hourglass.study.commands.files import kept_file, use_extract
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.statements import arrange_analysis, begin_analysis, remove_analysis
from hourglass.study.commands.steps import decide, put_step, withdraw
from hourglass.study.commands.undoing import redo, undo
from hourglass.study.commands.whole import rename
from hourglass.study.demos import NoSuchDemoError, demos, keep_file, load_demo, load_missing_demos
from hourglass.study.duplicating import duplicate
from hourglass.study.history import reported
from hourglass.study.repository import Headline, KeptResult
from hourglass.study.study import (
    FileAlreadyReadError,
    NoSuchAnalysisError,
    NoSuchStudyError,
    NothingToUndoError,
    StaleError,
)
from making import table
from study.conftest import CSV

KEEP = Answered(stage="check", subject="k", choice="keep", words="Keep")


def test_a_study_comes_back_as_it_was_kept(repository, study, blobs):
    found = repository.load(study)
    assert (found.name, found.demo, found.steps) == ("A study", None, ())
    assert [a.stage for a in found.analyses] == ["prepare"]
    assert found.follow_up == propose(table(CSV.decode()))
    assert found.file.rows == 2
    assert blobs.get(found.file.sha256) == CSV, "the original bytes are unchanged"


def test_a_decision_comes_with_its_steps_and_goes_with_them(repository, study):
    step = SetAside(rows=(2,), why="no good")
    put_step(repository, repository.load(study), step, "because")
    found = repository.load(study)
    assert found.active == (step,)
    made = found.standing[-1]
    assert (made.reason, found.steps[0].decision) == ("because", made.id)
    withdraw(repository, found, made.id)
    after = repository.load(study)
    assert after.steps == ()
    assert made.id not in {d.id for d in after.standing}
    assert made.id in after.history.gone_at, "the log keeps it"
    with pytest.raises(UserError):
        withdraw(repository, after, made.id)
    assert undo(repository, after).active == (step,)


def test_a_decision_of_another_study_cannot_be_withdrawn(repository, study):
    other = decide(repository, repository.load(repository.create("Other")), KEEP)
    with pytest.raises(UserError):
        withdraw(repository, repository.load(study), other.decisions[-1].id)
    assert repository.load(other.id).standing


def test_a_change_made_from_an_older_revision_is_refused_and_shown_what_changed(repository, study):
    seen = repository.load(study)
    decide(repository, seen, KEEP)
    with pytest.raises(StaleError) as refused:
        rename(repository, seen, "Other")
    assert [d.sentence for d in refused.value.since] == ["Keep"]
    now = repository.load(study)
    assert (now.name, len(now.decisions)) == ("A study", len(seen.decisions) + 1)


def test_everything_decided_is_undone_and_redone_in_one_history(repository, study):
    def now():
        return repository.load(study).snapshot

    def with_model(found):
        return begin_analysis(repository, found, "model", "Second", {"terms": [1]})[0]

    states = [now()]
    for change in (
        lambda s: rename(repository, s, "Renamed"),
        lambda s: follow(
            repository, s, s.follow_up.model_copy(update={"unit": "weeks"}), table(CSV.decode())
        ),
        lambda s: decide(repository, s, KEEP, [SetAside(rows=(1,), why="x")]),
        lambda s: set_figure(repository, s, "compare", {"width": 85}),
        lambda s: set_group_style(repository, s, "compare", "g: a", {"group": "g: a", "tone": 3}),
        with_model,
        lambda s: arrange_analysis(repository, s, s.of_stage("model")[1].id, "Main", 0, {}),
        lambda s: remove_analysis(repository, s, s.of_stage("model")[0].id),
    ):
        states.append(change(repository.load(study)).snapshot)
    for state in states[-2::-1]:
        assert undo(repository, repository.load(study)).snapshot == state
    undo(repository, repository.load(study))
    assert now().extract is None, "the file too"
    with pytest.raises(NothingToUndoError):
        undo(repository, repository.load(study))
    for state in states:
        assert redo(repository, repository.load(study)).snapshot == state
    with pytest.raises(NothingToUndoError):
        redo(repository, repository.load(study))
    undo(repository, repository.load(study))
    decide(repository, repository.load(study), KEEP)
    with pytest.raises(NothingToUndoError):
        redo(repository, repository.load(study))


def test_another_file_is_taken_only_while_nothing_depends_on_it(repository, study, blobs):
    keep_file(repository, blobs, repository.load(study), "other.csv", b"a,b\n1,0\n")
    assert repository.load(study).file.name == "other.csv"
    follow(repository, repository.load(study), FollowUpStatement(outcome="b"), table("a,b\n1,0\n"))
    with pytest.raises(FileAlreadyReadError):
        keep_file(repository, blobs, repository.load(study), "third.csv", b"a\n1\n")
    assert repository.load(study).file.name == "other.csv"


def test_an_unreadable_file_leaves_the_study_as_it_was(repository, blobs):
    made = repository.create("Empty")
    with pytest.raises(UnreadableFileError):
        keep_file(repository, blobs, repository.load(made), "bad.csv", b"a,b\n")
    assert repository.load(made).file is None


def test_a_crash_half_way_leaves_no_half_made_study(repository, blobs, monkeypatch):
    made = repository.create("Crashed")

    def crash(*_):
        raise KeyboardInterrupt

    monkeypatch.setattr(type(repository), "append", crash)
    with pytest.raises(KeyboardInterrupt):
        keep_file(repository, blobs, repository.load(made), "rows.csv", CSV)
    assert repository.load(made).extracts == ()


def test_exports_wait_are_accepted_and_stay(repository, study, blobs):
    def new(name, data):
        return kept_file(blobs, name, data, packed(read(data)))

    before = repository.load(study)
    before = decide(repository, before, KEEP, [SetAside(rows=(1,), why="x")])
    repository.add_extract(study, new("one.csv", b"t,s\n5,1\n"), waiting=True)
    repository.add_extract(study, new("two.csv", b"t,s\n6,1\n7,1\n8,0\n"), waiting=True)
    found = repository.load(study)
    assert (found.file.id, found.waiting.name) == (before.file.id, "two.csv")
    assert len(found.extracts) == 2, "a newer one takes the place of the one that waited"
    use_extract(repository, found, found.waiting.id, "two.csv", ())
    now = repository.load(study)
    assert (now.file.name, now.file.rows, now.waiting, now.steps) == ("two.csv", 3, None, ())
    repository.forget_waiting_export(study)
    use_extract(repository, now, before.file.id, "rows.csv", None)
    again = repository.load(study)
    assert (again.file.name, again.steps) == ("rows.csv", before.steps)
    assert [e.name for e in again.extracts] == ["rows.csv", "two.csv"]


def test_an_export_of_another_study_cannot_be_taken_into_use(repository, study, blobs):
    two = repository.load(repository.create("Two"))
    theirs, _ = keep_file(repository, blobs, two, "rows.csv", CSV)
    with pytest.raises(NoSuchStudyError):
        use_extract(repository, repository.load(study), theirs.file.id, "rows.csv", ())


def test_several_analyses_of_a_stage_are_kept_named_and_ordered(repository, study):
    one = repository.begin_analysis(study, "model", begun=False)
    assert repository.begin_analysis(study, "model", begun=False) == one, "there is one such"
    found, two = begin_analysis(repository, repository.load(study), "model", "B", {"terms": [1]})
    repository.open_analysis(two)
    found = arrange_analysis(repository, found, one, "planned", 5, {"model": two})
    found = repository.load(study)
    assert [(a.name, a.body, a.opened) for a in found.of_stage("model")] == [
        ("B", {"terms": [1]}, True),
        ("planned", None, False),
    ]
    assert found.analysis("model").id == two, "the first of its stage, where none is named"
    assert found.analysis("model", one).needs == {"model": two}
    with pytest.raises(NoSuchAnalysisError):
        found.analysis("model", one + two + 1)
    found = remove_analysis(repository, found, two)
    assert [a.id for a in found.of_stage("model")] == [one]


def test_a_result_is_current_only_for_what_it_came_from(repository, study):
    analysis = repository.begin_analysis(study, "estimate", begun=False)
    repository.keep_result(analysis, "", "h1", KeptResult("a1", "median 1", "in doubt", True))
    repository.keep_result(analysis, "more", "h1", KeptResult("b2"))
    assert repository.find_numbers(analysis, "", "h1") == "a1"
    assert repository.find_numbers(analysis, "more", "h1") == "b2"
    assert repository.find_numbers(analysis, "", "h2") is None
    assert repository.numbers() >= {"a1", "b2"}
    (headline,) = repository.headlines(study).values()
    assert headline == Headline("h1", "median 1", "in doubt", True)


def test_deleting_takes_everything_along(repository, study):
    decide(repository, repository.load(study), KEEP)
    repository.delete(repository.load(study))
    with pytest.raises(NoSuchStudyError):
        repository.load(study)
    assert study not in [s.id for s in repository.studies()]


def test_a_deleted_study_is_brought_back_with_everything(repository, study):
    decide(repository, repository.load(study), KEEP)
    before = repository.load(study)
    repository.delete(repository.load(study))
    with pytest.raises(NoSuchStudyError):
        repository.delete(repository.load(study))
    with pytest.raises(NoSuchStudyError):
        repository.restore(study, before.revision - 1)
    repository.restore(study, before.revision)
    assert repository.load(study) == before
    (line,) = [one for one in repository.deletions() if one.study == study]
    assert (line.name, line.revision) == ("A study", before.revision)
    assert line.restored_at >= line.deleted_at
    with pytest.raises(NoSuchStudyError):
        repository.restore(study)


def test_a_copy_of_a_study_has_its_decisions_steps_and_analyses(repository, blobs):
    made, _ = load_demo(repository, blobs, "larkmoor")
    begin_analysis(repository, repository.load(made), "model", "Second", {"terms": [1]})
    was = undo(repository, repository.load(made))
    was = begin_analysis(repository, was, "model", "Third", {"terms": [3]})[0]
    copy = duplicate(repository, was, "A copy")
    now = repository.load(copy.id)
    assert (now.name, now.file.sha256) == ("A copy", was.file.sha256)
    assert [p.step for p in now.steps] == [p.step for p in was.steps]
    assert now.follow_up == was.follow_up
    assert [(a.stage, a.name, a.body) for a in now.analyses if a.body] == [
        (a.stage, a.name, a.body) for a in was.analyses if a.body
    ]
    shown = [(d.sentence, d.reason) for d in reported(was.standing)]
    assert [(d.sentence, d.reason) for d in reported(now.standing)] == shown
    assert {p.decision for p in now.steps} <= {d.id for d in now.standing}
    assert not {p.id for p in now.steps} & {p.id for p in was.steps}
    gone = next(d for d in now.standing if getattr(d.action, "choice", "") == "set aside")
    assert len(withdraw(repository, now, gone.id).steps) < len(was.steps)
    assert repository.load(made).steps == was.steps, "the study itself is as it was"


def test_the_list_shows_the_last_results_and_whether_anything_was_decided_since(repository, study):
    now = repository.load(study)
    analysis = repository.begin_analysis(study, "estimate", begun=False)
    curve = Thumbnail(lines=[ThumbnailLine(tone=-1, x=[0, 1], y=[1, 0.5])])
    made = KeptResult("c3", "median 1", thumbnail=curve)
    repository.keep_result(analysis, "", "h", made, now.revision)

    def kept_line():
        (line,) = [s for s in repository.studies() if s.id == study]
        return [
            (r.stage, r.headline, r.thumbnail["lines"][0]["y"], r.current) for r in line.results
        ]

    assert kept_line() == [("estimate", "median 1", [1, 0.5], True)]
    decide(repository, now, KEEP)
    assert kept_line() == [("estimate", "median 1", [1, 0.5], False)]


def test_names_are_data_and_never_sql(repository):
    name = "x'); drop table studies; --"
    made = repository.create(name)
    rename(repository, repository.load(made), name + '"')
    assert name + '"' in [s.name for s in repository.studies()]


def test_unknown_studies_are_named_as_such(repository, study):
    nobody = uuid.uuid4()
    gone = repository.load(study)
    repository.delete(repository.load(study))
    for act in (
        lambda: repository.load(nobody),
        lambda: repository.delete(replace(gone, id=nobody)),
        lambda: repository.delete(gone),
        lambda: decide(repository, gone, KEEP),
    ):
        with pytest.raises(NoSuchStudyError):
            act()


class TestDemos:
    def test_all_demos_load_once_and_never_again(self, repository, blobs):
        for line in repository.studies():
            repository.delete(repository.load(line.id))
        assert load_missing_demos(repository, blobs) == [d["name"] for d in demos().values()]
        larkmoor = next(s for s in repository.studies() if s.demo == "larkmoor")
        rename(repository, repository.load(larkmoor.id), "Mine now")
        assert load_missing_demos(repository, blobs) == []
        assert "Mine now" in [s.name for s in repository.studies()]
        for line in repository.studies():
            repository.delete(repository.load(line.id))
        assert load_missing_demos(repository, blobs) == [], "what was deleted stays so"

    def test_a_demo_is_a_study_with_reasons(self, repository, blobs):
        made, _ = load_demo(repository, blobs, "larkmoor")
        found = repository.load(made)
        shown = reported(found.standing)
        assert len([d for d in shown if d.reason]) == 9
        assert [type(d.action) for d in shown if not d.reason] == [FollowUpSet], (
            "what the codes mean"
        )
        written = {a.stage for a in found.analyses if a.body is not None}
        assert written - {"prepare"} == {"estimate", "compare", "model"}

    def test_an_unknown_demo_is_refused(self, repository, blobs):
        with pytest.raises(NoSuchDemoError):
            load_demo(repository, blobs, "../../etc/passwd")


def test_presets_of_figures_are_kept_replaced_and_deleted_by_name(repository):
    for name, width in (("our journal", 85), ("Slides", 250), ("our journal", 84)):
        repository.put_figure_preset(name, {"width": width})
    assert list(repository.figure_presets().items()) == [
        ("our journal", {"width": 84}),
        ("Slides", {"width": 250}),
    ]
    repository.delete_figure_preset("our journal")
    repository.delete_figure_preset("never kept")
    assert list(repository.figure_presets()) == ["Slides"]
