"""The methods section claims what is printed, no more and no less, by the keys of its claims."""

import ast
from dataclasses import replace
from datetime import UTC, date, datetime
from pathlib import Path

import pytest

import hourglass.report
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.result import CompareResult
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import DoublingTerm
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.shared.cohort_summary import summarise
from hourglass.core.progress import no_progress
from hourglass.report.claims.registry import CLAIMS, claims_of
from hourglass.report.composed import composed
from hourglass.report.formats.page import to_html
from hourglass.report.inputs import DataFile, ReportInputs, SealedPlan
from hourglass.report.pieces.groups import comparison_words
from hourglass.report.pieces.registry import PIECES
from hourglass.report.sentences import sentences, worded
from hourglass.report.statement import ReportStatement
from hourglass.study.plans.departures import Departure
from making import cohort, demo_cohort, demo_follow_up, demo_table
from stages import check, compare, estimate, model, part_of

median_ratios = part_of("compare", "medians")
other_weights = part_of("compare", "weights")

LARKMOOR = demo_cohort("larkmoor")
TERMS = ModelStatement(terms=(CategoryTerm(column="drops"),))
OF_FOLLOW_UP = {"time", "event", "censored", "competing events", "delayed entry"}
ALWAYS = {
    *OF_FOLLOW_UP,
    "software",
    "survival",
    "limits of survival",
    "limits of medians",
    "follow-up",
    "restricted means",
    "rates",
}
OF_CURVES = {*ALWAYS, "variance of survival"}
OF_GROUPS = {"planned", "test of groups", "chosen times", "rate ratios"}


FILE = DataFile(
    name="file.csv",
    sha256="ab" * 32,
    size=1234,
    rows=612,
    how_read="read as UTF-8",
    read_at=datetime(2026, 1, 2),
)


def findings(rows, estimated, **stages):
    """A report's findings: Estimate always, other stages by their statements."""
    prepared = prepare(demo_table("larkmoor"), [], demo_follow_up("larkmoor"), {})
    statements = {
        "estimate": estimated, "compare": CompareStatement(), "model": ModelStatement(),
        "check": CheckStatement(), **stages,
    }  # fmt: skip
    results = {"estimate": estimate(rows, estimated)}
    if "compare" in stages:
        results["compare"] = compare(rows, stages["compare"], estimated)
    if "model" in stages:
        results["model"] = model(rows, stages["model"])
    if "check" in stages:
        results["check"] = check(rows, statements["model"], stages["check"])
    return ReportInputs(
        study="A study", dated=date(2026, 1, 2), files=(FILE,),
        prepare=replace_findings(prepared), cohort=summarise(rows),
        follow_up=rows.statement,
        results=results, statements=statements, described=None, decisions=(),
    )  # fmt: skip


def replace_findings(prepared, left=()):
    return prepared.model_copy(update={"findings": list(left)})


def test_every_key_is_there_once():
    assert len({claim.key for claim in CLAIMS}) == len(CLAIMS)


@pytest.mark.parametrize(
    ("changes", "claimed"),
    [({}, OF_CURVES), ({"estimator": "Nelson–Aalen"}, ALWAYS), ({"intervals": "none"}, OF_CURVES)],
)
def test_curves_claim_their_estimator_and_what_is_read_of_them(changes, claimed):
    found = findings(LARKMOOR, EstimateStatement(times=(12,), **changes))
    claims = claims_of(found)
    assert set(claims) == claimed
    name = "Kaplan–Meier method" if claimed == OF_CURVES else "exp(−H)"
    assert name in claims["survival"].words
    assert (
        "pointwise 95% confidence intervals on the log–log scale"
        in claims["limits of survival"].words
    )


