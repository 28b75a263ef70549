import json
import os
import uuid

import psycopg
import pytest

from hourglass.analysis.statements import CompareStatement, EstimateStatement
from hourglass.cohort.proposal import propose
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.rows import SetAside
from hourglass.store import migrate as migrations
from hourglass.store import results, studies
from hourglass.store.blobs import Blobs, MissingBlobError
from hourglass.store.demos import NoSuchDemoError, demos, keep_file, load_demo, load_missing_demos
from hourglass.store.rows import NoSuchStudyError
from making import table

CSV = b"t,s\n1,1\n2,0\n"


@pytest.fixture
def blobs(tmp_path):
    return Blobs(tmp_path / "files")


@pytest.fixture
def study(db, blobs):
    made = studies.create_study(db, "A study")
    keep_file(db, blobs, made, "rows.csv", CSV)
    return made


class TestMigrations:
    def test_migrating_twice_changes_nothing(self, database):
        with psycopg.connect(database, autocommit=True) as connection:
            before = migrations.version(connection)
            assert migrations.migrate(connection) == before == migrations.migrations()[-1][0]

    def test_numbers_follow_each_other(self):
        numbers = [n for n, _, _ in migrations.migrations()]
        assert numbers == list(range(1, len(numbers) + 1))

    def test_a_newer_database_is_refused(self, database):
        with psycopg.connect(database, autocommit=True) as connection:
            connection.execute("insert into migrations (number, name) values (9999, 'later')")
            try:
                with pytest.raises(migrations.NewerDatabaseError, match="9999"):
                    migrations.migrate(connection)
            finally:
                connection.execute("delete from migrations where number = 9999")

    def test_a_migration_that_fails_leaves_nothing_behind(self, database, monkeypatch):
        broken = [
            *migrations.migrations(),
            (99, "0099_broken.sql", "create table half (a int); nonsense"),
        ]
        monkeypatch.setattr(migrations, "migrations", lambda: broken)
        with psycopg.connect(database, autocommit=True) as connection:
            with pytest.raises(psycopg.errors.SyntaxError):
                migrations.migrate(connection)
            assert migrations.version(connection) == migrations.migrations()[-2][0]
            half = connection.execute("select to_regclass('half')").fetchone()
            assert half == (None,)


class TestBlobs:
    def test_bytes_come_back_and_are_kept_once(self, blobs, tmp_path):
        name = blobs.put(b"some bytes")
        assert blobs.put(b"some bytes") == name
        assert blobs.get(name) == b"some bytes"
        assert sum(p.is_file() for p in (tmp_path / "files").rglob("*")) == 1

    def test_damage_and_loss_are_noticed(self, blobs, tmp_path):
        name = blobs.put(b"some bytes")
        path = tmp_path / "files" / name[:2] / name
        path.write_bytes(b"other")
        with pytest.raises(MissingBlobError, match="damaged"):
            blobs.get(name)
        assert blobs.put(b"some bytes") == name
        assert blobs.get(name) == b"some bytes", "putting it again mends it"
        path.unlink()
        with pytest.raises(MissingBlobError, match="not on the disk"):
            blobs.get(name)


class TestStudies:
    def test_a_study_comes_back_as_it_was_kept(self, db, study, blobs):
        found = studies.load_study(db, study)
        assert (found.name, found.demo, found.statements, found.steps) == ("A study", None, {}, ())
        assert found.follow_up == propose(table(CSV.decode()))
        assert found.file.rows == 2
        assert blobs.get(found.file.sha256) == CSV, "the original bytes are unchanged"
        kinds = db.execute(
            "select name, kind from columns where cut_id = %s order by position", [found.file.id]
        ).fetchall()
        assert kinds == [{"name": "t", "kind": "number"}, {"name": "s", "kind": "number"}]

    def test_statements_are_replaced(self, db, study):
        studies.put_statement(db, study, "estimate", EstimateStatement(level=0.9))
        studies.put_statement(db, study, "estimate", EstimateStatement(level=0.99))
        studies.put_statement(db, study, "prepare", FollowUpStatement(outcome="s"))
        found = studies.load_study(db, study)
        assert found.statements == {"estimate": EstimateStatement(level=0.99)}
        assert found.follow_up == FollowUpStatement(outcome="s")

    def test_a_decision_comes_with_its_steps_and_goes_with_them(self, db, study):
        step = SetAside(rows=(2,), why="no good")
        made = studies.decide(db, study, "prepare", "k", "set aside", "Row 2", "because", [step])
        found = studies.load_study(db, study)
        assert found.active == (step,)
        assert (found.standing[0].reason, found.standing[0].id) == ("because", made)
        studies.withdraw(db, study, made)
        after = studies.load_study(db, study)
        assert (after.steps, after.standing) == ((), ())
        assert after.decisions[0].withdrawn_at is not None, "the log keeps it"
        with pytest.raises(NoSuchStudyError):
            studies.withdraw(db, study, made)

    def test_a_decision_of_another_study_cannot_be_withdrawn(self, db, study):
        other = studies.create_study(db, "Other")
        made = studies.decide(db, other, "check", "k", "keep", "Keep", "")
        with pytest.raises(NoSuchStudyError):
            studies.withdraw(db, study, made)
        assert studies.load_study(db, other).standing

    def test_a_second_file_is_refused_and_the_first_stays(self, db, study, blobs):
        with pytest.raises(studies.FileAlreadyReadError):
            keep_file(db, blobs, study, "other.csv", b"a\n1\n")
        assert studies.load_study(db, study).file.name == "rows.csv"

    def test_an_unreadable_file_leaves_the_study_as_it_was(self, db, blobs):
        made = studies.create_study(db, "Empty")
        with pytest.raises(UnreadableFileError):
            keep_file(db, blobs, made, "bad.csv", b"a,a\n1,2\n")
        assert studies.load_study(db, made).file is None

    def test_a_crash_half_way_leaves_no_half_made_study(self, db, blobs, monkeypatch):
        made = studies.create_study(db, "Crashed")

        def crash(*_):
            raise KeyboardInterrupt

        monkeypatch.setattr(studies, "put_statement", crash)
        with pytest.raises(KeyboardInterrupt):
            keep_file(db, blobs, made, "rows.csv", CSV)
        assert studies.load_study(db, made).file is None
        count = db.execute(
            "select count(*) as n from columns k join cuts c on c.id = k.cut_id where c.study_id = %s",
            [made],
        )
        assert count.fetchone() == {"n": 0}

    def test_deleting_takes_everything_along(self, db, study):
        studies.decide(db, study, "prepare", "k", "keep", "Keep", "")
        studies.delete_study(db, study)
        with pytest.raises(NoSuchStudyError):
            studies.load_study(db, study)
        for name in ("cuts", "statements", "decisions", "results"):
            left = db.execute(f"select 1 from {name} where study_id = %s", [study]).fetchall()
            assert left == []

    def test_names_are_data_and_never_sql(self, db):
        name = "x'); drop table studies; --"
        made = studies.create_study(db, name)
        studies.rename_study(db, made, name + '"')
        assert name + '"' in [s.name for s in studies.list_studies(db)]

    def test_unknown_studies_are_named_as_such(self, db):
        nobody = uuid.uuid4()
        for act in (
            lambda: studies.load_study(db, nobody),
            lambda: studies.rename_study(db, nobody, "x"),
            lambda: studies.delete_study(db, nobody),
            lambda: studies.decide(db, nobody, "check", "k", "keep", "Keep", ""),
        ):
            with pytest.raises(NoSuchStudyError):
                act()


