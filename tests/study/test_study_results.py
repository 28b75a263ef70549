"""A study run without HTTP and without a database: results, their hashes, the processes."""

import json
import os
import threading
from concurrent.futures import Future
from dataclasses import dataclass, replace

import pytest

from hourglass.analysis.registry import STAGES
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.progress import CancelledError
from hourglass.store.blobs import Blobs
from hourglass.study.commands.follow_up import follow
from hourglass.study.commands.statements import (
    arrange_analysis,
    begin_analysis,
    remove_analysis,
    state,
)
from hourglass.study.commands.steps import put_step, withdraw
from hourglass.study.commands.whole import rename
from hourglass.study.decided_so_far import opened_stages
from hourglass.study.demos import load_demo
from hourglass.study.hashes import hash_of
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.processes import Processes, WorkEndedError
from hourglass.study.result_request import ResultRequest
from hourglass.study.results import NoSuchDrawingError, Results
from hourglass.study.source import source_of
from hourglass.study.turns import Turn
from hourglass.study.work import WorkUnderWay
from making import demo_table


@pytest.fixture
def lamps():
    """The lamps in memory: keeping, results, the study's id."""
    repository, kept = InMemory(), BlobsInMemory()
    made, _ = load_demo(repository, kept, "lamps")
    executor = InProcess()
    yield repository, Results(repository, kept, executor, STAGES), made
    executor.close()


def opened(repository, made, stage):
    id = repository.begin_analysis(made, stage, begun=False)
    repository.open_analysis(id)
    return repository.load(made).analysis(stage, id)


def test_every_stage_runs_without_http_and_without_a_database(lamps):
    repository, results, made = lamps
    for stage in STAGES:
        analysis = opened(repository, made, stage.name)
        study = repository.load(made)
        request = results.of_stage(study, analysis)
        found = results.now(study, request)
        anew = Results(repository, results.source(study).blobs, InProcess(), STAGES)
        assert anew.current(request).body == found.body, "its numbers are kept, and shown again"
        assert found.result.headline == repository.headlines(made)[analysis.id].headline
        for part in stage.parts:
            piece = results.of_stage(study, analysis, part.key)
            assert piece.hash != request.hash
            assert results.now(study, piece).result.sections
    assert opened_stages(repository.load(made), STAGES) == {stage.name for stage in STAGES}


def test_a_check_of_a_second_model_follows_from_that_model(lamps):
    repository, results, made = lamps
    one, check = opened(repository, made, "model"), opened(repository, made, "check")
    terms = {"stage": "model", "version": 2, "terms": []}
    two = begin_analysis(repository, repository.load(made), "model", "", terms)[1]

    def blank():
        study = repository.load(made)
        request = results.of_stage(study, study.analysis("check", check.id))
        return request.hash, results.now(study, request).result.blank

    first, nothing = blank()
    assert nothing is None
    arrange_analysis(repository, repository.load(made), check.id, "", 0, {"model": two})
    second, why = blank()
    assert "add a term" in why
    assert first != second
    study = repository.load(made)
    remove_analysis(repository, study, two)
    assert blank() == (first, None), "the first model again, where the one named is gone"
    assert one.id is not None


def test_a_check_brings_its_model_too(lamps):
    repository, _, _ = lamps
    made = repository.create("Plain")
    opened(repository, made, "check")
    assert opened_stages(repository.load(made), STAGES) == {"model", "check"}


def test_every_change_that_matters_changes_the_hash_of_the_cohort(lamps):
    repository, results, made = lamps

    def now():
        return results.source(repository.load(made)).hash

    seen = {now()}
    follow_up = repository.load(made).follow_up
    burning = follow_up.model_copy(update={"event_name": "burning out"})
    follow(repository, repository.load(made), burning, demo_table("lamps"))
    seen.add(now())
    stepped = put_step(repository, repository.load(made), SetAside(rows=(1,), why="x"))
    changed = now()
    seen.add(changed)
    rename(repository, repository.load(made), "Another name")
    opened(repository, made, "compare")
    assert now() == changed
    assert len(seen) == 3
    withdraw(repository, repository.load(made), stepped.decisions[-1].id)
    assert now() in seen - {changed}


def test_hashes_do_not_depend_on_the_order_of_keys():
    assert hash_of({"x": 1, "y": 2}) == hash_of(json.loads('{"y": 2, "x": 1}'))
    assert hash_of({"x": 1}) != hash_of({"x": 2})


