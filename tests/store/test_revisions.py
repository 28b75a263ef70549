"""The history of steps, against a plain list; and databases of earlier versions, migrated."""

import uuid
from contextlib import contextmanager, nullcontext

import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from psycopg.rows import dict_row
from psycopg.types.json import Jsonb

from earlier_logs import KEYS, earlier, put_into
from examples import examples
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.cohort.steps.rows import SetAside
from hourglass.report.statement import ReportStatement
from hourglass.store import migrate as migrations
from hourglass.store.blobs import Blobs
from hourglass.store.postgres import Postgres
from hourglass.store.studies import purge_studies
from hourglass.study.actions.steps import StepTaken
from hourglass.study.commands.steps import arrange_steps, put_step, withdraw
from hourglass.study.commands.undoing import redo, undo
from hourglass.study.decided_so_far import kept_findings
from hourglass.study.demos import keep_file
from hourglass.study.in_memory import InMemory
from hourglass.study.snapshot_json import to_json
from hourglass.study.study import NothingToUndoError

CSV = b"t,s\n1,1\n2,0\n"


def new_study(repository, folder):
    made = repository.create("A study")
    keep_file(repository, Blobs(folder / "files"), repository.load(made), "rows.csv", CSV)
    return made


@pytest.fixture(params=["database", "memory"])
def repository(request):
    if request.param == "memory":
        return InMemory()
    db = request.getfixturevalue("db")
    return Postgres(lambda: nullcontext(db))


def names(repository, study):
    """The steps' reasons in order, with "-" before those switched off."""
    steps = repository.load(study).steps
    return [("" if s.active else "-") + s.step.why for s in steps]


moves = st.lists(
    st.one_of(
        st.tuples(st.just("take"), st.integers(0, 99)),
        st.tuples(
            st.sampled_from(["undo", "redo", "reverse", "switch", "drop", "withdraw", "edit"]),
            st.just(0),
        ),
    ),
    max_size=14,
)