def test_a_band_is_claimed_where_it_is_and_refused_where_it_is_not():
    stated = EstimateStatement(intervals="equal precision")
    banded = claims_of(
        findings(cohort("t,s\n" + "".join(f"{k},{k % 2}\n" for k in range(1, 40))), stated)
    )
    assert "95% simultaneous bands (equal precision)" in banded["limits of survival"].words
    assert "bands refused" not in banded
    late = "t,s,e\n" + "".join(f"{k},{k % 2},{k / 2}\n" for k in range(1, 40))
    refused = claims_of(findings(cohort(late, late_entry="e"), stated))
    assert "pointwise" in refused["limits of survival"].words
    assert "not known with delayed entry" in refused["bands refused"].words


def test_variables_tested_in_turn_are_claimed_with_their_strata_and_what_is_not_split():
    def claimed(**stated):
        compare = CompareStatement.model_validate({"each": True, **stated})
        return claims_of(findings(LARKMOOR, EstimateStatement(), compare=compare))[
            "test of groups"
        ].words

    assert claimed().startswith(
        "Each variable in turn was tested by the log-rank test, the p-values"
    )
    variables = [{"column": "vessels"}, {"column": "age", "split": "as it is"}]
    words = claimed(variables=variables, within=["centre"])
    assert "stratified by centre, the p-values" in words
    assert words.endswith("; age was not split, but tested by the score test of a hazards model")


def test_tests_of_groups_are_claimed_as_they_are_printed():
    stated = EstimateStatement(times=(12,))
    statement = CompareStatement(by="drops", within=("vessels",), pairs="all")
    found = findings(LARKMOOR, stated, compare=statement)
    statements = {"estimate": stated, "compare": statement}
    whole = replace(
        found,
        results={
            **found.results,
            "compare/weights": other_weights(LARKMOOR, statements, no_progress),
            "compare/medians": median_ratios(LARKMOOR, statements, no_progress),
        },
    )
    tests = (
        {"incidence not tested"}
        if "incidence not tested" in claims_of(whole)
        else {"test of incidence"}
    )
    expected = {
        *OF_CURVES,
        *OF_GROUPS,
        *tests,
        "other weights",
        "combined weights",
        "ratio of medians",
    }
    assert set(claims_of(whole)) == expected
    assert "stratified by vessels" in claims_of(whole)["test of groups"].words
    compared = whole.result("compare", CompareResult)
    assert compared is not None
    words = comparison_words(compared, statement)
    assert "did not differ within vessels (stratified log-rank χ²" in words
    left_out = replace(whole, left_out=frozenset({"weights", "contrasts", "tests", "estimates"}))
    rest = {
        *OF_FOLLOW_UP,
        "planned",
        "software",
        "test of groups",
        "survival",
        "variance of survival",
        "limits of survival",
        "limits of medians",
    }
    assert set(claims_of(left_out)) == {*rest, "follow-up"}


def test_a_comparison_that_cannot_be_made_is_a_sentence_and_no_claim_of_a_test():
    found = findings(LARKMOOR, EstimateStatement(), compare=CompareStatement(by="gone"))
    claims = claims_of(found)
    assert "test of groups" not in claims
    assert claims["test not made"].words.startswith("The comparison could not be made: there is no")
    page = to_html(composed(found, ReportStatement(), PIECES))
    assert "The comparison could not be made. There is no column “gone” now" in page


def test_a_model_claims_its_checks_only_where_they_were_made():
    unchecked = claims_of(findings(LARKMOOR, EstimateStatement(), model=TERMS))
    assert unchecked["proportional hazards not checked"].words.endswith("was not checked")
    assert "proportional hazards tested" not in unchecked
    checked = claims_of(
        findings(LARKMOOR, EstimateStatement(), model=TERMS, check=CheckStatement())
    )
    assert "proportional hazards tested" in checked
    assert "proportional hazards not checked" not in checked
    exact = TERMS.model_copy(update={"ties": "exact"})
    refused = claims_of(
        findings(LARKMOOR, EstimateStatement(), model=exact, check=CheckStatement())
    )
    assert "could not be checked" in refused["proportional hazards not checked"].words


