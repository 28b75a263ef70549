"""Studies come back as they were kept, in the database and in memory alike."""

import uuid

import pytest

from hourglass.cohort.proposal import propose
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.rows import SetAside
from hourglass.study.changing import decide, withdraw
from hourglass.study.demos import (
    NoSuchDemoError,
    demos,
    keep_file,
    kept_file,
    load_demo,
    load_missing_demos,
)
from hourglass.study.keeping import Computed, NewDecision
from hourglass.study.study import FileAlreadyReadError, NoSuchAnalysisError, NoSuchStudyError
from making import table
from study.conftest import CSV

KEEP = NewDecision("check", "k", "keep", "Keep")


def test_a_study_comes_back_as_it_was_kept(keeping, study, blobs):
    found = keeping.load(study)
    assert (found.name, found.demo, found.steps) == ("A study", None, ())
    assert [a.stage for a in found.analyses] == ["prepare"]
    assert found.follow_up == propose(table(CSV.decode()))
    assert found.file.rows == 2
    assert blobs.get(found.file.sha256) == CSV, "the original bytes are unchanged"


def test_a_decision_comes_with_its_steps_and_goes_with_them(keeping, study):
    step = SetAside(rows=(2,), why="no good")
    said = NewDecision("prepare", "k", "set aside", "Row 2", "because")
    made = decide(keeping, study, said, [step])
    found = keeping.load(study)
    assert found.active == (step,)
    assert (found.standing[0].reason, found.standing[0].id) == ("because", made)
    withdraw(keeping, study, made)
    after = keeping.load(study)
    assert (after.steps, after.standing) == ((), ())
    assert after.decisions[0].withdrawn_at is not None, "the log keeps it"
    with pytest.raises(NoSuchStudyError):
        withdraw(keeping, study, made)


def test_a_decision_of_another_study_cannot_be_withdrawn(keeping, study):
    other = keeping.create("Other")
    made = decide(keeping, other, KEEP)
    with pytest.raises(NoSuchStudyError):
        withdraw(keeping, study, made)
    assert keeping.load(other).standing


def test_a_second_file_is_refused_and_the_first_stays(keeping, study, blobs):
    with pytest.raises(FileAlreadyReadError):
        keep_file(keeping, blobs, study, "other.csv", b"a\n1\n")
    assert keeping.load(study).file.name == "rows.csv"


def test_an_unreadable_file_leaves_the_study_as_it_was(keeping, blobs):
    made = keeping.create("Empty")
    with pytest.raises(UnreadableFileError):
        keep_file(keeping, blobs, made, "bad.csv", b"a,a\n1,2\n")
    assert keeping.load(made).file is None


def test_a_crash_half_way_leaves_no_half_made_study(keeping, blobs, monkeypatch):
    made = keeping.create("Crashed")

    def crash(*_):
        raise KeyboardInterrupt

    monkeypatch.setattr(type(keeping), "put_follow_up", crash)
    with pytest.raises(KeyboardInterrupt):
        keep_file(keeping, blobs, made, "rows.csv", CSV)
    assert keeping.load(made).exports == ()


def test_exports_wait_are_accepted_and_stay(keeping, study, blobs):
    def new(name, data):
        return kept_file(blobs, name, data, packed(read(data)))

    first = keeping.load(study).file
    keeping.add_export(study, new("one.csv", b"t,s\n5,1\n"), accepted=False)
    keeping.add_export(study, new("two.csv", b"t,s\n6,1\n7,1\n8,0\n"), accepted=False)
    found = keeping.load(study)
    assert (found.file.id, found.waiting.name) == (first.id, "two.csv")
    assert len(found.exports) == 2, "a newer one takes the place of the one that waited"
    keeping.accept_export(study, found.waiting.id)
    now = keeping.load(study)
    assert (now.file.name, now.file.rows, now.waiting) == ("two.csv", 3, None)
    keeping.forget_waiting_export(study)
    keeping.accept_export(study, first.id)
    named = [(e.name, e.current) for e in keeping.load(study).exports]
    assert named == [("rows.csv", True), ("two.csv", False)]


