"""Two data extracts side by side, and what a step would do, against plain counting."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.analysis.extract_comparison import compare_extracts
from hourglass.analysis.extract_numbers import OpenedStage, side_of
from hourglass.analysis.prepare.finding_views import open_findings
from hourglass.analysis.prepare.ledger import ledger
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.prepare.step_preview import preview_step
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import stage_of
from hourglass.cohort.condition import Clause, Condition
from hourglass.cohort.derive import derive
from hourglass.cohort.findings.find import find
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.proposal.propose import propose
from hourglass.cohort.statement import CodeMeaning
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.names import RenameColumn
from hourglass.cohort.steps.numbers import SplitNumber, Transform
from hourglass.cohort.steps.rows import SetAside, SetAsideWhere
from hourglass.cohort.steps.spread_counts import SpreadCounts
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.progress import no_progress
from hourglass.core.risk_table import risk_table
from hourglass.report.ledger_out import ledger_lines, ledger_svg, ledger_text
from making import table, timed

by_subject = st.dictionaries(
    st.integers(0, 14), st.tuples(st.integers(1, 9), st.integers(0, 1)), min_size=1, max_size=12
)


EVERY_STAGE = tuple(
    OpenedStage(stage, "", {}, {name: stage_of(STAGES, name) for name in stage.needs})
    for stage in STAGES
)


def side(rows):
    return side_of(rows, [])


@settings(max_examples=examples(80), deadline=None)
@given(by_subject, by_subject)
def test_rows_new_gone_and_changed_are_counted_by_subject(before, after):
    texts = [
        "id,t,s\n" + "".join(f"p{k},{t},{s}\n" for k, (t, s) in extract.items())
        for extract in (before, after)
    ]
    found = compare_extracts(
        side(table(texts[0])), side(table(texts[1])), timed(subject="id"), (), [], no_progress
    )
    assert found.new == len(set(after) - set(before))
    assert found.gone == len(set(before) - set(after))
    shared = set(before) & set(after)
    assert found.changed == sum(1 for k in shared if before[k] != after[k])
    cells = sum((before[k][j] != after[k][j]) for k in shared for j in (0, 1))
    assert len(found.changed_cells) == cells
    for cell in found.changed_cells:
        k, j = int(cell.who[1:]), ["t", "s"].index(cell.column)
        assert (cell.before, cell.after) == (str(before[k][j]), str(after[k][j]))
    headlines = {h.stage: (h.before, h.after) for h in found.headlines}
    assert headlines["Prepare"][1] == f"{len(after)} of {len(after)} rows kept"


def test_rows_whose_subject_is_blank_are_counted_like_others():
    one, two = table("id,t,s\na,1,1\n,2,0\n,3,0\n"), table("id,t,s\na,1,1\n,2,0\n,3,0\n,4,0\n")
    for before, after, new, gone in ((one, two, 1, 0), (two, one, 0, 1)):
        found = compare_extracts(
            side(before), side(after), timed(subject="id"), (), [], no_progress
        )
        assert (found.new, found.gone) == (new, gone)


def test_without_a_subject_rows_are_known_by_all_their_cells():
    one, two = table("t,s\n1,1\n2,0\n2,0\n"), table("t,s\n2,0\n1,1\n5,1\n")
    found = compare_extracts(side(one), side(two), timed(), (), [], no_progress)
    assert (found.known_by, found.new, found.gone, found.changed) == ("", 1, 1, 0)
    assert found.gone_rows == ["2, 0 (row 2)"]


def test_a_column_that_is_gone_is_stated_and_stages_that_need_it_too():
    one, two = table("id,t,s,g\na,1,1,x\nb,2,0,y\n"), table("id,t,h\na,1,x\nb,2,y\n")
    found = compare_extracts(
        side(one), side(two), timed(subject="id"), EVERY_STAGE, [], no_progress
    )
    assert (found.columns_gone, found.columns_new) == (["s", "g"], ["h"])
    headlines = {h.stage: h.after for h in found.headlines}
    assert headlines["Prepare"] == "There is no column called s."
    assert headlines["Model"] == "waits for Prepare"


def people_of(rows):
    """A data extract of rows by id: (time, status, group)."""
    return table("id,t,s,g\n" + "".join(f"{k},{t},{s},{g}\n" for k, (t, s, g) in rows.items()))


def test_each_number_is_shown_after_each_kind_of_change():
    rng = np.random.default_rng(4)
    old = {
        f"p{k}": (int(5 + rng.exponential(60)), int(rng.random() < 0.7), "ab"[k % 2])
        for k in range(60)
    }
    new = {k: v for k, v in old.items() if k not in ("p3", "p9", "p21")}
    new |= {k: (new[k][0] + 30, 1, "a") for k in list(new)[:9]}
    new |= {f"q{k}": (90 + k, 1, "b") for k in range(14)}
    kept = {k: v for k, v in old.items() if k in new}
    corrected = {k: v for k, v in new.items() if k in old}
    statement = timed(subject="id")
    found = compare_extracts(
        side(people_of(old)), side(people_of(new)), statement, EVERY_STAGE, [], no_progress
    )
    assert found.sides == [
        "now", "without the rows that are gone", "and with the cells that changed",
        "with the new data extract",
    ]  # fmt: skip
    shown = {(n.stage, n.name): n.texts for n in found.numbers}
    for k, rows in enumerate((old, kept, corrected, new)):
        cohort = form_cohort(people_of(rows), statement)
        for stage in EVERY_STAGE:
            for number in stage.on(cohort, no_progress)[1]:
                assert shown[stage.title, number.name][k] == number.text
        middle = quantile(survival_curve(risk_table(cohort.follow_up)), 0.5).time
        assert float(shown["Estimate", "median, months"][k].split(" ")[0]) == middle
    names = {name for _, name in shown}
    assert {"events", "median, g a", "p, log-rank", "hazard ratio, g: b", "p, g: b"} <= names
    assert len(set(shown["Estimate", "median, months"])) > 1


def test_one_kind_of_change_needs_no_step_between():
    old = {f"p{k}": (k + 1, k % 2, "ab"[k % 2]) for k in range(12)}
    more = old | {"q": (40, 1, "a")}
    found = compare_extracts(
        side(people_of(old)), side(people_of(more)), timed(subject="id"), (), [], no_progress
    )
    assert found.sides == ["now", "with the new data extract"]


def test_a_column_of_another_name_is_found_by_what_it_holds():
    old = {f"p{k}": (k + 1, k % 2, "ab"[k // 2 % 2]) for k in range(40)}
    one, two = people_of(old), people_of(old | {"q": (50, 1, "a")})
    named = two.take(np.arange(two.size))
    for was, now in (("g", "Group of plants"), ("t", "time")):
        named = RenameColumn(column=was, into=now).on(named).table
    found = compare_extracts(side(one), side(named), timed(subject="id"), (), [], no_progress)
    assert {(r.was, r.now) for r in found.renamed} == {("g", "Group of plants"), ("t", "time")}
    subject = RenameColumn(column="id", into="plant").on(two).table
    found = compare_extracts(side(one), side(subject), timed(subject="id"), (), [], no_progress)
    assert [(r.was, r.now) for r in found.renamed] == [("id", "plant")]


def test_a_step_that_breaks_on_the_new_export_is_named():
    step = SplitNumber(column="age", points=(50,))
    one = table("id,t,s,age\na,1,1,60\nb,2,0,40\n")
    two = table("id,t,s,age\na,1,1,old\nb,2,0,young\n")
    sides = [side_of(rows, [step]) for rows in (one, two)]
    found = compare_extracts(*sides, timed(subject="id"), (), ["lost one"], no_progress)
    assert found.broken == ["Split age at 50: age does not hold numbers"]
    assert found.not_found == ["lost one"]


@settings(max_examples=examples(60), deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(0, 20), st.integers(0, 1), st.integers(1, 4)), min_size=2, max_size=20
    )
)
def test_bands_of_a_export_are_shown_with_their_rows_and_events(rows):
    made = table(
        "t,s,n,x\n" + "".join(f"{k + 1},{s},{n},{x}\n" for k, (x, s, n) in enumerate(rows))
    )
    seen = preview_step(made, SplitNumber(column="x", points=(5, 12)), timed(count="n"))
    bands = {b.label: (b.rows, b.events) for b in seen.bands}
    for label, low, high in (("under 5", -1, 5), ("5 to under 12", 5, 12), ("12 and over", 12, 99)):
        own = [(s, n) for x, s, n in rows if low <= x < high]
        assert bands[label] == (len(own), sum(n for s, n in own if s == 1))
    blind = preview_step(made, SplitNumber(column="x", points=(5, 12)), timed(meanings={}))
    assert {b.events for b in blind.bands} == {None}, "no events while codes have no meaning"


def test_a_preview_shows_cells_that_change_first():
    made = table("t,s,g\n1,1,a\n2,0,b\n3,1,c\n")
    step = SetAsideWhere(
        condition=Condition(clauses=(Clause(column="t", test="over", values=("1",)),))
    )
    seen = preview_step(made, step, timed())
    assert (seen.rows_set_aside, seen.bands, seen.after) == (2, [], [])
    broken = preview_step(made, SplitNumber(column="g", points=(1,)), timed())
    assert (broken.broken, broken.column) == ("g does not hold numbers", "")


def ledger_of(rows, steps, statement):
    placed = [PlacedStep(step=s) for s in steps]
    after, effects = apply_steps(rows, steps)
    return ledger(
        rows, placed, effects, statement, form_cohort(after, statement), derive(after, statement)
    )


def test_the_ledger_follows_the_rows_through_layouts_and_the_statement():
    rows = table("t,died,left,n\n1,2,1,8\n2,0,3,5\n3,1,1,2\n")
    steps = [
        SpreadCounts(counts={"died": "1", "left": "0"}, time="t", at_risk="n"),
        SetAside(rows=(1,), why="pilot"),
    ]
    found = ledger_of(rows, steps, timed(outcome="ended", count="how many", landmark=2))
    assert [(line, left) for line, left in ledger_lines(found)] == [
        ("3 read", 3),
        ("Spread counts into rows: died as 1, left as 0: 5 rows", 5),
        ("−1 pilot", 4),
        ("−2 no longer at risk at 2 months", 2),
        ("2 analysed, standing for 2 subjects", 2),
    ]
    assert ledger_text(found).splitlines()[-1] == "2  2 analysed, standing for 2 subjects"
    assert ledger_svg(found).count("<rect") == 5


def test_rows_followed_less_long_by_decision_are_counted():
    found = ledger_of(table("t,s\n3,1\n7,1\n9,0\n"), [], timed(longest=5))
    assert found.ended_early == 2
    assert "2 rows followed less long, by decision" in ledger_text(found)


def test_a_kept_finding_opens_again_once_it_names_more_rows():
    rows = table("t,s,x\n" + "".join(f"{k + 1},{k % 2},{'' if k < 3 else k}\n" for k in range(12)))
    found = find(rows, timed())
    assert "missing: x" not in [f.key for f in open_findings(found, {"missing: x": 3})]
    assert "missing: x" in [f.key for f in open_findings(found, {"missing: x": 2})]


def test_what_is_odd_in_a_column_made_by_a_step_is_odd_by_intention():
    rows = table(
        "t,s,x\n" + "".join(f"{k + 1},{k % 2},{'' if k < 3 else k * 7 % 5}\n" for k in range(12))
    )
    tenth = Transform(column="x", by="per", per=10)
    found = prepare(rows, [PlacedStep(id=1, step=tenth)], timed(), {})
    assert [f.key for f in found.findings] == ["missing: x"]
    before = prepare(rows, [], timed(), {})
    assert [f.key for f in before.findings] == ["missing: x"]


def test_no_sentence_of_prepare_is_longer_than_can_be_read():
    long = [f"code {k} " + "x" * 3_000 for k in range(30)]
    rows = table("t,s,g\n" + "".join(f'{k},"{long[k]}","{long[k].upper()}"\n' for k in range(30)))
    found = prepare(rows, (), timed(meanings={long[0]: CodeMeaning(meaning="event")}), {})
    text = [f.title for f in found.findings] + [f.why for f in found.findings]
    text += [b.sentence for b in found.blocks]
    assert len(text) > 6
    assert max(map(len, text)) <= 700
    assert any(" more" in sentence for sentence in text)


def test_what_was_proposed_is_shown_with_its_reason_until_it_is_changed():
    rows = table("lamp,hours,failed\n" + "".join(f"l{k},{k * 9},{k % 2}\n" for k in range(20)))
    proposed = propose(rows)
    shown = {p.part: (p.value, p.because) for p in prepare(rows, (), proposed, {}).proposed}
    assert {part: value for part, (value, _) in shown.items()} == {
        "time": "hours", "unit": "hours", "outcome": "failed", "subject": "lamp",
    }  # fmt: skip
    assert shown["unit"][1] == "from the name of hours"
    changed = proposed.model_copy(update={"unit": "days"})
    assert "unit" not in {p.part for p in prepare(rows, (), changed, {}).proposed}


def test_a_table_without_an_outcome_is_shown_so_and_what_can_be_done():
    rows = table("hours,weight\n" + "".join(f"{k * 9},{k * 1.7}\n" for k in range(20)))
    (block,) = [b for b in prepare(rows, (), propose(rows), {}).blocks if b.slot == "outcome"]
    assert "all had the event" in block.sentence