def test_undecided_findings_stand_in_the_report_above_all_else_stated_of_decisions():
    left = prepare(demo_table("larkmoor"), [], demo_follow_up("larkmoor"), {}).findings
    assert len(left) > 1
    found = findings(LARKMOOR, EstimateStatement())
    found = replace(found, prepare=replace_findings(found.prepare, left))
    page = to_html(composed(found, ReportStatement(), PIECES))
    assert f"{len(left)} findings were not decided: {left[0].title}" in page
    assert "No decisions were recorded" not in page
    decided = to_html(composed(findings(LARKMOOR, EstimateStatement()), ReportStatement(), PIECES))
    assert "No decisions were recorded" in decided


def words_of(rows):
    return {key: one.words for key, one in claims_of(findings(rows, EstimateStatement())).items()}


def test_follow_up_is_described_in_the_past_tense_with_its_codes():
    words = words_of(LARKMOOR)
    assert {key: words[key] for key in OF_FOLLOW_UP} == {
        "time": "Grafts were followed from grafted_on to last_seen, in months",
        "event": "The event, rejection, was coded “R” in outcome",
        "censored": "Follow-up that ended with “A” or “L” was censored",
        "competing events": "Death with a clear graft (“D”) was a competing event",
        "delayed entry": "Grafts were at risk only from joined_on on (delayed entry)",
    }


def test_whatever_else_follow_up_rests_on_is_described():
    rows = cohort(
        "t,s,n\n0,1,2\n3,0,1\n5,1,1\n9,0,4\n12,1,2\n",
        count="n", longest=10, landmark=1, zero_moved_to=2.5, rows_are="valves",
    )  # fmt: skip
    words = words_of(rows)
    assert words["time"] == "Valves were followed for the time in t, in months"
    assert words["event"] == "The event was coded “1” in s"
    assert words["frequency weights"] == "Each row was weighted by n (frequency weights)"
    assert words["administrative censoring"].endswith("administratively at 10 months")
    assert words["times of 0"] == "Times of 0 were set to 2.5 months"
    assert words["landmark"].startswith("Only valves at risk at the landmark of 1 month were")
    assert "competing events" not in words


def test_what_was_planned_missing_and_used_is_claimed():
    found = findings(LARKMOOR, EstimateStatement(), model=TERMS)
    none = {key: one.words for key, one in claims_of(found).items()}
    assert none["planned"] == "No plan of the analysis had been sealed before the data were read"
    assert "missing values" not in none
    assert none["software"].startswith("All numbers were computed with Olden Hourglass")
    cells = ModelStatement(terms=(DoublingTerm(column="donor_cells"),))
    missing = claims_of(findings(LARKMOOR, EstimateStatement(), model=cells))["missing values"]
    assert missing.words == "Of grafts with a missing value of a term none was part of the model"
    at = datetime(2026, 1, 1, tzinfo=UTC)
    plan = SealedPlan(at=at, sha256="", here=True, placed=at, before=True, departures=())
    sealed = claims_of(replace(found, sealed=plan))["planned"].words
    assert sealed == (
        "The analysis was planned: its plan was sealed on 1 January 2026, before the data were read, and "
        "nothing departs from it"
    )
    departs = Departure(about="File", planned="a", now="b")
    later = replace(plan, before=False, departures=(departs,))
    assert claims_of(replace(found, sealed=later))["planned"].words == (
        "The plan of the analysis was sealed on 1 January 2026, after the data had been read; what departs "
        "from it is listed"
    )


def test_every_sentence_of_the_template_files_is_used_and_every_one_that_is_used_is_there():
    used = {}
    for file in Path(hourglass.report.__file__).parent.rglob("*.py"):
        tree = ast.parse(file.read_text("utf-8"))
        used |= {n.value: file for n in ast.walk(tree) if isinstance(n, ast.Constant)}
    for name in ("methods", "summary", "rows"):
        for key, sentence in sentences(name).items():
            assert key in used, (name, key)
            assert sentence, (name, key)
    with pytest.raises(KeyError):
        worded("methods", "landmark", time="1 month")
