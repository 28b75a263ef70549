import numpy as np
import pytest

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.design import UnusableTermError, design
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import DoublingTerm, NumberTerm
from hourglass.analysis.model.workings import hazard_ratio_workings
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.shared.cautions import few_events, thin_from
from hourglass.analysis.shared.groups import categories, group_by
from hourglass.analysis.shared.verdict import verdict
from hourglass.analysis.shared.workings import NoWorkingsError
from hourglass.cohort.followup import Cohort
from hourglass.cohort.statement import CodeMeaning
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.errors import NotEstimableError
from hourglass.core.progress import CancelledError, no_progress
from hourglass.core.risk_table import AtRisk
from making import (
    MEANINGS,
    STUDY,
    cohort,
    demo_cohort,
    demo_follow_up,
    demo_table,
    marks_of,
    table,
    timed,
    timed_table,
)
from stages import check, compare, estimate, model, part_of

term_tests = part_of("model", "terms")

LARKMOOR = demo_cohort("larkmoor")


def simulated(n=300, seed=4, censored=0.3):
    rng = np.random.default_rng(seed)
    g, x = rng.integers(0, 2, n), rng.normal(50, 10, n).round(1)
    t = np.ceil(rng.exponential(20 / np.exp(0.8 * g + 0.03 * (x - 50)))) + 1
    s = (rng.random(n) > censored).astype(int)
    lines = [f"{a:g},{b},{'ab'[c]},{d}" for a, b, c, d in zip(t, s, g, x)]
    return "t,s,g,x\n" + "\n".join(lines) + "\n"


def actions(result):
    blocks = [block for section in result.sections for block in section.blocks]
    return [block for block in blocks if block.kind == "action"]


def keys(result):
    return [c.key for c in result.cautions]


class TestEstimate:
    def test_figure_and_readings_show_the_same_curve(self):
        found = estimate(LARKMOOR, EstimateStatement(times=(12, 24)))
        survival, at_risk = (found.figure.track(id) for id in ("survival", "at_risk"))
        (line,) = marks_of(survival, "line")
        curve, numbers = timed_table(found).series
        assert (line.x[1:] == curve.time).all()
        assert (line.y[1:] == curve.columns[0]).all()
        assert line.end == curve.end == found.curve.last == found.figure.high
        assert (at_risk.counts[0].number == numbers.columns[0]).all()
        assert (found.figure.time.events.time == curve.time).all()
        assert found.figure.name == found.sentence.text

    def test_censoring_marks_stand_on_the_curve(self):
        found = estimate(LARKMOOR, EstimateStatement())
        marks, quartiles = marks_of(found.figure.tracks[0], "points")
        assert (marks.glyph, quartiles.glyph) == ("tick", "ring")
        curve = timed_table(found).series[0]
        for t, y in zip(marks.x, marks.y):
            before = [s for u, s in zip(curve.time, curve.columns[0]) if u <= t]
            assert y == (before[-1] if before else 1.0)

    def test_a_time_past_the_end_is_not_read(self):
        found = estimate(cohort("t,s\n1,1\n5,0\n"), EstimateStatement(times=(4, 6)))
        inside, outside = found.curve.points
        assert inside.survival == 0.5
        assert (outside.survival, outside.lower, outside.at_risk) == (None, None, 0)

    def test_cautions_are_given_where_they_matter(self):
        assert keys(estimate(LARKMOOR, EstimateStatement())) == [
            "competing events: curve",
            "few at risk",
        ]
        plain = cohort("t,s\n" + "5,0\n" * 20 + "5,1\n")
        assert keys(estimate(plain, EstimateStatement())) == []
        late = cohort("t,s,e\n3,1,\n" + "9,0,5\n" * 30, late_entry="e")
        assert "late entry" in keys(estimate(late, EstimateStatement()))

    def test_nobody_with_the_event_is_still_an_answer(self):
        found = estimate(cohort("t,s\n1,0\n2,0\n"), EstimateStatement(times=(1,)))
        assert found.headline == "median not reached"
        assert found.curve.points[0].survival == 1.0
        assert found.figure.time.events.time.size == 0

    def test_the_summary_counts_everything(self):
        c = estimate(LARKMOOR, EstimateStatement()).cohort
        assert (c.rows, c.events, c.censored, c.competing) == (600, 270, 257, 73)
        assert c.line.startswith("Following 600 grafts to rejection, in months · 270 events")

    def test_cancelling_stops_the_work(self):
        def cancelled(what, share):
            raise CancelledError

        with pytest.raises(CancelledError):
            estimate(LARKMOOR, EstimateStatement(), cancelled)


