import csv
import io
import re
from dataclasses import replace
from datetime import date, datetime
from html.parser import HTMLParser

import pytest

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import DoublingTerm
from hourglass.analysis.prepare.describe import describe
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.shared.cohort_summary import summarise
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.core.progress import no_progress
from hourglass.report.composed import composed
from hourglass.report.formats.page import to_html
from hourglass.report.inputs import DataFile, LoggedDecision, ReportInputs
from hourglass.report.pieces.follow_up import follow_up_words
from hourglass.report.pieces.registry import PIECES
from hourglass.report.pieces.sections import IN_OTHER_WORDS, ON_SCREEN_ONLY
from hourglass.report.sentence import report_sentence
from hourglass.report.statement import ReportStatement
from hourglass.report.tables import harmless, to_csv
from making import cohort, default_statement, demo_cohort, demo_follow_up, demo_table, table, timed
from stages import check, compare, estimate, model, part_of

other_weights = part_of("compare", "weights")

HOSTILE = '<img src=x onerror="alert(1)">'
TIMES = (12.0, 24.0)


def findings(rows, raw, follow_up, by, terms, study="A study", decisions=()):
    read_at = datetime(2026, 1, 2)
    estimated = EstimateStatement(times=TIMES)
    return ReportInputs(
        study=study,
        dated=date(2026, 1, 2),
        files=(
            DataFile(
                name="file.csv",
                sha256="ab" * 32,
                size=1234,
                rows=rows.table.size,
                how_read="read as UTF-8",
                read_at=read_at,
            ),
        ),
        prepare=prepare(raw, [], follow_up, {}),
        follow_up=follow_up,
        cohort=summarise(rows),
        results={
            "estimate": estimate(rows, estimated),
            "compare": compare(rows, CompareStatement(by=by), estimated),
            "model": model(rows, ModelStatement(terms=terms)),
            "check": check(rows, ModelStatement(terms=terms), CheckStatement()),
            "compare/weights": other_weights(
                rows,
                {"compare": CompareStatement(by=by), "estimate": EstimateStatement()},
                no_progress,
            ),
        },
        statements={
            "estimate": estimated,
            "compare": CompareStatement(by=by),
            "model": ModelStatement(terms=terms),
            "check": CheckStatement(),
        },
        described=describe(rows, by),
        decisions=decisions,
    )


def report(found, **statement):
    """The report's page."""
    return to_html(composed(found, ReportStatement(**statement), PIECES))


def tables(found, **statement):
    """The report's tables."""
    return composed(found, ReportStatement(**statement), PIECES).tables


ALL_BUT_RATIOS = tuple(piece.key for piece in PIECES if piece.key != "ratios")


@pytest.fixture(scope="module")
def larkmoor():
    terms = (CategoryTerm(column="drops", reference="standard"), DoublingTerm(column="donor_cells"))
    made = LoggedDecision("6 rows end", "set aside", "nobody knows", datetime(2026, 1, 2))
    return findings(
        demo_cohort("larkmoor"),
        demo_table("larkmoor"),
        demo_follow_up("larkmoor"),
        "drops",
        terms,
        decisions=(made,),
    )


class Text(HTMLParser):
    """The words of a page, its tags, and what they point to."""

    def __init__(self, html):
        super().__init__()
        self.words, self.tags, self.links = [], [], []
        self.feed(html)

    def handle_starttag(self, tag, attrs):
        self.tags.append(tag)
        self.links += [v for k, v in attrs if k in ("src", "href", "srcset", "data") and v]

    def handle_data(self, data):
        self.words.append(data)


def read(html):
    page = Text(html)
    return page, " ".join(" ".join(page.words).split())


def test_the_page_holds_every_piece_in_words(larkmoor):
    page, words = read(report(larkmoor))
    for piece in (
        "Grafts were followed from grafted_on to last_seen, in months.",
        "Survival was estimated by the Kaplan–Meier method",
        "Groups were compared by the log-rank test",
        "by proportional hazards regression",
        "Whether hazards are proportional was tested",
        larkmoor.results["model"].words[0],
        f"log-rank χ² {larkmoor.results['compare'].test.statistic:.2f}",
        "6 rows end",
        "nobody knows",
        "17 without donor_cells",
        "Competing events.",
    ):
        assert piece in words
    assert page.tags.count("table") == sum(not table.in_words for table in tables(larkmoor))
    assert page.tags.count("svg") == 2, "the curves, and the ratios"


def test_what_stands_under_a_figure_is_printed_and_exported(larkmoor):
    made = {t.key: t for t in tables(larkmoor)}
    assert {"compare-weights", "compare-mean", "compare-rates", "estimate-groups"} <= set(made)
    assert "compare-pairs" not in made
    assert len(made) == len(tables(larkmoor))
    weights = list(csv.DictReader(io.StringIO(to_csv(made["compare-weights"]))))
    assert len(weights) == len(WEIGHTS)
    assert float(weights[0]["p"]) == larkmoor.results["compare"].test.p
    _, words = read(report(larkmoor))
    assert "How far the groups differ" in words
    assert "choosing among them by their p" in words


def test_every_section_is_printed_or_it_is_written_down_why_not():
    printed = {section for piece in PIECES for section in piece.sections}
    groups = [printed, set(IN_OTHER_WORDS), set(ON_SCREEN_ONLY)]
    assert set.union(*groups) == set(SectionId)
    assert sum(map(len, groups)) == len(SectionId)