class TestResults:
    def test_a_result_is_current_only_for_what_it_came_from(self, db, study):
        kept = studies.load_study(db, study)
        cohort = results.cohort_hash(kept)
        results.keep(db, study, "estimate", cohort, "s1", "median 1", "", {"a": 1})
        assert results.find_current(db, study, "estimate", cohort, "s1") == {"a": 1}
        assert results.find_current(db, study, "estimate", cohort, "s2") is None
        assert results.find_current(db, study, "estimate", "other", "s1") is None
        assert results.headlines(db, study)["estimate"].headline == "median 1"

    def test_a_result_of_another_program_is_not_current(self, db, study, monkeypatch):
        results.keep(db, study, "estimate", "c", "s", "h", "", {})
        monkeypatch.setattr(results, "PROGRAM", "0.0.0+other")
        assert results.find_current(db, study, "estimate", "c", "s") is None

    def test_every_change_that_matters_changes_the_cohort_hash(self, db, study):
        seen = {results.cohort_hash(studies.load_study(db, study))}
        studies.put_statement(db, study, "prepare", FollowUpStatement(outcome="s"))
        seen.add(results.cohort_hash(studies.load_study(db, study)))
        step = SetAside(rows=(1,), why="x")
        made = studies.decide(db, study, "prepare", "k", "set aside", "x", "", [step])
        changed = results.cohort_hash(studies.load_study(db, study))
        seen.add(changed)
        studies.rename_study(db, study, "Another name")
        studies.put_statement(db, study, "compare", CompareStatement())
        assert results.cohort_hash(studies.load_study(db, study)) == changed
        assert len(seen) == 3
        studies.withdraw(db, study, made)
        assert results.cohort_hash(studies.load_study(db, study)) in seen - {changed}

    def test_hashes_do_not_depend_on_the_order_of_keys(self):
        a = results.statement_hash(EstimateStatement(), [{"x": 1, "y": 2}])
        b = results.statement_hash(EstimateStatement(), [json.loads('{"y": 2, "x": 1}')])
        assert a == b != results.statement_hash(EstimateStatement(level=0.9))


class TestDemos:
    def test_all_demos_load_once_and_never_again(self, database, db, blobs):
        assert load_missing_demos(db, blobs) == [d["name"] for d in demos().values()]
        larkmoor = next(s for s in studies.list_studies(db) if s.demo == "larkmoor")
        studies.rename_study(db, larkmoor.id, "Mine now")
        assert load_missing_demos(db, blobs) == []
        assert "Mine now" in [s.name for s in studies.list_studies(db)]

    def test_a_demo_is_a_study_with_reasons(self, db, blobs):
        made, _ = load_demo(db, blobs, "larkmoor")
        found = studies.load_study(db, made)
        assert len(found.standing) == 9
        assert all(d.reason for d in found.standing)
        assert set(found.statements) == {"estimate", "compare", "model"}

    def test_an_unknown_demo_is_refused(self, db, blobs):
        with pytest.raises(NoSuchDemoError):
            load_demo(db, blobs, "../../etc/passwd")


def test_the_tests_use_a_real_server_of_our_own():
    assert "127.0.0.1" in os.environ["HOURGLASS_TEST_DATABASE"]