def test_a_statement_is_put_and_a_reference_in_it_becomes_a_step(lamps):
    repository, results, made = lamps
    study = repository.load(made)
    compare = next(s for s in STAGES if s.name == "compare").statement
    stated = compare(by="maker", reference="Vane")
    state(repository, study, None, stated, results.source(study).after_steps())
    after = repository.load(made)
    assert [p.step.named() for p in after.steps] == ["maker: compare with Vane"]
    assert after.of_stage("compare")[0].body["reference"] is None


def test_a_study_without_a_file_waits(lamps):
    repository, results, _ = lamps
    empty = repository.create("Empty")
    (block,) = results.source(repository.load(empty)).cohort()
    assert "no file" in block.sentence
    assert repository.load(empty).follow_up == FollowUpStatement()


@dataclass(frozen=True)
class Doing:
    """A task that can be handed to another process."""

    what: str
    go: str = ""

    def __call__(self, progress):
        if self.what == "count":
            progress("counting", 0.5)
            return sum(range(10))
        if self.what == "fail":
            raise ValueError("it failed")
        if self.what == "swell":
            return len(bytes(1 << 30))
        if self.what == "wait":
            while not os.path.exists(self.go):
                progress("waiting", 0.5)
            return self.go
        if self.what == "die":
            os._exit(3)
        while True:
            progress("for ever", 0.25)


NOBODYS = Turn()


@dataclass(frozen=True)
class InTurn(Doing):
    """A task with a turn of its own."""

    turn: Turn = NOBODYS


def test_looking_just_after_a_cancellation_finds_it_once_and_does_not_begin_anew():
    class Never:
        def submit(self, task, handle):
            self.inner = Future()
            return self.inner

    under_way, never = WorkUnderWay(), Never()

    def cancelled(key):
        work = under_way.start(key, print, never)
        work.cancel()
        never.inner.set_exception(CancelledError())
        return work

    work = cancelled(("a",))
    assert under_way.start(("a",), print, never) is work
    assert under_way.start(("a",), print, never) is not work, "wanted again"
    known = cancelled(("b",))
    known.end_known = True
    assert under_way.start(("b",), print, never) is not known


@pytest.fixture(scope="module")
def processes():
    made = Processes(1)
    yield made
    made.close()


class TestProcesses:
    def test_a_task_runs_in_another_process_and_its_faults_come_back(self, processes):
        under_way = WorkUnderWay()
        assert under_way.start(("a",), Doing("count"), processes).future.result(60) == 45
        with pytest.raises(ValueError, match="it failed"):
            under_way.start(("b",), Doing("fail"), processes).future.result(60)

    def test_progress_is_shown_and_a_task_is_cancelled(self, processes):
        work = WorkUnderWay().start(("c",), Doing("forever"), processes)
        shown = threading.Event()
        for _ in range(600):
            if work.reading().what == "for ever":
                break
            shown.wait(0.1)
        assert (work.reading().what, work.reading().share) == ("for ever", 0.25)
        work.cancel()
        with pytest.raises(CancelledError):
            work.future.result(60)
        again = WorkUnderWay().start(("d",), Doing("count"), processes)
        assert again.future.result(60) == 45, "the process stopped, and takes the next task"

    def test_a_process_that_dies_is_stated_and_another_takes_its_place(self, processes):
        with pytest.raises(WorkEndedError):
            WorkUnderWay().start(("e",), Doing("die"), processes).future.result(60)
        assert WorkUnderWay().start(("f",), Doing("count"), processes).future.result(60) == 45

    def test_a_task_that_takes_too_much_memory_is_ended_in_a_sentence(self):
        bounded = Processes(1, memory=300 << 20)
        try:
            with pytest.raises(WorkEndedError, match="more memory than there is"):
                WorkUnderWay().start(("g",), Doing("swell"), bounded).future.result(60)
            assert WorkUnderWay().start(("h",), Doing("count"), bounded).future.result(60) == 45
        finally:
            bounded.close()

    def test_a_click_waits_for_nobody_and_each_owner_has_a_turn(self, tmp_path):
        two, under_way, ended = Processes(2), WorkUnderWay(), []
        go = {name: tmp_path / name for name in ("a1", "a2", "a3", "b1")}

        def start(name):
            task = InTurn("wait", str(go[name]), Turn(name[0], long=True))
            work = under_way.start((name,), task, two)
            work.future.add_done_callback(lambda done: ended.append(name))
            return work

        try:
            works = [start(name) for name in ("a1", "a2", "a3", "b1")]
            click = under_way.start(("click",), InTurn("count", turn=Turn("c")), two)
            assert click.future.result(60) == 45, "four long works wait, and one is under way"
            works[2].cancel()
            with pytest.raises(CancelledError):
                works[2].future.result(5)
            for path in go.values():
                path.touch()
            for work in (works[0], works[1], works[3]):
                work.future.result(60)
            assert ended == ["a3", "a1", "b1", "a2"]
        finally:
            two.close()

    def test_a_stage_gives_the_same_there_as_here(self, processes, tmp_path):
        repository, kept = InMemory(), Blobs(tmp_path / "files")
        made, _ = load_demo(repository, kept, "lamps")
        here = InProcess()
        for executor in (here, processes):
            results = Results(repository, kept, executor, STAGES)
            for stage in STAGES:
                study = repository.load(made)
                request = results.of_stage(study, study.analysis(stage.name))
                assert source_of(study, kept) == request.making.source
                found = results.now(study, request)
                one = results.of_stage(study, replace(request.analysis, name="again"))
                assert one.hash == request.hash
                assert found.result.headline
        here.close()