@settings(
    max_examples=examples(40),
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(moves)
def test_whatever_is_done_and_undone_the_steps_are_those_of_a_plain_history(
    repository, tmp_path, chosen
):
    study = new_study(repository, tmp_path)
    history, at, made = [[]], 0, 0
    for move, number in chosen:
        now, there = history[at], repository.load(study)
        placed = there.steps
        if move == "undo" and at == 0:
            continue
        if move in ("undo", "redo"):
            by, act = (-1, undo) if move == "undo" else (1, redo)
            if at + by < len(history):
                act(repository, there)
                at += by
            else:
                with pytest.raises(NothingToUndoError):
                    act(repository, there)
            assert names(repository, study) == history[at]
            continue
        if move == "take":
            made += 1
            why = f"{number} {made}"
            step = SetAside(rows=(1,), why=why)
            put_step(repository, there, step)
            after = [*now, why]
        elif not now:
            continue
        elif move == "edit":
            made += 1
            step = SetAside(rows=(2,), why=f"edited {made}")
            put_step(repository, there, step, instead_of=placed[0].id)
            after = [("-" if now[0].startswith("-") else "") + f"edited {made}", *now[1:]]
        elif move == "withdraw":
            withdraw(repository, there, placed[-1].decision)
            after = now[:-1]
        else:
            new, after = {
                "reverse": (placed[::-1], now[::-1]),
                "drop": (placed[1:], now[1:]),
                "switch": (
                    (placed[0].model_copy(update={"active": not placed[0].active}), *placed[1:]),
                    [now[0][1:] if now[0].startswith("-") else f"-{now[0]}", *now[1:]],
                ),
            }[move]
            arrange_steps(repository, there, {p.id: p.active for p in new})
            if tuple(new) == placed:
                continue  # as it was: there is nothing to undo
        history = [*history[: at + 1], after]
        at += 1
        assert names(repository, study) == after
    every = [d.action for d in repository.load(study).standing]
    standing = {a.step.why for a in every if isinstance(a, StepTaken)}
    assert {w.lstrip("-") for w in history[at] if "edited" not in w} == standing


@contextmanager
def database_at(database, version):
    """A database as an earlier version of the program left it."""
    name = f"before_{uuid.uuid4().hex}"
    with psycopg.connect(database, autocommit=True) as server:
        server.execute(f"create database {name}")
    address = f"{database.rsplit('/', 1)[0]}/{name}"
    first = [m for m in migrations.migrations() if m[0] <= version]
    with psycopg.connect(address, autocommit=True, row_factory=dict_row) as old:
        real = migrations.migrations
        migrations.migrations = lambda: first
        try:
            migrations.migrate(old)
        finally:
            migrations.migrations = real
        yield old
    with psycopg.connect(database, autocommit=True) as server:
        server.execute(f"drop database {name} with (force)")


@pytest.fixture
def before(database):
    with database_at(database, 1) as old:
        yield old


def test_a_study_of_the_first_version_is_there_with_everything(before):
    study = before.execute("insert into studies (name) values ('Old') returning id").fetchone()[
        "id"
    ]
    empty = before.execute("insert into studies (name) values ('Empty') returning id").fetchone()[
        "id"
    ]
    before.execute(
        "insert into files (study_id, name, sha256, table_sha256, size, row_count, how_read)"
        " values (%s, 'old.csv', %s, %s, 12, 2, 'read as UTF-8, comma')",
        [study, "a" * 64, "b" * 64],
    )
    for place, name in enumerate(("t", "s")):
        before.execute("insert into columns values (%s, %s, %s, 'number')", [study, place, name])
    before.execute(
        "insert into statements (study_id, stage, body) values (%s, 'prepare', %s)",
        [study, Jsonb({"version": 1, "outcome": "s", "unit": "days"})],
    )
    steps = [
        {"kind": "set_aside", "version": 1, "rows": [2], "why": "twice"},
        {"kind": "correct_cell", "version": 1, "row": 1, "column": "t", "value": "3"},
        {"kind": "swap_cells", "version": 1, "rows": [1], "columns": ["a", "b"]},
        {"kind": "respell_levels", "version": 1, "column": "g", "spelling": {"A": "a"}},
    ]
    for step in steps:
        decision = before.execute(
            "insert into decisions (study_id, stage, about, choice, sentence)"
            " values (%s, 'prepare', 'k', 'set aside', 'stated') returning id",
            [study],
        ).fetchone()["id"]
        before.execute(
            "insert into steps (study_id, decision_id, body) values (%s, %s, %s)",
            [study, decision, Jsonb(step)],
        )
    before.execute(
        "insert into decisions (study_id, stage, about, choice, sentence)"
        " values (%s, 'prepare', 'missing: x', 'keep', 'stated')",
        [study],
    )
    assert migrations.migrate(before) == migrations.migrations()[-1][0]
    repository = Postgres(lambda: nullcontext(before))
    found = repository.load(study)
    assert (found.file.name, found.file.rows, found.file.accepted) == ("old.csv", 2, True)
    assert (found.follow_up.outcome, found.follow_up.unit) == ("s", "days")
    assert [s.step.kind for s in found.steps] == [s["kind"] for s in steps]
    assert all(s.active for s in found.steps)
    assert len(found.standing) == 6, "its decisions, and that they were kept so far"
    assert kept_findings(found)["missing: x"] > 10**9, "kept whatever rows it names"
    with pytest.raises(NothingToUndoError):
        undo(repository, found)
    assert withdraw(repository, found, found.standing[0].id).steps == found.steps[1:]
    assert undo(repository, repository.load(study)).steps == found.steps
    assert repository.load(empty).file is None
    repository.delete(repository.load(study))
    purge_studies(before)
    assert before.execute("select count(*) as n from step_bodies").fetchone() == {"n": 4}
    before.execute(
        "update studies set deleted_at = now() - interval '8 days' where id = %s", [study]
    )
    purge_studies(before)
    left = before.execute("select count(*) as n from step_bodies").fetchone()
    assert left == {"n": 0}


@pytest.mark.parametrize("key", KEYS)
def test_a_log_of_sentences_becomes_one_of_actions(database, key):
    with database_at(database, 9) as old:
        study = put_into(old, key)
        migrations.migrate(old)
        repository = Postgres(lambda: nullcontext(old))
        found = repository.load(study)
        log = earlier(key)["log"]
        assert [(d.id, d.reason) for d in found.decisions] == [
            (e["decision"]["id"], e["decision"]["reason"]) for e in log
        ]
        decided = dict(log[-1]["decided"])
        assert to_json(found.snapshot) == decided | {
            "group_styles": decided.pop("looks"),
            "tables": [],
        }
        kinds = {d.action.kind for d in found.decisions}
        assert "earlier" not in kinds
        back = 0
        while found.history.undo is not None:
            found, back = undo(repository, found), back + 1
        assert found.steps == ()
        for _ in range(back):
            found = redo(repository, found)
        decided = dict(log[-1]["decided"])
        assert to_json(found.snapshot) == decided | {
            "group_styles": decided.pop("looks"),
            "tables": [],
        }


OLD_STATEMENTS = {
    "prepare": {"version": 1, "outcome": "s", "unit": "days"},
    "estimate": {"stage": "estimate", "version": 1, "level": 0.9, "times": [1.0, 2.0]},
    "compare": {
        "stage": "compare", "version": 1, "by": "g", "reference": "b", "contrast": None, "level": 0.99,
    },
    "model": {
        "stage": "model", "version": 1, "level": 0.95,
        "terms": [{"kind": "number", "column": "x", "unit": 10.0}],
    },
    "check": {"stage": "check", "version": 1, "clock": "log time"},
    "report": {"stage": "report", "version": 1, "title": "T", "pieces": ["rows", "ratios"]},
}  # fmt: skip
TODAYS = {
    "estimate": EstimateStatement(confidence=0.9, times=(1, 2)),
    "compare": CompareStatement(by="g", reference="b", confidence=0.99),
    "model": ModelStatement(terms=(NumberTerm(column="x", unit=10),)),
    "check": CheckStatement(time_function="log time"),
    "report": ReportStatement(
        title="T", left_out=("follow-up", "groups", "curves", "checks", "decisions")
    ),
}


def test_statements_of_the_version_before_are_brought_up_to_date_when_read(database):
    with database_at(database, 3) as old:
        study = old.execute("insert into studies (name) values ('Old') returning id").fetchone()[
            "id"
        ]
        extract = old.execute(
            "insert into cuts (study_id, name, sha256, table_sha256, size, row_count, how_read)"
            " values (%s, 'old.csv', %s, %s, 12, 2, 'read') returning id",
            [study, "a" * 64, "b" * 64],
        ).fetchone()["id"]
        old.execute("update studies set cut_id = %s where id = %s", [extract, study])
        for stage, body in OLD_STATEMENTS.items():
            old.execute("insert into statements values (%s, %s, %s)", [study, stage, Jsonb(body)])
        old.execute("insert into opened_stages (study_id, stage) values (%s, 'estimate')", [study])
        for k, into in enumerate(("", "older")):
            body = {"kind": "cut_number", "column": "x", "points": [5], "into": into}
            step = old.execute(
                "insert into step_bodies (cut_id, body) values (%s, %s) returning id",
                [extract, Jsonb(body)],
            ).fetchone()["id"]
            if k == 0:
                old.execute("insert into revisions values (%s, 1, 'x')", [extract])
            old.execute("insert into step_places values (%s, 1, %s, %s)", [extract, k, step])
        old.execute("update cuts set revision = 1 where id = %s", [extract])
        migrations.migrate(old)
        found = Postgres(lambda: nullcontext(old)).load(study)
    assert (found.file.name, found.follow_up.outcome) == ("old.csv", "s")
    assert [(p.step.kind, p.step.into) for p in found.steps] == [
        ("split_number", "x, cut"), ("split_number", "older"),
    ]  # fmt: skip
    assert found.analysis("estimate").opened
    assert not found.analysis("compare").opened
    for stage, today in TODAYS.items():
        assert type(today).read(found.analysis(stage).body) == today
