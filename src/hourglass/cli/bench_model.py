"""Measuring Model and every question of Check on a large study, against one fit of the same rows."""

import numpy as np

from hourglass.analysis.check.questions import QUESTIONS
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.fitting import fit_model
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.stage import stage_of
from hourglass.cli.bench_core import REPEATS, median_seconds
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.statement import CodeMeaning, Duration, FollowUpStatement
from hourglass.cohort.table import Column, NumberColumn, Table, TextColumn
from hourglass.core.progress import no_progress

NUMBERS = tuple(f"x{k}" for k in range(7))
CATEGORIES = tuple(f"g{k}" for k in range(3))
LEVELS = ("low", "middle", "high")


def run_model_bench(rows: int) -> None:
    """Print what the first answers of Model and Check take, and how many fits that is."""
    cohort, statement = _made(rows), _statement()
    print(f"\n{rows:,} rows, {len(statement.terms)} terms; median of {REPEATS} runs\n")
    fitted = median_seconds(lambda: fit_model(cohort, statement.hazards_model))
    _show("one fit of the model", fitted, fitted)
    stated = {"estimate": EstimateStatement(), "model": statement, "check": CheckStatement()}
    _show("Model", median_seconds(lambda: stage_of(STAGES, "model").now(cohort, stated)), fitted)
    check = stage_of(STAGES, "check")
    numbers = check.numbers.of(cohort, stated, no_progress)
    for question in QUESTIONS:
        requested = {**stated, "check": CheckStatement(question=question.key)}
        first = median_seconds(lambda requested=requested: check.now(cohort, requested))  # type: ignore[misc]
        _show(f"Check, {question.key}", first, fitted)
        again = median_seconds(lambda requested=requested: check.show(numbers, cohort, requested))  # type: ignore[misc]
        _show("    shown of kept numbers", again, fitted)


def _statement() -> ModelStatement:
    terms: list[Term] = [NumberTerm(column=name) for name in NUMBERS]
    return ModelStatement(terms=(*terms, *(CategoryTerm(column=name) for name in CATEGORIES)))


def _made(rows: int) -> Cohort:
    """Made-up follow-up with distinct times, seven numbers and three categories."""
    rng = np.random.default_rng(12)
    x = rng.normal(size=(rows, len(NUMBERS)))
    codes = rng.integers(0, len(LEVELS), size=(len(CATEGORIES), rows))
    rate = np.exp(x @ np.linspace(-0.3, 0.3, len(NUMBERS)) + 0.2 * (codes[0] == 2))
    happens, ends = rng.exponential(1 / rate), rng.exponential(2.0, size=rows)
    columns: tuple[Column, ...] = (
        NumberColumn(name="t", values=np.minimum(happens, ends)),
        TextColumn(name="s", codes=(happens <= ends).astype(np.int32), levels=("0", "1")),
        *(NumberColumn(name=name, values=x[:, k]) for k, name in enumerate(NUMBERS)),
        *(
            TextColumn(name=name, codes=codes[k].astype(np.int32), levels=LEVELS)
            for k, name in enumerate(CATEGORIES)
        ),
    )
    meanings = {"1": CodeMeaning(meaning="event"), "0": CodeMeaning(meaning="censored")}
    stated = FollowUpStatement(clock=Duration(column="t"), outcome="s", meanings=meanings)
    formed = form_cohort(Table(columns, np.arange(1, rows + 1)), stated)
    assert not isinstance(formed, tuple), formed
    return formed


def _show(name: str, seconds: float, fit: float) -> None:
    print(f"  {name:<42}{seconds:>9.2f} s{seconds / fit:>7.1f} fits", flush=True)