def test_numbers_that_are_lost_or_damaged_are_computed_again(lamps, tmp_path):
    repository, _, made = lamps
    kept = Blobs(tmp_path / "files")
    executor = InProcess()
    load_demo(repository, kept, "lamps")
    study = next(line.id for line in repository.studies() if line.id != made)
    analysis = opened(repository, study, "estimate")
    now = repository.load(study)
    first = Results(repository, kept, executor, STAGES)
    request = first.of_stage(now, analysis)
    shown = first.now(now, request)
    assert first.drawing(now, request.key).figure.track("survival").marks
    with pytest.raises(NoSuchDrawingError):  # another study has it, not this one
        first.drawing(repository.load(made), "0")
    (numbers,) = (tmp_path / "files" / "numbers").iterdir()
    for harm in (numbers.unlink, lambda: numbers.write_bytes(b"no numbers"), lambda: None):
        harm()
        anew = Results(repository, kept, executor, STAGES)
        assert anew.drawing(now, request.key).model_dump_json() == shown.drawing.model_dump_json()
        assert anew.now(now, request).body == shown.body
    executor.close()


def test_what_was_shown_of_an_analysis_is_remembered_for_its_last_two_states(lamps):
    repository, results, made = lamps
    analysis, keys = opened(repository, made, "estimate"), []
    kind = next(stage for stage in STAGES if stage.name == "estimate").statement
    for times in ((100,), (200,), (300,)):
        study = repository.load(made)
        state(repository, study, None, kind(times=times), results.source(study).after_steps())
        study = repository.load(made)
        request = results.of_stage(study, study.analysis("estimate", analysis.id))
        results.now(study, request)
        keys.append(request.key)
    assert results.drawing(study, keys[2]).figure is not None
    assert results.drawing(study, keys[1]).figure is not None, "a page may still show it"
    with pytest.raises(NoSuchDrawingError):
        results.drawing(study, keys[0])


def test_numbers_that_no_result_has_are_let_go_of_once_they_are_not_new(tmp_path):
    kept = Blobs(tmp_path)
    stays, goes, new = (kept.put_numbers(text) for text in (b"stays", b"goes", b"new"))
    for name in (stays, goes):
        os.utime(tmp_path / "numbers" / name, (0, 0))
    kept.forget_numbers({stays})
    assert [kept.numbers(name) for name in (stays, goes, new)] == [b"stays", None, b"new"]
    assert kept.numbers("../blobs.py") is None


def test_work_on_what_an_analysis_stated_before_is_cancelled(lamps):
    repository, _, made = lamps
    held = Held()
    results = Results(repository, BlobsInMemory(), held, STAGES)
    analysis = opened(repository, made, "compare")
    study = repository.load(made)
    part = results.start(study, _wanted(study, analysis, "medians", "old"))
    model = results.start(study, _wanted(study, opened(repository, made, "model"), "", "old"))
    other = results.start(study, _wanted(study, analysis, "weights", "old"))
    again = results.start(study, _wanted(study, analysis, "medians", "new"))
    assert (part.cancelled, other.cancelled, again.cancelled) == (True, False, False)
    whole = results.start(study, _wanted(study, analysis, "", "newer"))
    assert (other.cancelled, again.cancelled, whole.cancelled) == (True, True, False)
    assert not model.cancelled
    assert (part.superseded, whole.superseded) == (True, False)


def _wanted(study, analysis, part, hash):
    return ResultRequest(analysis, part, hash, hash, making=None)


class Held:
    """An executor that begins nothing."""

    def submit(self, task, handle):
        return Future()

    def close(self):
        pass
