"""What pieces of the report hold and leave out, each against the results that it is made from."""

import re
from dataclasses import replace

import pytest
from made_up_studies import made

from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.prepare.ledger import LedgerView, Loss
from hourglass.core.progress import no_progress
from hourglass.report.checklist import checklist
from hourglass.report.composed import composed
from hourglass.report.formats.fitting import widths
from hourglass.report.gathering import Gathering
from hourglass.report.pieces.ratios import model_words
from hourglass.report.pieces.registry import PIECES
from hourglass.report.pieces.rows import ledger_table
from hourglass.report.sentence import report_sentence
from hourglass.report.statement import ReportStatement


@pytest.fixture(scope="module")
def two(tmp_path_factory):
    study, statement = (
        made("two groups, everything opened", tmp_path_factory.mktemp("two")),
        ReportStatement(),
    )
    return Gathering(study.results, PIECES, study.study, statement).now(no_progress)


def keys(found, **statement):
    return [piece.key for piece in composed(found, ReportStatement(**statement), PIECES).pieces]


def test_sources_stand_at_the_end_unless_the_methods_are_left_out(two):
    assert "references" in keys(two)
    assert "references" not in keys(replace(two, left_out=frozenset({"methods"})))


def test_the_ledger_takes_away_what_was_set_aside_and_states_what_rows_became():
    lost = (Loss(why="typed twice", rows=3, becomes=None), Loss(why="split", rows=0, becomes=120))
    ledger = LedgerView(read=100, lost=list(lost), analysed=120, ended_early=0)
    table = ledger_table(ledger)
    assert [row[-1] for row in table.values] == [100, -3, 120, 120]
    nothing = ledger_table(ledger.model_copy(update={"analysed": None}))
    assert nothing.values[-1][-1] == 0


def test_rows_are_called_by_what_they_are_only_where_each_is_a_subject(two):
    model = two.result("model", ModelResult)
    assert model.cohort.rows == model.cohort.subjects
    assert model.cohort.rows_are in model_words(model, None)
    apart = model.cohort.model_copy(update={"rows": model.cohort.rows + 1})
    assert "rows" in model_words(model.model_copy(update={"cohort": apart}), None)


def test_the_question_is_of_groups_only_where_some_are_compared(two):
    def question(found):
        summary = next(
            p for p in composed(found, ReportStatement(), PIECES).pieces if p.key == "summary"
        )
        return summary.paragraphs[0].text

    compared = two.result("compare", CompareResult)
    labels = [compared.group(curve.label) for curve in compared.curves]
    assert all(label in question(two) for label in labels)
    alone = compared.model_copy(update={"by": None, "curves": []})
    without = replace(two, results={**two.results, "compare": alone})
    assert not any(label in question(without) for label in labels)


def test_a_point_of_the_checklist_is_reported_where_its_piece_is_printed(two):
    made = composed(two, ReportStatement(), PIECES)
    reported = {p.title for p in checklist(two, made) if p.state == "reported"}
    bare = {p.title for p in checklist(two, replace(made, pieces=())) if p.state == "reported"}
    assert len(bare) < len(reported)


def test_the_slot_of_pieces_counts_what_is_left_out(two):
    def label(statement):
        parts = report_sentence(two, statement, PIECES, ()).parts
        return next(p.slot.label for p in parts if p.slot and p.slot.id == "pieces")

    assert label(ReportStatement()) == "all its pieces"
    assert label(ReportStatement(left_out=("rows", "files"))) == "all its pieces but 2"


def test_columns_share_what_is_left_by_what_they_would_like(two):
    table = next(t for t in composed(two, ReportStatement(), PIECES).tables if t.key == "groups")
    wide, narrow = widths(table, 400.0, 2.0), widths(table, 170.0, 2.0)
    assert sum(narrow) == pytest.approx(170.0)
    assert all(a >= b for a, b in zip(wide, narrow, strict=True))
    assert sum(wide) <= 400.0


def sentences(found, key):
    piece = next(p for p in composed(found, ReportStatement(), PIECES).pieces if p.key == key)
    return {one.text: one.stages for made in piece.paragraphs for one in made.sentences}


@pytest.mark.parametrize("stage", ["estimate", "compare", "model", "check"])
def test_a_sentence_of_the_methods_stands_without_the_results_that_it_does_not_rest_on(two, stage):
    others = {key: one for key, one in two.results.items() if key.split("/")[0] != stage}
    left = sentences(replace(two, results=others), "methods")
    cited = {
        re.sub(r" \[[\d, ]+\]", "", text): on for text, on in sentences(two, "methods").items()
    }
    there = {re.sub(r" \[[\d, ]+\]", "", text) for text in left}
    assert any(stage in on for on in cited.values())
    assert {text for text, on in cited.items() if stage not in on} <= there
    assert set(cited) != there or stage == "estimate"


def test_sentences_of_the_summary_name_where_their_numbers_come_from(two):
    cited = sentences(two, "summary")
    marks = {"followed": "prepare", "χ²": "compare", "times that in": "model"}
    for mark, stage in marks.items():
        assert [on for text, on in cited.items() if mark in text] == [(stage,)]