class TestCompare:
    def test_rows_without_a_group_are_left_out_and_counted(self):
        rows = cohort("t,s,g\n1,1,a\n2,1,b\n3,1,\n4,0,a\n5,0,b\n")
        found = compare(rows, CompareStatement(by="g"))
        assert found.left_out == 1
        assert sum(g.observed for g in found.groups) == 2

    def test_the_reference_is_first_in_everything(self):
        found = compare(LARKMOOR, CompareStatement(by="vessels", reference="none"))
        assert [c.label for c in found.curves] == ["none", "1-2 quadrants", "3-4 quadrants"]
        assert [g.label for g in found.groups] == [c.label for c in found.curves]
        assert [c.tone for c in found.curves] == [0, 1, 2]
        assert found.test.df == 2
        tracks = {t.id: t for t in found.figure.tracks}
        assert tracks["difference"].subtitle.startswith("1-2 quadrants − none")
        assert [line.tone for line in marks_of(tracks["evidence"], "line")] == [0, 1, 2]

    def test_the_contrast_is_drawn_when_chosen(self):
        stated = CompareStatement(by="vessels", reference="none", contrast="3-4 quadrants")
        found = compare(LARKMOOR, stated)
        (track,) = [t for t in found.figure.tracks if t.id == "difference"]
        assert track.subtitle.startswith("3-4 quadrants − none")

    def test_two_groups_show_the_evidence_of_the_reference_only(self):
        found = compare(LARKMOOR, CompareStatement(by="drops", reference="standard"))
        (track,) = [t for t in found.figure.tracks if t.id == "evidence"]
        (line,) = marks_of(track, "line")
        excess = found.groups[0].observed - found.groups[0].expected
        assert line.y[-1] == pytest.approx(excess)

    def test_without_a_category_the_question_stays_open(self):
        for rows, stated in (
            (cohort("t,s\n1,1\n"), CompareStatement()),
            (cohort("t,s,g\n1,1,a\n2,0,a\n"), CompareStatement(by="g")),
            (cohort("t,s,g\n1,1,a\n2,0,b\n"), CompareStatement(by="gone")),
        ):
            found = compare(rows, stated)
            gone = "no column “gone” now"
            shown = {None: "Choose a category", "gone": gone}.get(stated.by, "nothing to compare")
            assert shown in found.blank
            assert found.figure is None
            assert found.headline == "no category chosen"

    def test_no_test_has_a_reason(self):
        rows = cohort("t,s,g\n1,0,a\n2,0,b\n")
        found = compare(rows, CompareStatement(by="g"))
        assert found.test.p is None
        assert found.test.blank
        assert found.headline == "no test"


class TestGroups:
    def test_few_numbers_form_groups_named_in_full(self):
        rows = cohort("t,s,x,y\n1,1,0,1.5\n2,0,1,2\n3,1,1,\n4,0,,3\n")
        groups = group_by(rows.table, "x", "x 1")
        assert groups.labels == ("x 1", "x 0"), "never a bare 0 or 1"
        assert groups.code.tolist() == [1, 0, 0, -1]
        assert categories(rows) == ["x", "y"]

    def test_an_unknown_reference_leaves_the_order(self):
        assert group_by(table("g\nb\na\n"), "g", "zzz").labels == ("a", "b")


