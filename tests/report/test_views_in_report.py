"""Views of a study in its report: each a numbered figure with its table, of its own numbers."""

from dataclasses import replace

import pytest

from hourglass.analysis.registry import STAGES
from hourglass.core.progress import no_progress
from hourglass.report.pieces.registry import PIECES
from hourglass.report.reporting import composed_now, report_hash
from hourglass.report.statement import ReportStatement
from hourglass.study.commands.statements import arrange_analysis, begin_analysis, remove_analysis
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.results import Results


@pytest.fixture(scope="module")
def repository():
    return InMemory()


@pytest.fixture(scope="module")
def kept():
    return BlobsInMemory()


@pytest.fixture(scope="module")
def results(repository, kept):
    return Results(repository, kept, InProcess(), STAGES)


@pytest.fixture(scope="module")
def study(repository, kept, results):
    """The demo with a second view of Estimate, by vessels, and one of Compare, by centre."""
    made = load_demo(repository, kept, "larkmoor")[0]
    for stage, by in (("estimate", "vessels"), ("compare", "centre")):
        now = repository.load(made)
        statement = results.statement(now, now.analysis(stage)).model_copy(update={"by": by})
        begin_analysis(repository, now, stage, "", statement.model_dump(mode="json"))
    return repository.load(made)


def pieces(results, study, **statement):
    made = composed_now(results, PIECES, study, ReportStatement(**statement), no_progress)
    return {piece.key: piece for piece in made.pieces}


def test_each_further_view_is_a_piece_with_its_figure_and_table(results, study):
    found = pieces(results, study)
    estimate, compare = found["view-estimate-B"], found["view-compare-B"]
    assert estimate.title.text == "Curves for each group of vessels"
    assert compare.title.text == "Comparison by centre"
    assert compare.figure.number == estimate.figure.number + 1
    own = results.now(study, results.of_stage(study, study.of_stage("estimate")[1])).result
    assert estimate.figure.drawing.figure == own.figure
    assert "log-rank χ²" in compare.running_text[0]
    (groups,) = compare.tables
    assert [row[0].text for row in groups.rows] == [
        "Aldermouth", "Brackwell", "Eskdene", "Thornhaven", "Wrenlow"
    ]  # fmt: skip
    (table,) = (t for t in estimate.tables if "quartiles" in t.key)
    assert {row[0].text.split(",")[0] for row in table.rows} >= {"none", "3-4 quadrants"}
    numbers = [t.number for piece in found.values() for t in piece.tables]
    assert numbers == list(range(1, len(numbers) + 1))
    assert len({t.key for piece in found.values() for t in piece.tables}) == len(numbers)


def test_a_view_is_left_out_renamed_and_gone_as_any_piece(repository, results, study):
    report = replace(study.analysis("report"), id=7)
    before = report_hash(results, PIECES, study, report)
    assert "view-compare-B" not in pieces(results, study, left_out=("view-compare-B",))
    assert "view-compare-B" not in pieces(results, study, length="page")
    one = study.of_stage("compare")[1]
    named = arrange_analysis(repository, study, one.id, "By centre", one.position, {})
    assert pieces(results, named)["view-compare-B"].title.text == "By centre"
    assert report_hash(results, PIECES, named, report) != before
    gone = remove_analysis(repository, repository.load(study.id), one.id)
    assert "view-compare-B" not in pieces(results, gone)
    assert "view-estimate-B" in pieces(results, gone)


def test_what_a_view_states_otherwise_is_among_the_settings(results, study):
    (table,) = pieces(results, study)["session"].tables
    settings = {row[0].text: row[1].text for row in table.rows}
    assert settings["Estimate B: Curves for"] == "each group of vessels"
    assert settings["Compare B: Comparison by"] == "centre"
