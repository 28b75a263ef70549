"""The first page: its question and answer, which cautions it has, and how lengths and references go."""

from dataclasses import replace
from datetime import UTC, datetime

import pytest
from made_up_studies import made

from hourglass.analysis.shared.cautions import Caution
from hourglass.core.progress import no_progress
from hourglass.report.composed import composed
from hourglass.report.gathering import Gathering
from hourglass.report.inputs import SealedPlan
from hourglass.report.pieces.cautions import GRAVEST, most_serious
from hourglass.report.pieces.registry import PIECES
from hourglass.report.sentence import report_sentence
from hourglass.report.statement import LENGTHS, ReportStatement
from hourglass.study.plans.departures import Departure


@pytest.fixture(scope="module")
def found(tmp_path_factory):
    """What a report of a made-up study is made from, by the name of the study."""

    def of(name, statement=None):
        study = made(name, tmp_path_factory.mktemp("data"))
        stated = statement or ReportStatement()
        return Gathering(study.results, PIECES, study.study, stated).now(no_progress)

    known = {}
    return lambda name: known[name] if name in known else known.setdefault(name, of(name))


def summary(found, **statement):
    return composed(found, ReportStatement(**statement), PIECES).pieces[0]


def answer(found):
    return " ".join(summary(found).running_text)


def sealed(before, *departures):
    at = datetime(2026, 1, 1, tzinfo=UTC)
    return SealedPlan(
        at=at,
        sha256="ab" * 32,
        here=True,
        placed=at,
        before=before,
        departures=departures,
        stages=frozenset(["compare"]),
    )


def test_a_large_p_is_not_worded_as_no_difference_and_the_test_is_planned_or_exploratory(found):
    two = found("two groups, everything opened")
    test = two.results["compare"].test
    assert test.p > 0.05
    text = answer(two)
    assert "leave open whether time to rejection differed" in text
    assert "no evidence that it did not" in text
    assert "exploratory, no plan having been sealed" in text
    assert "planned test" in answer(replace(two, sealed=sealed(True)))
    departs = Departure(about="Compare: test", planned="log-rank", now="Gehan", stage="compare")
    assert "departs from the sealed plan" in answer(replace(two, sealed=sealed(True, departs)))
    elsewhere = Departure(about="Model: terms", planned="age", now="none", stage="model")
    assert "planned test" in answer(replace(two, sealed=sealed(True, elsewhere)))
    assert "exploratory, no plan" in answer(replace(two, sealed=sealed(False)))


def test_medians_and_ratios_stand_side_by_side_with_the_numbers_of_the_stages(found):
    two = found("two groups, everything opened")
    (table,) = summary(two).tables
    compared, model = two.results["compare"], two.results["model"]
    lines = [dict(zip(table.keys, row, strict=True)) for row in table.values]
    assert [line["median"] for line in lines] == [c.median.time for c in compared.curves]
    ratio = model.terms[0].coefficients[0].adjusted
    assert [line["hazard_ratio"] for line in lines] == [None, ratio.ratio]
    assert f"was {ratio.shown} times that in arm extended" in answer(two)
    assert "adjusted for age per 10" in answer(two)


def test_a_ratio_that_changes_is_called_an_average(found):
    two = found("two groups, everything opened")
    check = two.results["check"]
    terms = [t.model_copy(update={"verdict": "fails", "course": "fades"}) for t in check.terms]
    results = {**two.results, "check": check.model_copy(update={"terms": terms})}
    assert "Averaged over follow-up, the rate of rejection" in answer(replace(two, results=results))
    assert "Averaged" not in answer(two)
    changes = replace(two, results=results)
    pieces = {p.key: p for p in composed(changes, ReportStatement(), PIECES).pieces}
    (tested,) = [t for t in pieces["checks"].tables if t.key == "checks"]
    assert tested.columns[1].cells[0].text == "fails: the ratio comes closer to 1 over time"


def test_without_groups_the_median_answers(found):
    one = found("one group")
    median = one.results["estimate"].curve.median
    assert f"median time to rejection was {median.worded(one.cohort.decimals)}" in answer(one)
    assert summary(one).tables == ()


def test_at_most_three_cautions_the_most_serious_first_and_of_one_kind_one(found):
    every = tuple(Caution(key=key, lead=key, sentence="") for key in reversed(GRAVEST))
    assert [c.key for c in most_serious(every)] == list(GRAVEST[:3])
    both = ("few at risk", "competing events: ratio", "competing events: curve")
    some = tuple(Caution(key=key, lead="", sentence="") for key in both)
    assert [c.key for c in most_serious(some)] == ["competing events: curve", "few at risk"]
    competing = found("competing causes")
    pieces = {p.key: p for p in composed(competing, ReportStatement(), PIECES).pieces}
    shown = [c.key for c in pieces["summary"].cautions]
    rest = [c.key for c in pieces["cautions"].cautions]
    assert shown
    assert rest
    assert not set(shown) & set(rest)
    alone = composed(competing, ReportStatement(left_out=("summary",)), PIECES).pieces
    assert not {"summary"} & {piece.key for piece in alone}