class TestModel:
    def test_adjusted_and_alone_come_from_the_same_rows(self):
        stated = ModelStatement(
            terms=(
                CategoryTerm(column="drops", reference="standard"),
                DoublingTerm(column="donor_cells"),
            )
        )
        found = model(LARKMOOR, stated)
        assert (found.rows, found.rows_left_out) == (583, 17)
        assert [(o.column, o.rows) for o in found.left_out] == [("donor_cells", 17)]
        alone = ModelStatement(terms=(stated.terms[0],))
        known = ~LARKMOOR.table.column("donor_cells").missing
        same = Cohort(
            LARKMOOR.table.take(np.flatnonzero(known)),
            LARKMOOR.follow_up.only(known),
            LARKMOOR.statement,
            LARKMOOR.decimals,
            LARKMOOR.competing,
        )
        by_itself = model(same, alone).terms[0].coefficients[0].adjusted
        shown = found.terms[0].coefficients[0].alone
        assert shown.ratio == pytest.approx(by_itself.ratio, rel=1e-9)

    def test_leaving_a_term_out_is_the_likelihood_ratio(self):
        rows = cohort(simulated())
        both = (CategoryTerm(column="g", reference="a"), NumberTerm(column="x", unit=10))
        found = model(rows, ModelStatement(terms=both))
        without = model(rows, ModelStatement(terms=both[:1]))
        lost = without.minus_two_log_likelihood - found.minus_two_log_likelihood
        tested = term_tests(
            rows, {**STUDY, "model": ModelStatement(terms=both)}, no_progress
        ).tests[1]
        assert tested.statistic == pytest.approx(lost, rel=1e-9)
        assert tested.df == 1

    def test_a_unit_multiplies_the_coefficient(self):
        rows = cohort(simulated())
        one, ten = (
            model(rows, ModelStatement(terms=(NumberTerm(column="x", unit=u),))).terms[0]
            for u in (1, 10)
        )
        assert ten.coefficients[0].adjusted.beta == pytest.approx(
            10 * one.coefficients[0].adjusted.beta, rel=1e-9
        )
        assert ten.coefficients[0].against == "per 10"

    def test_the_words_speak_of_rates(self):
        terms = (
            CategoryTerm(column="g", reference="a"),
            NumberTerm(column="x", unit=10),
            DoublingTerm(column="x"),
        )
        words = model(cohort(simulated()), ModelStatement(terms=terms)).words
        assert "times as high in rows with g b as in those with a (95% CI" in words[0]
        assert "for each increase of x by 10 and" in words[1]
        assert words[1].endswith("for each doubling of x.")
        assert not any(w in " ".join(words) for w in ("probab", "chance", "risk", "likely"))

    def test_a_level_without_events_is_shown_and_bounded(self):
        text = simulated(120, seed=8)
        none = "".join(f"{k + 5},0,c,50\n" for k in range(12))
        found = model(
            cohort(text + none), ModelStatement(terms=(CategoryTerm(column="g", reference="a"),))
        )
        b, c = found.terms[0].coefficients
        assert b.adjusted.ratio is not None
        assert c.adjusted.ratio is None
        assert "falls to 0" in c.adjusted.note
        assert 0 < c.adjusted.upper < 2
        assert c.adjusted.lower is None
        assert found.tests[1].blank == "a coefficient runs to infinity"
        assert len(found.words) == 1

    def test_a_repeated_term_is_named_and_left_out(self):
        terms = (NumberTerm(column="x", unit=1), NumberTerm(column="x", unit=10))
        rows, stated = cohort(simulated()), ModelStatement(terms=terms)
        second = model(rows, stated).terms[1]
        assert "determined by the columns before it" in second.coefficients[0].adjusted.note
        tested = term_tests(rows, {**STUDY, "model": stated}, no_progress).tests[1]
        assert tested.blank == "it adds nothing to the other terms"

    @pytest.mark.parametrize(
        ("terms", "reason"),
        [
            ((), "add a term"),
            ((NumberTerm(column="g"),), "does not hold numbers"),
            ((DoublingTerm(column="neg"),), "not positive"),
            ((CategoryTerm(column="one", reference="k"),), "fewer than two levels"),
            ((NumberTerm(column="gone"),), "no column called"),
            ((NumberTerm(column="nothing"),), "does not hold numbers"),
            ((CategoryTerm(column="id", reference="n0"),), "70 levels; at most 60"),
        ],
    )
    def test_a_model_that_cannot_be_gives_the_reason(self, terms, reason):
        lines = [f"{k + 1},{k % 2},{'ab'[k % 2]},{k % 3 - 1},k,,n{k}" for k in range(70)]
        rows = cohort("t,s,g,neg,one,nothing,id\n" + "\n".join(lines) + "\n")
        found = model(rows, ModelStatement(terms=terms))
        assert reason in found.blank
        assert found.terms == []

    def test_no_events_is_a_reason_too(self):
        rows = cohort("t,s,x\n1,0,1\n2,0,2\n")
        assert "no event" in model(rows, ModelStatement(terms=(NumberTerm(column="x"),))).blank

    def test_cautions(self):
        many = (NumberTerm(column="x"), CategoryTerm(column="g", reference="a"))
        assert "few events" in keys(model(cohort(simulated(25)), ModelStatement(terms=many)))
        vessels = ModelStatement(terms=(CategoryTerm(column="vessels", reference="none"),))
        assert keys(model(LARKMOOR, vessels)) == ["not proportional", "competing events: ratio"]
        assert few_events(100, 10) == []
        assert few_events(99, 10)[0].sentence.startswith("99 events for 10 coefficients")

    def test_workings_only_of_what_was_estimated(self):
        rows = cohort(simulated())
        fitted = fit_model(rows, ModelStatement(terms=(NumberTerm(column="x"),)))
        with pytest.raises(NoWorkingsError):
            hazard_ratio_workings(fitted, 1, 0.95)

    def test_rows_complete_for_no_term_are_refused(self):
        rows = cohort("t,s,x,y\n1,1,1,\n2,1,,2\n3,0,3,\n4,1,,5\n")
        with pytest.raises(UnusableTermError, match="no row"):
            design(rows, ModelStatement(terms=(NumberTerm(column="x"), NumberTerm(column="y"))))

    def test_an_empty_model_is_not_fitted(self):
        with pytest.raises(NotEstimableError):
            fit_model(cohort("t,s\n1,1\n"), ModelStatement())


