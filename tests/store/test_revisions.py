"""Steps in revisions, against a plain list; and a database of the version before, migrated."""

import uuid

import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from psycopg.rows import dict_row
from psycopg.types.json import Jsonb

from hourglass.api.stage_results import kept_findings
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.rows import SetAside
from hourglass.store import migrate as migrations
from hourglass.store import steps as kept
from hourglass.store import studies
from hourglass.store.blobs import Blobs
from hourglass.store.cuts import accept_cut, add_cut, cuts, forget_waiting_cut
from hourglass.store.demos import keep_file, kept_file
from hourglass.store.rows import NoSuchStudyError

CSV = b"t,s\n1,1\n2,0\n"


@pytest.fixture
def blobs(tmp_path):
    return Blobs(tmp_path / "files")


def new_study(db, folder):
    made = studies.create_study(db, "A study")
    keep_file(db, Blobs(folder / "files"), made, "rows.csv", CSV)
    return made


def read_and_kept(blobs, name, data):
    return kept_file(blobs, name, data, packed(read(data)))


def names(db, study):
    """The steps' reasons in order, with "-" before those switched off."""
    steps = studies.load_study(db, study).steps
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
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(moves)
def test_whatever_is_done_and_undone_the_steps_are_those_of_a_plain_history(db, tmp_path, chosen):
    study = new_study(db, tmp_path)
    cut = studies.load_study(db, study).file.id
    history, at, made = [[]], 0, 0
    for move, number in chosen:
        now = history[at]
        placed = studies.load_study(db, study).steps
        if move in ("undo", "redo"):
            by = -1 if move == "undo" else 1
            if 0 <= at + by < len(history):
                kept.undo(db, cut, by)
                at += by
            else:
                with pytest.raises(kept.NothingToUndoError):
                    kept.undo(db, cut, by)
            assert names(db, study) == history[at]
            continue
        if move == "take":
            made += 1
            why = f"{number} {made}"
            step = SetAside(rows=(1,), why=why)
            studies.decide(db, study, "prepare", "k", "set aside", why, "", [step])
            after = [*now, why]
        elif not now:
            continue
        elif move == "edit":
            made += 1
            step = SetAside(rows=(2,), why=f"edited {made}")
            studies.decide(
                db, study, "prepare", "k", "edited", "x", "", [step], instead_of=placed[0].id
            )
            after = [("-" if now[0].startswith("-") else "") + f"edited {made}", *now[1:]]
        elif move == "withdraw":
            studies.withdraw(db, study, placed[-1].decision)
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
            kept.revise(db, cut, move, new)
        history = [*history[: at + 1], after]
        at += 1
        assert names(db, study) == after
    standing = {
        d.sentence for d in studies.load_study(db, study).standing if d.choice == "set aside"
    }
    assert {w.lstrip("-") for w in history[at] if "edited" not in w} == standing


def test_cuts_wait_are_accepted_and_stay(db, tmp_path, blobs):
    study = new_study(db, tmp_path)
    first = studies.load_study(db, study).file
    add_cut(db, study, read_and_kept(blobs, "one.csv", b"t,s\n5,1\n"), accepted=False)
    add_cut(db, study, read_and_kept(blobs, "two.csv", b"t,s\n6,1\n7,1\n8,0\n"), accepted=False)
    found = studies.load_study(db, study)
    assert (found.file.id, found.waiting.name) == (first.id, "two.csv")
    assert len(found.cuts) == 2, "a newer one takes the place of the one that waited"
    accept_cut(db, study, found.waiting.id)
    now = studies.load_study(db, study)
    assert (now.file.name, now.file.rows, now.waiting) == ("two.csv", 3, None)
    forget_waiting_cut(db, study)
    accept_cut(db, study, first.id)
    assert [(c.name, c.current) for c in cuts(db, study)] == [
        ("rows.csv", True),
        ("two.csv", False),
    ]


def test_a_cut_of_another_study_cannot_be_made_current(db, tmp_path):
    one, two = new_study(db, tmp_path), new_study(db, tmp_path)
    other = studies.load_study(db, two).file.id
    with pytest.raises(NoSuchStudyError):
        accept_cut(db, one, other)


@pytest.fixture
def before(database):
    """A database as the first version of the program left it, with a study in it."""
    name = f"before_{uuid.uuid4().hex}"
    with psycopg.connect(database, autocommit=True) as server:
        server.execute(f"create database {name}")
    address = f"{database.rsplit('/', 1)[0]}/{name}"
    first = [m for m in migrations.migrations() if m[0] == 1]
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


def test_a_study_of_the_version_before_is_there_with_everything(before):
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
            " values (%s, 'prepare', 'k', 'set aside', 'said') returning id",
            [study],
        ).fetchone()["id"]
        before.execute(
            "insert into steps (study_id, decision_id, body) values (%s, %s, %s)",
            [study, decision, Jsonb(step)],
        )
    before.execute(
        "insert into decisions (study_id, stage, about, choice, sentence)"
        " values (%s, 'prepare', 'missing: x', 'keep', 'said')",
        [study],
    )
    assert migrations.migrate(before) == migrations.migrations()[-1][0]
    found = studies.load_study(before, study)
    assert (found.file.name, found.file.rows, found.file.accepted) == ("old.csv", 2, True)
    assert (found.follow_up.outcome, found.follow_up.unit) == ("s", "days")
    assert [s.step.kind for s in found.steps] == [s["kind"] for s in steps]
    assert all(s.active for s in found.steps)
    assert len(found.standing) == 5
    assert kept_findings(found)["missing: x"] > 10**9, "kept whatever rows it names"
    kept.undo(before, found.file.id, -1)
    assert studies.load_study(before, study).steps == ()
    kept.undo(before, found.file.id, 1)
    assert studies.load_study(before, study).steps == found.steps
    studies.withdraw(before, study, found.standing[0].id)
    assert len(studies.load_study(before, study).steps) == 3
    assert studies.load_study(before, empty).file is None
    studies.delete_study(before, study)
    left = before.execute("select count(*) as n from step_bodies").fetchone()
    assert left == {"n": 0}
