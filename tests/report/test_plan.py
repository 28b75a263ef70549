"""A study as a plan: run on its file it gives the study's numbers, and twice the same bytes."""

import csv
import hashlib
import json
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest

from hourglass.analysis.registry import STAGES
from hourglass.cli.apply_model import apply_model
from hourglass.cli.out_folder import UnusableFolderError, made_ready, write_files
from hourglass.cli.run_plan import (
    ALL_FITS,
    NO_COHORT,
    NO_DATA,
    NO_FOLDER,
    NO_PLAN,
    NOT_ALL_FITS,
    run_plan,
    seal,
)
from hourglass.core.progress import no_progress
from hourglass.report.composed import composed
from hourglass.report.gathering import Gathering
from hourglass.report.outputs import results_json
from hourglass.report.pieces.registry import PIECES
from hourglass.report.statement import ReportStatement
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.place import DEMO
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.results import Results
from making import PLANNED_FOLLOW_UP

LEFT_OUT = ("weights", "tests", "estimates", "terms", "contrasts", "candidates")


@pytest.fixture(scope="module")
def lamps():
    """A demo with every stage opened: its plan, and what a report of it is made from."""
    repository, kept = InMemory(), BlobsInMemory()
    made, _ = load_demo(repository, kept, "lamps")
    for stage in STAGES:
        repository.open_analysis(repository.begin_analysis(made, stage.name, False))
    results = Results(repository, kept, InProcess(), STAGES)
    study = repository.load(made)
    found = Gathering(results, PIECES, study, ReportStatement()).now(no_progress)
    return plan_of_study(study), found


@pytest.fixture(scope="module")
def data():
    (demo,) = (p for p in DEMO.glob("*.json") if p.stem == "lamps")
    return DEMO / json.loads(demo.read_text("utf-8"))["file"]


ON_ONE_PAGE = {"stage": "report", "statement": {"stage": "report", "version": 3, "length": "page"}}
"""A report that is quickly written, where a test is not about the report."""


def on_one_page(plan):
    analyses = [*json.loads(plan.model_dump_json())["analyses"], ON_ONE_PAGE]
    return {"analyses": analyses}


def kept(folder, plan, **changes):
    file = folder / "plan.json"
    body = {**json.loads(plan.model_dump_json()), **changes}
    file.write_text(json.dumps(body), "utf-8")
    return file


def files(folder: Path) -> dict[str, bytes]:
    return {str(f.relative_to(folder)): f.read_bytes() for f in folder.rglob("*") if f.is_file()}


def test_a_plan_run_twice_gives_the_numbers_of_the_study_and_the_same_bytes(lamps, data, tmp_path):
    plan, found = lamps
    file = kept(tmp_path, plan)
    assert run_plan(file, data, tmp_path / "one") == ALL_FITS
    assert run_plan(file, data, tmp_path / "two") == ALL_FITS
    one, two = files(tmp_path / "one"), files(tmp_path / "two")
    assert one.keys() == two.keys()
    assert [name for name in one if one[name] != two[name]] == []
    written = json.loads(one["results.json"])
    assert (written["format"], written["version"]) == ("olden-hourglass results", 3)
    results, want = written["results"], json.loads(results_json(found))["results"]
    for key in want:
        if key != "prepare":  # whose findings go by the day it is looked at
            results[key].pop("drawing", None), want[key].pop("drawing", None)
            assert results[key] == want[key], key
    made = composed(found, ReportStatement(), PIECES)
    drawn = [piece.figure.key for piece in made.pieces if piece.figure is not None]
    assert set(one) == {
        *(f"report.{form}" for form in ("html", "pdf", "docx", "md", "xlsx")),
        *(f"tables/{table.key}.csv" for table in made.tables),
        *(f"figures/{key}.{form}" for key in drawn for form in ("svg", "pdf")),
        *("rows.csv", "rows.parquet", "codebook.csv"),
        *("where-the-rows-went.txt", "where-the-rows-went.svg"),
        *("results.json", "plan.json", ".written-by-hourglass"),
    }
    assert drawn == ["curves", "forest"]
    again = StudyPlan.model_validate_json(one["plan.json"])
    assert again.model_copy(update={"dated": plan.dated}) == plan


def test_what_does_not_fit_is_stated_and_the_rest_is_written(lamps, data, tmp_path, capsys):
    plan, _ = lamps
    report = {
        "stage": "report",
        "statement": {"stage": "report", "version": 3, "left_out": LEFT_OUT},
    }
    gone = {
        "stage": "model",
        "statement": {"version": 4, "terms": [{"kind": "number", "column": "gone"}]},
    }
    file = kept(tmp_path, plan, analyses=[gone, report])
    assert run_plan(file, data, tmp_path / "out") == NOT_ALL_FITS
    assert "Does not fit: Model: There is no model yet" in capsys.readouterr().err
    assert (tmp_path / "out" / "report.html").is_file()


