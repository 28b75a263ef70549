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
from hourglass.study.commands.figures import set_figure, set_look
from hourglass.study.commands.files import kept_file, use_export
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.statements import arrange_analysis, begin_analysis, remove_analysis
from hourglass.study.commands.steps import decide, put_step, withdraw
from hourglass.study.commands.undoing import redo, undo
from hourglass.study.commands.whole import rename
from hourglass.study.demos import NoSuchDemoError, demos, keep_file, load_demo, load_missing_demos
from hourglass.study.duplicating import duplicate
from hourglass.study.history import reported
from hourglass.study.keeping import Headline, KeptResult
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


def test_a_study_comes_back_as_it_was_kept(keeping, study, blobs):
    found = keeping.load(study)
    assert (found.name, found.demo, found.steps) == ("A study", None, ())
    assert [a.stage for a in found.analyses] == ["prepare"]
    assert found.follow_up == propose(table(CSV.decode()))
    assert found.file.rows == 2
    assert blobs.get(found.file.sha256) == CSV, "the original bytes are unchanged"


def test_a_decision_comes_with_its_steps_and_goes_with_them(keeping, study):
    step = SetAside(rows=(2,), why="no good")
    put_step(keeping, keeping.load(study), step, "because")
    found = keeping.load(study)
    assert found.active == (step,)
    made = found.standing[-1]
    assert (made.reason, found.steps[0].decision) == ("because", made.id)
    withdraw(keeping, found, made.id)
    after = keeping.load(study)
    assert after.steps == ()
    assert made.id not in {d.id for d in after.standing}
    assert made.id in after.history.gone_at, "the log keeps it"
    with pytest.raises(UserError):
        withdraw(keeping, after, made.id)
    assert undo(keeping, after).active == (step,)


def test_a_decision_of_another_study_cannot_be_withdrawn(keeping, study):
    other = decide(keeping, keeping.load(keeping.create("Other")), KEEP)
    with pytest.raises(UserError):
        withdraw(keeping, keeping.load(study), other.decisions[-1].id)
    assert keeping.load(other.id).standing


def test_a_change_made_from_an_older_revision_is_refused_and_told_what_changed(keeping, study):
    seen = keeping.load(study)
    decide(keeping, seen, KEEP)
    with pytest.raises(StaleError) as refused:
        rename(keeping, seen, "Other")
    assert [d.sentence for d in refused.value.since] == ["Keep"]
    now = keeping.load(study)
    assert (now.name, len(now.decisions)) == ("A study", len(seen.decisions) + 1)


def test_everything_decided_is_undone_and_redone_in_one_history(keeping, study):
    def now():
        return keeping.load(study).decided

    def with_model(found):
        return begin_analysis(keeping, found, "model", "Second", {"terms": [1]})[0]

    states = [now()]
    for change in (
        lambda s: rename(keeping, s, "Renamed"),
        lambda s: follow(
            keeping, s, s.follow_up.model_copy(update={"unit": "weeks"}), table(CSV.decode())
        ),
        lambda s: decide(keeping, s, KEEP, [SetAside(rows=(1,), why="x")]),
        lambda s: set_figure(keeping, s, "compare", {"width": 85}),
        lambda s: set_look(keeping, s, "compare", "g: a", {"group": "g: a", "tone": 3}),
        with_model,
        lambda s: arrange_analysis(keeping, s, s.of_stage("model")[1].id, "Main", 0, {}),
        lambda s: remove_analysis(keeping, s, s.of_stage("model")[0].id),
    ):
        states.append(change(keeping.load(study)).decided)
    for state in states[-2::-1]:
        assert undo(keeping, keeping.load(study)).decided == state
    undo(keeping, keeping.load(study))
    assert now().export is None, "the file too"
    with pytest.raises(NothingToUndoError):
        undo(keeping, keeping.load(study))
    for state in states:
        assert redo(keeping, keeping.load(study)).decided == state
    with pytest.raises(NothingToUndoError):
        redo(keeping, keeping.load(study))
    undo(keeping, keeping.load(study))
    decide(keeping, keeping.load(study), KEEP)
    with pytest.raises(NothingToUndoError):
        redo(keeping, keeping.load(study))


def test_another_file_is_taken_only_while_nothing_depends_on_it(keeping, study, blobs):
    keep_file(keeping, blobs, keeping.load(study), "other.csv", b"a,b\n1,0\n")
    assert keeping.load(study).file.name == "other.csv"
    follow(keeping, keeping.load(study), FollowUpStatement(outcome="b"), table("a,b\n1,0\n"))
    with pytest.raises(FileAlreadyReadError):
        keep_file(keeping, blobs, keeping.load(study), "third.csv", b"a\n1\n")
    assert keeping.load(study).file.name == "other.csv"