def test_an_export_of_another_study_cannot_be_made_current(keeping, study, blobs):
    two = keeping.create("Two")
    keep_file(keeping, blobs, two, "rows.csv", CSV)
    with pytest.raises(NoSuchStudyError):
        keeping.accept_export(study, keeping.load(two).file.id)


def test_several_analyses_of_a_stage_are_kept_named_and_ordered(keeping, study):
    one = keeping.add_analysis(study, "model", "A", {"terms": []})
    two = keeping.add_analysis(study, "model", "B", None)
    keeping.put_statement(two, {"terms": [1]})
    keeping.open_analysis(two)
    keeping.arrange_analysis(one, "planned", 5, {"check": two})
    found = keeping.load(study)
    assert [(a.name, a.body, a.opened) for a in found.of_stage("model")] == [
        ("B", {"terms": [1]}, True),
        ("planned", {"terms": []}, False),
    ]
    assert found.analysis("model").id == two, "the first of its stage, where none is named"
    assert found.analysis("model", one).needs == {"check": two}
    with pytest.raises(NoSuchAnalysisError):
        found.analysis("model", one + two + 1)
    keeping.remove_analysis(two)
    assert [a.id for a in keeping.load(study).of_stage("model")] == [one]


def test_a_result_is_current_only_for_what_it_came_from(keeping, study):
    analysis = keeping.add_analysis(study, "estimate", "", None)
    keeping.keep_result(analysis, "", "h1", Computed(b'{"a":1}', "median 1", "in doubt"))
    keeping.keep_result(analysis, "more", "h1", Computed(b"2"))
    assert keeping.find_result(analysis, "", "h1") == b'{"a":1}'
    assert keeping.find_result(analysis, "more", "h1") == b"2"
    assert keeping.find_result(analysis, "", "h2") is None
    (headline,) = keeping.headlines(study).values()
    assert (headline.hash, headline.headline, headline.mark) == ("h1", "median 1", "in doubt")


def test_deleting_takes_everything_along(keeping, study):
    decide(keeping, study, KEEP)
    keeping.delete(study)
    with pytest.raises(NoSuchStudyError):
        keeping.load(study)
    assert study not in [s.id for s in keeping.studies()]


def test_names_are_data_and_never_sql(keeping):
    name = "x'); drop table studies; --"
    made = keeping.create(name)
    keeping.rename(made, name + '"')
    assert name + '"' in [s.name for s in keeping.studies()]


def test_unknown_studies_are_named_as_such(keeping):
    nobody = uuid.uuid4()
    for act in (
        lambda: keeping.load(nobody),
        lambda: keeping.rename(nobody, "x"),
        lambda: keeping.delete(nobody),
        lambda: decide(keeping, nobody, KEEP),
    ):
        with pytest.raises(NoSuchStudyError):
            act()


def test_a_follow_up_statement_is_replaced(keeping, study):
    keeping.put_follow_up(study, FollowUpStatement(outcome="s"))
    assert keeping.load(study).follow_up == FollowUpStatement(outcome="s")


class TestDemos:
    def test_all_demos_load_once_and_never_again(self, keeping, blobs):
        for line in keeping.studies():
            keeping.delete(line.id)
        assert load_missing_demos(keeping, blobs) == [d["name"] for d in demos().values()]
        larkmoor = next(s for s in keeping.studies() if s.demo == "larkmoor")
        keeping.rename(larkmoor.id, "Mine now")
        assert load_missing_demos(keeping, blobs) == []
        assert "Mine now" in [s.name for s in keeping.studies()]

    def test_a_demo_is_a_study_with_reasons(self, keeping, blobs):
        made, _ = load_demo(keeping, blobs, "larkmoor")
        found = keeping.load(made)
        assert len(found.standing) == 9
        assert all(d.reason for d in found.standing)
        written = {a.stage for a in found.analyses if a.body is not None}
        assert written - {"prepare"} == {"estimate", "compare", "model"}

    def test_an_unknown_demo_is_refused(self, keeping, blobs):
        with pytest.raises(NoSuchDemoError):
            load_demo(keeping, blobs, "../../etc/passwd")
