"""Whatever honest table comes in, every stage answers: with numbers, or with a reason."""

import contextlib
import json
import math
from datetime import date

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.groups import comparison
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.workings import log_rank_workings
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import DoublingTerm, NumberTerm
from hourglass.analysis.model.workings import hazard_ratio_workings
from hourglass.analysis.prepare.describe import describe
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.analysis.shared.curve_workings import quantile_workings, survival_workings
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.rows import SetAside
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.report.composed import composed
from hourglass.report.formats.page import to_html
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.registry import PIECES
from hourglass.report.statement import ReportStatement
from making import default_statement, table, timed, timed_table
from stages import check, compare, estimate, model

TERMS = (
    CategoryTerm(column="g", reference="a"),
    NumberTerm(column="x", unit=2.5),
    NumberTerm(column="y"),
    DoublingTerm(column="x"),
)

times = st.one_of(
    st.integers(0, 9).map(str),
    st.floats(0, 1e7, allow_nan=False).map(lambda v: f"{v:.4g}"),
    st.sampled_from(["0", "1e-7", "1e6", "", "-3", "2.5"]),
)
row = st.tuples(
    times,
    st.sampled_from(["0", "1", "1", "2", "", "7"]),
    st.sampled_from(["a", "b", "c", "A ", ""]),
    st.sampled_from(["1", "2", "1e9", "0.001", "-4", ""]),
    st.sampled_from(["5", "5", "6", "1e-9", ""]),
    st.sampled_from(["", "", "0.5", "3", "100"]),
)


def tables():
    return st.lists(row, min_size=1, max_size=25).map(
        lambda rows: "t,s,g,x,y,e\n" + "".join(",".join(r) + "\n" for r in rows)
    )


def without_nan(value):
    """No NaN and no infinity anywhere: JSON could not hold them, and nobody could read them."""
    text = json.dumps(value.model_dump(mode="json"), allow_nan=False)
    assert "NaN" not in text
    assert "Traceback" not in text
    return value


def usable(text, late):
    """The cohort left when all that blocks has been set aside."""
    statement = timed(late_entry="e" if late else None)
    rows = table(text)
    for _ in range(9):
        formed = form_cohort(rows, statement)
        if isinstance(formed, Cohort):
            return formed
        gone = [n for block in formed for n in block.rows]
        if not gone:
            codes = rows.column("s") if rows.has("s") else None
            known = [] if codes is None else [codes.cell(k) in "012" for k in range(rows.size)]
            known = [bool(k and codes.cell(i)) for i, k in enumerate(known)]
            if not any(known) or all(known):
                return None
            rows = rows.take(np.flatnonzero(known))
        else:
            rows = rows.without(gone)
    return None


anything = settings(
    max_examples=examples(40),
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)


@anything
@given(tables(), st.booleans())
def test_prepare_answers_for_any_table(text, late):
    statement = timed(late_entry="e" if late else None)
    found = without_nan(prepare(table(text), [], statement, {}))
    assert (found.ledger.analysed is None) == bool(found.blocks)
    for finding in found.findings:
        assert finding.choices or finding.picture


@anything
@given(tables(), st.booleans())
def test_every_stage_answers_for_any_cohort(text, late):
    cohort = usable(text, late)
    if cohort is None:
        return
    first = default_statement("estimate", cohort)
    estimated = without_nan(estimate(cohort, first))
    assert estimated.cohort.rows == cohort.follow_up.size
    survival = [s for s in timed_table(estimated).series[0].columns[0] if s is not None]
    assert survival == sorted(survival, reverse=True)
    compared = without_nan(compare(cohort, CompareStatement(by="g"), first))
    if compared.blank is None:
        assert (compared.test.p is None) == (compared.test.blank is not None)
    for terms in (TERMS, TERMS[:1], TERMS[1:2], ()):
        stated = ModelStatement(terms=terms)
        fitted = without_nan(model(cohort, stated))
        checked = without_nan(check(cohort, stated, CheckStatement()))
        if fitted.blank is None:
            for term in fitted.terms:
                for c in term.coefficients:
                    one = c.adjusted
                    assert (one.ratio is None) == bool(one.note)
                    if one.ratio is not None and math.isfinite(one.ratio):
                        assert one.lower <= one.ratio <= one.upper
    results = {"estimate": estimated, "compare": compared, "model": fitted, "check": checked}
    prepared = prepare(table(text), [], timed(), {})
    statements = {
        "estimate": first, "compare": CompareStatement(by="g"), "model": stated, "check": CheckStatement(),
    }  # fmt: skip
    found = ReportInputs(
        study="study",
        dated=date(2026, 1, 2),
        files=(),
        prepare=prepared,
        follow_up=cohort.statement,
        cohort=estimated.cohort,
        results=results,
        statements=statements,
        described=describe(cohort, "g"),
        decisions=(),
    )
    pieces = tuple(piece for piece in PIECES if piece.key not in ("rows", "files"))
    report = to_html(composed(found, ReportStatement(), pieces))
    assert "NaN" not in report
    assert "None" not in report


@anything
@given(tables(), st.floats(0, 20, allow_nan=False))
def test_workings_answer_for_any_cohort(text, t):
    cohort = usable(text, late=False)
    if cohort is None:
        return
    groups = None
    with contextlib.suppress(NotEstimableError):
        groups = comparison(cohort, CompareStatement(by="g"), USUAL)
    for curve in groups.curves if groups else ():
        for sheet in (
            survival_workings(curve, t, "months"),
            quantile_workings(curve, 0.5, "months", cohort.decimals),
        ):
            page = without_nan(sheet.page())
            assert all(len(line) == len(sheet.columns) for line in page.rows)
    if groups and len(groups.curves) > 1:
        without_nan(log_rank_workings(groups, WEIGHTS["log-rank"]).page())
    try:
        fitted = fit_model(cohort, ModelStatement(terms=TERMS[1:2]))
    except HourglassError:
        return
    if fitted.fit.status[0] == "finite":
        without_nan(hazard_ratio_workings(fitted, 0, 0.95).page())


@anything
@given(tables(), st.data())
def test_setting_rows_aside_is_the_same_as_never_having_had_them(text, data):
    rows = table(text)
    gone = data.draw(st.sets(st.integers(1, rows.size), max_size=rows.size - 1))
    lines = text.splitlines()
    shorter = [lines[0], *(line for k, line in enumerate(lines[1:], start=1) if k not in gone)]
    one = form_cohort(apply_steps(rows, [SetAside(rows=tuple(gone), why="x")])[0], timed())
    other = form_cohort(table("\n".join(shorter) + "\n"), timed())
    assert isinstance(one, Cohort) == isinstance(other, Cohort)
    if isinstance(one, Cohort):
        assert one.follow_up.exit.tolist() == other.follow_up.exit.tolist()
        assert one.follow_up.status.tolist() == other.follow_up.status.tolist()


@pytest.mark.parametrize("scale", [1e-300, 1e300])
def test_times_at_the_ends_of_the_number_line_are_answered(scale):
    lines = "".join(f"{k * scale:g},{k % 2},{'ab'[k % 3 // 2]},{k}\n" for k in range(1, 12))
    cohort = form_cohort(table("t,s,g,x\n" + lines), timed())
    assert isinstance(cohort, Cohort)
    without_nan(estimate(cohort, default_statement("estimate", cohort)))
    stated = ModelStatement(terms=(NumberTerm(column="x"),))
    without_nan(model(cohort, stated))
    without_nan(check(cohort, stated, CheckStatement()))