class TestCheck:
    STATED = ModelStatement(
        terms=(CategoryTerm(column="vessels", reference="none"), NumberTerm(column="age", unit=10))
    )

    def test_each_coefficient_has_a_track_with_all_its_events(self):
        found = check(LARKMOOR, self.STATED, CheckStatement())
        ids = [t.id for t in found.figure.tracks]
        assert ids == ["ratio-0", "ratio-1", "ratio-2", "log-log", "observed-predicted"]
        for track in found.figure.tracks[:3]:
            (dots,) = marks_of(track, "points")
            outside = int(track.note.split()[0]) if "beyond" in track.note else 0
            assert len(dots.x) + outside == 270
            assert all(track.axis.low <= y <= track.axis.high for y in dots.y)
            (rule,) = marks_of(track, "rule")
            assert track.axis.low < rule.at < track.axis.high
            assert len(set(dots.rows)) == len(dots.x), "every dot is a row of its own"

    def test_doubt_brings_remedies_and_a_mark(self):
        found = check(LARKMOOR, self.STATED, CheckStatement())
        assert [t.verdict for t in found.terms] == ["fails", "holds"]
        assert found.verdict == "fails"
        assert found.questions[0].words == "1 fails, of 2 terms"
        offered = actions(found)
        assert [(a.do, a.stage) for a in offered] == [
            ("decide", "check"), ("state", "model"), ("state", "model"), ("state", "model"),
            ("state", "compare"),
        ]  # fmt: skip
        assert all("vessels" in a.sentence for a in offered)

    def test_no_doubt_brings_none(self):
        age = ModelStatement(terms=(NumberTerm(column="age", unit=10),))
        found = check(LARKMOOR, age, CheckStatement(time_function="rank"))
        assert found.questions[0].words == "no ratio in doubt"
        assert actions(found) == []

    def test_what_cannot_be_checked_gives_the_reason(self):
        zero = cohort("t,s,x\n0,1,1\n2,1,2\n3,1,1\n4,0,2\n")
        stated = ModelStatement(terms=(NumberTerm(column="x"),))
        assert "time 0" in check(zero, stated, CheckStatement(time_function="log time")).blank
        assert "add a term" in check(zero, ModelStatement(), CheckStatement()).blank

    def test_a_single_event_time_leaves_the_verdict_open(self):
        rows = cohort("t,s,x\n1,1,1\n1,1,3\n2,0,2\n2,0,5\n")
        found = check(rows, ModelStatement(terms=(NumberTerm(column="x"),)), CheckStatement())
        assert found.terms[0].verdict == "unknown"
        assert "too few different times" in found.terms[0].test.blank

    def test_verdicts(self):
        text = [verdict(p) for p in (None, 0.05, 0.049, 0.01, 0.009)]
        assert text == ["unknown", "holds", "in doubt", "in doubt", "fails"]