def test_an_unreadable_file_leaves_the_study_as_it_was(keeping, blobs):
    made = keeping.create("Empty")
    with pytest.raises(UnreadableFileError):
        keep_file(keeping, blobs, keeping.load(made), "bad.csv", b"a,b\n")
    assert keeping.load(made).file is None


def test_a_crash_half_way_leaves_no_half_made_study(keeping, blobs, monkeypatch):
    made = keeping.create("Crashed")

    def crash(*_):
        raise KeyboardInterrupt

    monkeypatch.setattr(type(keeping), "append", crash)
    with pytest.raises(KeyboardInterrupt):
        keep_file(keeping, blobs, keeping.load(made), "rows.csv", CSV)
    assert keeping.load(made).exports == ()


def test_exports_wait_are_accepted_and_stay(keeping, study, blobs):
    def new(name, data):
        return kept_file(blobs, name, data, packed(read(data)))

    before = keeping.load(study)
    before = decide(keeping, before, KEEP, [SetAside(rows=(1,), why="x")])
    keeping.add_export(study, new("one.csv", b"t,s\n5,1\n"), waiting=True)
    keeping.add_export(study, new("two.csv", b"t,s\n6,1\n7,1\n8,0\n"), waiting=True)
    found = keeping.load(study)
    assert (found.file.id, found.waiting.name) == (before.file.id, "two.csv")
    assert len(found.exports) == 2, "a newer one takes the place of the one that waited"
    use_export(keeping, found, found.waiting.id, "two.csv", ())
    now = keeping.load(study)
    assert (now.file.name, now.file.rows, now.waiting, now.steps) == ("two.csv", 3, None, ())
    keeping.forget_waiting_export(study)
    use_export(keeping, now, before.file.id, "rows.csv", None)
    again = keeping.load(study)
    assert (again.file.name, again.steps) == ("rows.csv", before.steps)
    assert [e.name for e in again.exports] == ["rows.csv", "two.csv"]


def test_an_export_of_another_study_cannot_be_taken_into_use(keeping, study, blobs):
    two = keeping.load(keeping.create("Two"))
    theirs, _ = keep_file(keeping, blobs, two, "rows.csv", CSV)
    with pytest.raises(NoSuchStudyError):
        use_export(keeping, keeping.load(study), theirs.file.id, "rows.csv", ())


def test_several_analyses_of_a_stage_are_kept_named_and_ordered(keeping, study):
    one = keeping.begin_analysis(study, "model", begun=False)
    assert keeping.begin_analysis(study, "model", begun=False) == one, "there is one such"
    found, two = begin_analysis(keeping, keeping.load(study), "model", "B", {"terms": [1]})
    keeping.open_analysis(two)
    found = arrange_analysis(keeping, found, one, "planned", 5, {"model": two})
    found = keeping.load(study)
    assert [(a.name, a.body, a.opened) for a in found.of_stage("model")] == [
        ("B", {"terms": [1]}, True),
        ("planned", None, False),
    ]
    assert found.analysis("model").id == two, "the first of its stage, where none is named"
    assert found.analysis("model", one).needs == {"model": two}
    with pytest.raises(NoSuchAnalysisError):
        found.analysis("model", one + two + 1)
    found = remove_analysis(keeping, found, two)
    assert [a.id for a in found.of_stage("model")] == [one]


def test_a_result_is_current_only_for_what_it_came_from(keeping, study):
    analysis = keeping.begin_analysis(study, "estimate", begun=False)
    keeping.keep_result(analysis, "", "h1", KeptResult("a1", "median 1", "in doubt", True))
    keeping.keep_result(analysis, "more", "h1", KeptResult("b2"))
    assert keeping.find_numbers(analysis, "", "h1") == "a1"
    assert keeping.find_numbers(analysis, "more", "h1") == "b2"
    assert keeping.find_numbers(analysis, "", "h2") is None
    assert keeping.numbers() >= {"a1", "b2"}
    (headline,) = keeping.headlines(study).values()
    assert headline == Headline("h1", "median 1", "in doubt", True)


def test_deleting_takes_everything_along(keeping, study):
    decide(keeping, keeping.load(study), KEEP)
    keeping.delete(keeping.load(study))
    with pytest.raises(NoSuchStudyError):
        keeping.load(study)
    assert study not in [s.id for s in keeping.studies()]


def test_a_deleted_study_is_brought_back_with_everything(keeping, study):
    decide(keeping, keeping.load(study), KEEP)
    before = keeping.load(study)
    keeping.delete(keeping.load(study))
    with pytest.raises(NoSuchStudyError):
        keeping.delete(keeping.load(study))
    with pytest.raises(NoSuchStudyError):
        keeping.restore(study, before.revision - 1)
    keeping.restore(study, before.revision)
    assert keeping.load(study) == before
    (line,) = [one for one in keeping.deletions() if one.study == study]
    assert (line.name, line.revision) == ("A study", before.revision)
    assert line.restored_at >= line.deleted_at
    with pytest.raises(NoSuchStudyError):
        keeping.restore(study)