def test_a_longer_report_holds_the_pieces_of_a_shorter_one_and_left_out_ones_stay_left_out(found):
    two = found("two groups, everything opened")
    keys = [
        [p.key for p in composed(two, ReportStatement(length=length), PIECES).pieces]
        for length in LENGTHS
    ]
    assert keys[0] == ["summary"]
    assert set(keys[0]) < set(keys[1]) < set(keys[2])
    assert "session" in keys[2]
    assert "session" not in keys[1]
    short = ReportStatement(length="journal", left_out=("session", "baseline"))
    sentence = report_sentence(two, short, PIECES, ())
    assert "at journal length" in sentence.text
    slot = next(p.slot for p in sentence.parts if p.slot and p.slot.id == "pieces")
    assert "the program and its settings" not in [o.label for o in slot.options]
    back = next(o for o in slot.options if o.label == "the baseline table")
    assert back.value == ["session"]


def test_every_table_and_figure_is_referred_to_by_its_number(found):
    pieces = composed(found("two groups, everything opened"), ReportStatement(), PIECES).pieces
    numbers = [table.number for piece in pieces for table in piece.tables]
    assert numbers == list(range(1, len(numbers) + 1))
    for piece in (one for one in pieces if one.tables or one.figure):
        text = piece.running_text[-1]
        first, last = piece.tables[:1], piece.tables[-1:]
        for table in (*first, *last):
            assert str(table.number) in text.partition("show")[0].rpartition("Table")[2], piece.key
        if piece.figure is not None:
            assert f"Figure {piece.figure.number} show" in text, piece.key


def test_who_was_followed_and_what_was_observed_is_counted(found):
    competing, two = found("competing causes"), found("two groups, everything opened")
    n = competing.cohort
    counted = f"{n.events} events (rejection) were observed, {n.censored} were censored and "
    assert f"{counted}{n.competing} had a competing event." in answer(competing)
    assert "competing" not in answer(two)
    assert f"{two.cohort.events} events (rejection) were observed and" in answer(two)
    assert "events were observed" in answer(found("an event without a name"))
    note = summary(two).tables[0].note
    assert note.endswith("compare rates with those in arm extended, adjusted for age per 10.")
    strata = found("an eventless stratum")
    assert "; adjusted for age per 10; stratified by centre)" in answer(strata)
    assert "(stratified log-rank χ²" in answer(strata)


def test_rows_are_counted_from_those_read_to_those_analysed(found):
    pieces = {
        name: {p.key: p for p in composed(found(name), ReportStatement(), PIECES).pieces}["rows"]
        for name in ("one group", "a landmark and a closing date")
    }
    whole, some = (piece.running_text[0] for piece in pieces.values())
    assert whole == "60 rows were read from grafts.csv, and 60 were analysed."
    assert some.startswith(
        "160 rows were read from grafts.csv; 16 were set aside, and 144 were analysed. Table 2 shows"
    )
    (saved,) = pieces["one group"].in_files
    assert saved.key == "rows"


def test_who_is_in_the_groups_is_described_only_where_it_is_printed(tmp_path):
    study = made("two groups, everything opened", tmp_path)

    def described(**statement):
        stated = ReportStatement(**statement)
        return Gathering(study.results, PIECES, study.study, stated).now(no_progress).described

    assert described().rows
    assert described(left_out=("baseline",)) is None
    assert described(length="page") is None


def test_a_table_of_one_row_is_a_sentence_and_is_still_saved(found):
    made_of = composed(found("two groups, everything opened"), ReportStatement(), PIECES)
    pieces = {piece.key: piece for piece in made_of.pieces}
    (table,) = [t for t in pieces["contrasts"].in_files if t.title == "Ratio of medians"]
    ratio, limits = (c.cells[0].text for c in table.columns[1:] if c.head)
    sentence = f"Ratio of medians (standard against extended): ratio {ratio}, 95% CI {limits}."
    assert sentence in " ".join(pieces["contrasts"].running_text)
    assert table in made_of.tables
    assert table.key not in [t.key for t in pieces["contrasts"].tables]


def test_a_row_without_a_group_is_counted_and_tables_follow_the_sections(found):
    def piece(name, key):
        pieces = composed(found(name), ReportStatement(), PIECES).pieces
        return next(one for one in pieces if one.key == key)

    left = "1 row without a group was left out."
    assert left in piece("a row without a group", "groups").running_text[0]
    assert "left out" not in piece("two groups, everything opened", "groups").running_text[0]
    keys = [table.key for table in piece("five groups with long names", "contrasts").tables]
    assert keys == [
        "compare-mean",
        "compare-mean-1",
        "compare-mean-2",
        "compare-chosen-times",
        "compare-rates",
        "compare-medians",
    ]


def test_a_ratio_against_another_reference_or_within_a_level_is_none_of_the_groups(found):
    two = found("two groups, everything opened")
    model = two.results["model"]
    (own, *others) = model.terms

    def with_coefficient(**changes):
        one = own.coefficients[0].model_copy(update=changes)
        term = own.model_copy(update={"coefficients": [one]})
        changed = model.model_copy(update={"terms": [term, *others]})
        return replace(two, results={**two.results, "model": changed})

    for found_so in (
        with_coefficient(against="another level"),
        with_coefficient(label="standard, within centre Eskdene"),
    ):
        assert "times that in" not in answer(found_so)
        (table,) = summary(found_so).tables
        assert "hazard_ratio" not in table.keys
    assert "times that in" in answer(with_coefficient())