class TestPrepare:
    def test_the_ledger_adds_up(self):
        meanings = {**MEANINGS, "2": CodeMeaning(meaning="set aside")}
        rows = table("t,s\n1,1\n2,2\n3,0\n4,0\n")
        steps = [SetAside(rows=(3,), why="a child")]
        placed = [PlacedStep(step=step) for step in steps]
        found = prepare(rows, placed, timed(meanings=meanings), {})
        ledger = found.ledger
        assert ledger.read - sum(loss.rows for loss in ledger.lost) == ledger.analysed == 2
        assert [(loss.why, loss.rows) for loss in ledger.lost] == [("a child", 1), ("s is 2", 1)]
        assert found.headline == "2 of 4 rows kept"

    def test_blocks_are_counted_while_there_are_any(self):
        found = prepare(demo_table("larkmoor"), [], demo_follow_up("larkmoor"), {})
        assert found.ledger.analysed is None
        assert found.headline == "2 things to decide"
        assert len(found.findings) == 7

    def test_kept_findings_do_not_come_back(self):
        kept = {"missing: donor_cells": 17}
        found = prepare(demo_table("larkmoor"), [], demo_follow_up("larkmoor"), kept)
        assert "missing: donor_cells" not in [f.key for f in found.findings]

    def test_the_lines_are_a_faithful_sample(self):
        figure = prepare(demo_table("larkmoor"), [], demo_follow_up("larkmoor"), {}).figure
        (track,) = figure.tracks
        (lines,) = marks_of(track, "bars")
        assert list(lines.high) == sorted(lines.high, reverse=True)
        assert "56 of 606 rows" in figure.note
        ends = {mark.label: mark for mark in marks_of(track, "points")}
        assert ends.keys() == {"event", "competing", "censored"}
        for mark in ends.values():
            assert (lines.high[mark.y.astype(int)] == mark.x).all(), (
                "an ending stands at its line's end"
            )
        late = prepare(table("t,s,e\n9,1,3\n8,7,\n"), [], timed(late_entry="e"), {}).figure
        (lines,) = marks_of(late.tracks[0], "bars")
        assert [(a, b) for a, b in zip(lines.low, lines.high, strict=True)] == [(3, 9), (0, 8)]
        shown = [(m.label, list(m.y)) for m in marks_of(late.tracks[0], "points")]
        assert shown == [("delayed entry", [0]), ("event", [0]), ("without a meaning", [1])]

    def test_columns_know_the_part_they_play(self):
        found = prepare(demo_table("larkmoor"), [], demo_follow_up("larkmoor"), {})
        roles = {c.name: c.role for c in found.columns if c.role}
        assert roles == {
            "graft_no": "subject",
            "grafted_on": "start",
            "last_seen": "end",
            "outcome": "outcome",
            "joined_on": "delayed entry",
        }


def test_followed_thinly_is_for_good():
    def at(numbers):
        numbers = np.array(numbers)
        return thin_from(AtRisk(np.arange(1.0, numbers.size + 1), numbers))

    assert at([20, 15, 12]) is None
    assert at([20, 12, 9, 3]) == 2.0
    assert at([4, 2]) == 0.0
    assert at([3, 12, 20, 5]) == 3.0, "late entry can fill a thin start"


def test_a_term_that_repeats_another_is_shown_and_the_others_are_checked():
    lines = simulated().splitlines()
    twice = "\n".join(
        [lines[0] + ",y", *(f"{line},{2 * float(line.split(',')[3]):g}" for line in lines[1:])]
    )
    stated = ModelStatement(
        terms=(NumberTerm(column="x"), NumberTerm(column="y"), CategoryTerm(column="g"))
    )
    found = check(cohort(twice), stated, CheckStatement(), no_progress)
    assert [t.verdict for t in found.terms][1] == "unknown"
    assert "left out" in found.terms[1].words
    assert found.together.df == 2
    assert len(found.figure.tracks) >= 2
    assert "NaN" not in found.model_dump_json()