def test_a_copy_of_a_study_has_its_decisions_steps_and_analyses(keeping, blobs):
    made, _ = load_demo(keeping, blobs, "larkmoor")
    begin_analysis(keeping, keeping.load(made), "model", "Second", {"terms": [1]})
    was = undo(keeping, keeping.load(made))
    was = begin_analysis(keeping, was, "model", "Third", {"terms": [3]})[0]
    copy = duplicate(keeping, was, "A copy")
    now = keeping.load(copy.id)
    assert (now.name, now.file.sha256) == ("A copy", was.file.sha256)
    assert [p.step for p in now.steps] == [p.step for p in was.steps]
    assert now.follow_up == was.follow_up
    assert [(a.stage, a.name, a.body) for a in now.analyses if a.body] == [
        (a.stage, a.name, a.body) for a in was.analyses if a.body
    ]
    told = [(d.sentence, d.reason) for d in reported(was.standing)]
    assert [(d.sentence, d.reason) for d in reported(now.standing)] == told
    assert {p.decision for p in now.steps} <= {d.id for d in now.standing}
    assert not {p.id for p in now.steps} & {p.id for p in was.steps}
    gone = next(d for d in now.standing if getattr(d.action, "choice", "") == "set aside")
    assert len(withdraw(keeping, now, gone.id).steps) < len(was.steps)
    assert keeping.load(made).steps == was.steps, "the study itself is as it was"


def test_the_list_tells_the_last_results_and_whether_anything_was_decided_since(keeping, study):
    now = keeping.load(study)
    analysis = keeping.begin_analysis(study, "estimate", begun=False)
    curve = Thumbnail(lines=[ThumbnailLine(tone=-1, x=[0, 1], y=[1, 0.5])])
    made = KeptResult("c3", "median 1", thumbnail=curve)
    keeping.keep_result(analysis, "", "h", made, now.revision)

    def told():
        (line,) = [s for s in keeping.studies() if s.id == study]
        return [
            (r.stage, r.headline, r.thumbnail["lines"][0]["y"], r.current) for r in line.results
        ]

    assert told() == [("estimate", "median 1", [1, 0.5], True)]
    decide(keeping, now, KEEP)
    assert told() == [("estimate", "median 1", [1, 0.5], False)]


def test_names_are_data_and_never_sql(keeping):
    name = "x'); drop table studies; --"
    made = keeping.create(name)
    rename(keeping, keeping.load(made), name + '"')
    assert name + '"' in [s.name for s in keeping.studies()]


def test_unknown_studies_are_named_as_such(keeping, study):
    nobody = uuid.uuid4()
    gone = keeping.load(study)
    keeping.delete(keeping.load(study))
    for act in (
        lambda: keeping.load(nobody),
        lambda: keeping.delete(replace(gone, id=nobody)),
        lambda: keeping.delete(gone),
        lambda: decide(keeping, gone, KEEP),
    ):
        with pytest.raises(NoSuchStudyError):
            act()


class TestDemos:
    def test_all_demos_load_once_and_never_again(self, keeping, blobs):
        for line in keeping.studies():
            keeping.delete(keeping.load(line.id))
        assert load_missing_demos(keeping, blobs) == [d["name"] for d in demos().values()]
        larkmoor = next(s for s in keeping.studies() if s.demo == "larkmoor")
        rename(keeping, keeping.load(larkmoor.id), "Mine now")
        assert load_missing_demos(keeping, blobs) == []
        assert "Mine now" in [s.name for s in keeping.studies()]
        for line in keeping.studies():
            keeping.delete(keeping.load(line.id))
        assert load_missing_demos(keeping, blobs) == [], "what was deleted stays so"

    def test_a_demo_is_a_study_with_reasons(self, keeping, blobs):
        made, _ = load_demo(keeping, blobs, "larkmoor")
        found = keeping.load(made)
        told = reported(found.standing)
        assert len([d for d in told if d.reason]) == 9
        assert [type(d.action) for d in told if not d.reason] == [FollowUpSet], (
            "what the codes mean"
        )
        written = {a.stage for a in found.analyses if a.body is not None}
        assert written - {"prepare"} == {"estimate", "compare", "model"}

    def test_an_unknown_demo_is_refused(self, keeping, blobs):
        with pytest.raises(NoSuchDemoError):
            load_demo(keeping, blobs, "../../etc/passwd")


def test_presets_of_figures_are_kept_replaced_and_deleted_by_name(keeping):
    for name, width in (("our journal", 85), ("Slides", 250), ("our journal", 84)):
        keeping.put_figure_preset(name, {"width": width})
    assert list(keeping.figure_presets().items()) == [
        ("our journal", {"width": 84}),
        ("Slides", {"width": 250}),
    ]
    keeping.delete_figure_preset("our journal")
    keeping.delete_figure_preset("never kept")
    assert list(keeping.figure_presets()) == ["Slides"]