@pytest.mark.parametrize(
    ("changes", "text", "code", "words"),
    [
        ({"version": 9}, "t,s\n1,1\n", NO_PLAN, "version: “9” is none of 1"),
        ({"steps": [{"step": {"kind": "no such"}}]}, "t,s\n1,1\n", NO_PLAN, "Step 1"),
        ({"analyses": [{"stage": "guess"}]}, "t,s\n1,1\n", NO_PLAN, "“guess” is none of estimate"),
        (
            {"analyses": [{"stage": "model", "statement": {"version": 4, "terms": [{}]}}]},
            "t,s\n1,1\n",
            NO_PLAN,
            "Model, term 1: “kind” is missing",
        ),
        (
            {"analyses": [{"stage": "model", "statement": {"terms": []}}]},
            "t,s\n1,1\n",
            NO_PLAN,
            "Model, version: state which version",
        ),
        *(
            (
                {"analyses": [{"stage": "model", "statement": {"version": version}}]},
                "t,s\n1,1\n",
                NO_PLAN,
                "Model, version: state which version",
            )
            for version in ("x", 0, 99, None, True)
        ),
        (
            {"analyses": [{"stage": "report", "statement": {"version": 1, "pieces": 5}}]},
            "t,s\n1,1\n",
            NO_PLAN,
            "Report: this is no statement of version 1",
        ),
        (
            {"analyses": [{"stage": "model", "statement": {"version": 4, "tiess": "Efron"}}]},
            "t,s\n1,1\n",
            NO_PLAN,
            "Model: “tiess” is not known; did you mean “ties”?",
        ),
        (
            {"analyses": [{"stage": "model", "statement": {"version": 4, "ties": "Efrom"}}]},
            "t,s\n1,1\n",
            NO_PLAN,
            "Model, ties: “Efrom” is none of Efron, Breslow, exact",
        ),
        (
            {"follow_up": {"unitt": "days"}},
            "t,s\n1,1\n",
            NO_PLAN,
            "Follow-up: “unitt” is not known; did you mean “unit”?",
        ),
        (
            {"sealed": {"at": "2026-01-01T00:00:00Z", "sha256": "0" * 64}},
            "t,s\n1,1\n",
            NO_PLAN,
            "changed after it had been sealed",
        ),
        ({}, "", NO_DATA, "The file is empty"),
        ({}, "a,b\n1,2\n", NO_COHORT, "does not make a cohort"),
    ],
)
def test_a_plan_or_data_that_cannot_be_used_end_with_their_own_code(
    lamps, tmp_path, capsys, changes, text, code, words
):
    file = kept(tmp_path, lamps[0], **changes)
    (tmp_path / "data.csv").write_text(text)
    assert run_plan(file, tmp_path / "data.csv", tmp_path / "out") == code
    assert words in capsys.readouterr().err
    assert not (tmp_path / "out").exists()


def test_a_model_is_applied_to_another_file(tmp_path, capsys):
    random = np.random.default_rng(5)
    for name in ("own", "other"):
        age, t = random.integers(20, 90, 80), random.exponential(30, 80)
        lines = [f"{t[k]:.2f},{k % 2},{age[k]}" for k in range(80)]
        (tmp_path / f"{name}.csv").write_text("\n".join(["t,s,age", *lines]))
    terms = [{"kind": "number", "column": "age"}]
    model = {"stage": "model", "statement": {"version": 4, "terms": terms}}
    body = {
        "name": "Age",
        "dated": "2026-01-01",
        "follow_up": PLANNED_FOLLOW_UP,
        "analyses": [model],
    }
    (tmp_path / "plan.json").write_text(json.dumps(body))
    words = [tmp_path / "plan.json", tmp_path / "own.csv", tmp_path / "other.csv"]
    assert apply_model(*words, "", 20.0, tmp_path / "out") == ALL_FITS
    shown = json.loads((tmp_path / "out" / "applied.json").read_text("utf-8"))
    assert shown["model"] == "age per 1"
    assert shown["sections"][0]["blocks"][0]["rows"][0][1]["raw"] == 80
    head, *rows = (tmp_path / "out" / "predictions.csv").read_text("utf-8-sig").splitlines()
    assert head.split(",")[-2:] == ["linear predictor", "predicted survival at 20"]
    assert len(rows) == 80
    assert (tmp_path / "out" / "calibration.svg").is_file()
    printed = capsys.readouterr().out
    for text in (
        "Rows that it is applied to: 80",
        "Concordance here: 0.",
        "Survival at 20, by deciles",
    ):
        assert text in printed
    assert apply_model(*words, "", 1e6, tmp_path / "late") == NOT_ALL_FITS
    assert (
        "past the follow-up that the model was fitted to, which ends at" in capsys.readouterr().err
    )
    assert apply_model(*words, "B", 20.0, tmp_path / "none") == NO_PLAN
    assert "No model B is kept" in capsys.readouterr().err