def test_the_page_needs_nothing_from_outside(larkmoor):
    html = report(larkmoor)
    page, _ = read(html)
    assert page.links == []
    assert "script" not in page.tags
    assert all(at.startswith(("data:font/", "#")) for at in re.findall(r"url\(([^)]*)", html))
    assert "@import" not in html


def test_a_screen_is_printed_with_the_curves_of_everyone(larkmoor):
    screened = compare(
        demo_cohort("larkmoor"), CompareStatement(each=True), EstimateStatement(times=TIMES)
    )
    found = replace(larkmoor, results={**larkmoor.results, "compare": screened})
    page, words = read(report(found))
    assert page.tags.count("svg") == 2, "the curves, and the ratios"
    assert "A screen confirms nothing" in words
    assert "each variable is tested in turn" in words


def test_pieces_left_out_are_left_out(larkmoor):
    page, words = read(report(larkmoor, title="Short", left_out=ALL_BUT_RATIOS))
    assert words.count("Short") == 2
    assert page.tags.count("table") == 1
    assert "Rows read, set aside and analysed" not in words
    assert [t.key for t in tables(larkmoor, left_out=ALL_BUT_RATIOS)] == ["ratios"]


def test_the_sentence_turns_pieces_on_and_off(larkmoor):
    others = tuple(p.key for p in PIECES if p.key not in ("rows", "checks"))
    sentence = report_sentence(larkmoor, ReportStatement(left_out=others), PIECES, ())
    assert sentence.text == (
        "Report A study at full length, for a page, 170 mm, with rows read, set aside and analysed and "
        "checks, curves: those of Compare, else of Estimate."
    )
    options = {o.label: o.value for part in sentence.parts if part.slot for o in part.slot.options}
    assert set(options["checks"]) == {*others, "checks"}
    assert set(options["hazard ratios"]) == {*others} - {"ratios"}


def test_hostile_names_stay_text():
    text = f't,s,"{HOSTILE.replace(chr(34), chr(34) * 2)}"\n' + "".join(
        f"{k},{k % 2},{'=1+1' if k % 3 else '<b>b</b>'}\n" for k in range(1, 40)
    )
    rows = cohort(text)
    found = findings(
        rows,
        table(text),
        timed(),
        HOSTILE,
        (CategoryTerm(column=HOSTILE, reference="=1+1"),),
        study=HOSTILE,
    )
    html = report(found)
    page, words = read(html)
    assert "img" not in page.tags
    assert HOSTILE in words
    assert "b" not in page.tags
    for made in tables(found):
        for row in csv.reader(io.StringIO(to_csv(made))):
            assert not any(cell.startswith(("=", "@", "+")) for cell in row)


@pytest.mark.parametrize(
    ("value", "safe"),
    [("=1", "'=1"), ("@x", "'@x"), ("-a", "'-a"), ("\tx", "'\tx"), ("a=b", "a=b"), (-1.5, -1.5)],
)
def test_cells_that_a_spreadsheet_would_run_are_made_harmless(value, safe):
    assert harmless(value) == safe


def test_exported_tables_keep_full_precision(larkmoor):
    made = {t.key: t for t in tables(larkmoor)}
    rows = list(csv.DictReader(io.StringIO(to_csv(made["ratios"]))))
    first = larkmoor.results["model"].terms[0].coefficients[0]
    assert float(rows[0]["adjusted_ratio"]) == first.adjusted.ratio
    assert float(rows[0]["alone_p"]) == first.alone.p
    groups = list(csv.DictReader(io.StringIO(to_csv(made["groups"]))))
    assert [g["group"] for g in groups] == ["all grafts", "standard", "extended"]
    assert float(groups[0]["free_at_12"]) == larkmoor.results["estimate"].curve.points[0].survival
    assert int(groups[0]["at_risk_at_24"]) == larkmoor.results["estimate"].curve.points[1].at_risk
    ledger = list(csv.DictReader(io.StringIO(to_csv(made["rows"]))))
    assert (ledger[0]["step"], ledger[0]["rows"]) == ("read", "612")


def test_a_study_with_little_to_state_still_makes_a_page():
    text = "t,s\n1,0\n2,0\n"
    found = findings(cohort(text), table(text), timed(), None, ())
    _, words = read(report(found))
    assert "There is no model yet" in words
    assert "The median time to the event was not reached." in words
    assert "for a median of" in words
    assert "No decisions were recorded." in words


def test_one_is_followed_in_the_singular_and_the_rows_are_called_what_they_are_called():
    rows = cohort("t,s\n4,1\n", rows_are="ICU stays")
    words = follow_up_words(estimate(rows, default_statement("estimate", rows)))
    assert words.startswith("1 ICU stay was followed for 4 months in all; the median follow-up")
    assert "1 event was seen, 0 were censored." in words


def test_a_study_in_which_all_had_the_event_has_no_median_follow_up():
    rows = cohort("t,s\n1,1\n2,1\n3,1\n")
    words = follow_up_words(estimate(rows, default_statement("estimate", rows)))
    assert words.startswith(
        "3 rows were followed for 6 months in all; the median follow-up (reverse"
    )
    assert "The median time to the event was 2 (" in words
    assert words.endswith(" months.")