def test_a_plan_is_sealed_once_and_its_report_states_so(lamps, data, tmp_path, capsys):
    file = kept(tmp_path, lamps[0])
    assert seal(file, tmp_path / "sealed.json") == ALL_FITS
    sealed = StudyPlan.model_validate_json((tmp_path / "sealed.json").read_bytes())
    assert capsys.readouterr().out == f"{sealed.sha256}\n"
    assert seal(tmp_path / "sealed.json", tmp_path / "again.json") == NO_PLAN
    assert "was sealed already" in capsys.readouterr().err
    assert run_plan(tmp_path / "sealed.json", data, tmp_path / "out") == ALL_FITS
    text = (tmp_path / "out" / "report.md").read_text("utf-8")
    assert "The plan came sealed, by its own word on" in text
    assert "the data were read" not in text, "a run does not know the day"
    assert "Nothing departs from it." in text
    again = StudyPlan.model_validate_json((tmp_path / "out" / "plan.json").read_bytes())
    assert again.sealed is None, "the plan as it was run is not what was sealed"


def test_a_folder_that_is_not_free_is_refused_before_anything_is_computed(lamps, tmp_path, capsys):
    file, data = kept(tmp_path, lamps[0]), tmp_path / "no such data.csv"
    taken = tmp_path / "taken"
    taken.mkdir()
    (taken / "mine.txt").write_text("mine")
    for out, text in ((file, "is a file"), (taken, "is not empty (mine.txt is there)")):
        assert run_plan(file, data, out) == NO_FOLDER
        assert text in capsys.readouterr().err
    assert run_plan(file, data, taken, clear=True) == NO_FOLDER, "what is not ours stays"
    assert (taken / "mine.txt").read_text() == "mine"
    (taken / "mine.txt").unlink()
    write_files(made_ready(taken, replace=False), {"report.md": b"old", "tables/a.csv": b"old"})
    assert run_plan(file, data, taken) == NO_FOLDER
    assert "add --replace" in capsys.readouterr().err
    (taken / "tables" / "mine.csv").write_text("mine")
    with pytest.raises(UnusableFolderError, match="tables is there"):
        made_ready(taken, replace=True)
    assert [p.name for p in taken.rglob("*")] == ["tables", "mine.csv"]


def test_a_column_under_another_name_is_renamed_and_all_that_are_missing_are_named_at_once(
    lamps, tmp_path, capsys
):
    plan = kept(tmp_path, lamps[0], **on_one_page(lamps[0]))
    text = (DEMO / "harbour_lamps.csv").read_text()
    head, _, rest = text.partition("\n")
    other = tmp_path / "other.csv"
    other.write_text(head.replace("hours", "hours_lit").replace("maker", "made_by") + "\n" + rest)
    code = run_plan(plan, other, tmp_path / "a")
    words = capsys.readouterr().err
    assert code in {NOT_ALL_FITS, NO_COHORT}
    assert "There is no column “hours”, which the follow-up needs" in words
    assert "if “hours_lit” is it, add --rename hours_lit=hours" in words
    assert "There is no column “maker”, which" in words
    renamed = {"hours_lit": "hours", "made_by": "maker"}
    assert run_plan(plan, other, tmp_path / "b", renamed=renamed) == ALL_FITS
    again = json.loads((tmp_path / "b" / "plan.json").read_text("utf-8"))
    assert again["follow_up"]["clock"]["column"] == "hours"
    assert [(one["step"]["column"], one["step"]["into"]) for one in again["steps"]] == [
        *renamed.items()
    ]
    inside = tmp_path / "b" / "plan.json"
    assert run_plan(inside, other, tmp_path / "c") == ALL_FITS, "the plan that was run has it, too"


def test_the_day_of_reading_is_that_day_and_decisions_have_that_of_the_plan(lamps, tmp_path):
    data = DEMO / "harbour_lamps.csv"
    plan = kept(tmp_path, lamps[0], dated="2001-02-03")
    assert run_plan(plan, data, tmp_path / "out") in {ALL_FITS, NOT_ALL_FITS}
    files = (tmp_path / "out" / "tables" / "files.csv").read_text("utf-8")
    today = datetime.now(UTC)
    assert f"{today:%-d %B %Y}" in files
    assert "2001" not in files


def test_what_plans_could_not_state_leaves_an_older_seal_whole(lamps):
    sealed = lamps[0].sealed_at(datetime(2026, 1, 1, tzinfo=UTC))
    old = json.loads(sealed.model_dump_json())
    del old["follow_up"]["near_ties"], old["tables"]
    shown = {k: v for k, v in old.items() if k != "sealed"}
    text = json.dumps(shown, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    assert hashlib.sha256(text.encode()).hexdigest() == sealed.sha256
    assert not StudyPlan.model_validate(old).seal_broken
    loose = {**old, "follow_up": {**old["follow_up"], "near_ties": 1e-9}}
    assert StudyPlan.model_validate(loose).seal_broken


def test_a_plan_sealed_under_earlier_names_fits_its_seal(lamps):
    step = {
        "version": 1,
        "kind": "spread_tallies",
        "tallies": {"died": "event"},
        "time": "t",
        "at_risk": "",
    }
    step |= {"counted": "before", "within": []}
    looks = [{"group": "g: a", "tone": 3, "hidden": [], "front": [], "bare": []}]
    content = json.loads(lamps[0].model_dump_json(exclude={"sealed", "group_styles"}))
    content |= {"looks": looks}
    del content["tables"]
    content["steps"].append({"step": step, "active": True, "reason": "", "decided": None})
    content["steps"][-1] |= {"rows_known_by": []}
    hashed = StudyPlan.model_validate(content)._content()
    hashed = hashed | {"looks": looks, "steps": content["steps"]}
    del hashed["group_styles"]
    text = json.dumps(hashed, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    seal = {"at": "2026-01-01T00:00:00Z", "sha256": hashlib.sha256(text.encode()).hexdigest()}
    plan = StudyPlan.model_validate({**content, "sealed": seal})
    assert plan.group_styles[0].tone == 3
    assert not plan.seal_broken
    assert plan.model_copy(update={"group_styles": ()}).seal_broken


PLAN_WITH_VISITS = {
    "format": "olden-hourglass plan",
    "version": 1,
    "name": "Visits",
    "dated": "2026-01-01",
    "follow_up": {
        "clock": {"kind": "duration", "column": "t"},
        "unit": "weeks",
        "outcome": "s",
        "subject": "id",
        "meanings": {"1": {"meaning": "event"}, "0": {"meaning": "censored"}},
    },
    "tables": [
        {
            "stated": {
                "name": "visits",
                "key": "id",
                "at": "at",
                "covariates": [{"kind": "in force", "into": "v now", "column": "v"}],
            }
        }
    ],
    "analyses": [
        {"stage": "estimate"},
        {
            "stage": "model",
            "statement": {"version": 4, "terms": [{"kind": "number", "column": "v now"}]},
        },
        {"stage": "report"},
    ],
}


def test_a_plan_with_a_further_table_is_run_on_two_files(tmp_path, capsys):
    rows = "id,t,s\n" + "".join(f"p{k},{3 + 5 * k % 11},{k % 2}\n" for k in range(20))
    visits = "id,at,v\n" + "".join(
        f"p{k},{u},{(3 * k + 5 * u) % 7}\n" for k in range(20) for u in (0, 2)
    )
    plan, data, table = (tmp_path / name for name in ("plan.json", "rows.csv", "visits.csv"))
    plan.write_text(json.dumps(PLAN_WITH_VISITS))
    data.write_text(rows)
    table.write_text(visits)
    assert run_plan(plan, data, tmp_path / "none") == NO_COHORT
    err = capsys.readouterr().err
    assert "Add the file of the table visits: v now is made from it." in err
    assert run_plan(plan, data, tmp_path / "x", tables={"doses": table}) == NO_PLAN
    assert "no further table called doses: it has visits" in capsys.readouterr().err
    out = tmp_path / "out"
    assert run_plan(plan, data, out, tables={"visits": table}) == ALL_FITS
    with (out / "rows.csv").open(newline="") as made:
        pieces = list(csv.DictReader(made))
    ours = [(p["time of entry"], p["time followed"], p["v now"]) for p in pieces if p["id"] == "p3"]
    assert [(float(e or "nan"), float(t), v) for e, t, v in ours][1:] == [(2.0, 7.0, "5")]
    report = (out / "report.md").read_text()
    assert "v now (value in force of v)" in report
    assert "parted wherever v now changed" in report
    again = StudyPlan.model_validate_json((out / "plan.json").read_text())
    assert again.tables[0].made_on.name == "visits.csv"
