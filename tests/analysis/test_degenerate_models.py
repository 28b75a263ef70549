"""Data that bear no model, or hardly one: each with its plain answer, in every question of Check too."""

import json

import numpy as np
import pytest

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.weighed import WEIGHED
from hourglass.analysis.model.statement import HazardsModel, KeptModel, ModelStatement, Profile
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.curve import SplineTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.core.progress import no_progress
from making import STUDY, cohort
from stages import check, model, part_of

adjusted_survival = part_of("model", "adjusted")
candidates = part_of("model", "candidates")
kept_models = part_of("model", "kept")
ranking = part_of("model", "ranking")
term_tests = part_of("model", "terms")

X, Y = NumberTerm(column="x"), NumberTerm(column="y")
G = CategoryTerm(column="g")


def lines(rows):
    return "t,s,x,y,g\n" + "\n".join(",".join(map(str, r)) for r in rows) + "\n"


def drawn(n, seed=2, events=0.6):
    rng = np.random.default_rng(seed)
    return [
        (
            k + 1,
            int(rng.random() < events),
            int(rng.integers(0, 9)),
            int(rng.integers(0, 9)),
            "ab"[k % 2],
        )
        for k in range(n)
    ]


def wide(n, terms):
    rng = np.random.default_rng(3)
    head = "t,s," + ",".join(f"c{k}" for k in range(terms))
    body = [f"{k + 1},{k % 2}," + ",".join(map(str, rng.integers(0, 99, terms))) for k in range(n)]
    return head + "\n" + "\n".join(body) + "\n", tuple(
        NumberTerm(column=f"c{k}") for k in range(terms)
    )


FORTY, FORTY_TERMS = wide(200, 40)
MORE, MORE_TERMS = wide(12, 9)
ONE_EVENT = [(1, 1, 3, 0, "a"), (2, 0, 1, 0, "b"), (3, 0, 2, 0, "a")]
CONSTANT = [(k, 1, 5, k % 3, "a") for k in range(1, 9)]
EQUAL = [(t, s, x, x, g) for t, s, x, _, g in drawn(20)]
SEPARATE = [(k, int(k < 5), int(k < 5), 0, "a") for k in range(1, 10)]
ONE_STRATUM = [(t, s * (g == "a"), x, y, g) for t, s, x, y, g in drawn(30)]
MISSING = [(t, s, "" if t % 3 else x, y, g) for t, s, x, y, g in drawn(30)]
ONCE = [(t, s, x, y, "c" if t == 9 else g) for t, s, x, y, g in drawn(30)]
FEW_VALUES = [(t, s, x % 2, y, g) for t, s, x, y, g in drawn(30)]
CASES = {
    "no events": (
        lines([(k, 0, k, 1, "a") for k in range(1, 6)]),
        (X,),
        {},
        "no event was observed",
    ),
    "one event": (lines(ONE_EVENT), (X,), {}, "without bound"),
    "constant column": (lines(CONSTANT), (X, Y), {}, "takes one value"),
    "two equal columns": (lines(EQUAL), (X, Y), {}, "determined by the columns before"),
    "separation": (lines(SEPARATE), (X,), {}, "without bound"),
    "a stratum without events": (lines(ONE_STRATUM), (X,), {"strata": ("g",)}, ""),
    "more columns than events": (MORE, MORE_TERMS, {}, "coefficients"),
    "missing values": (lines(MISSING), (X, Y), {}, "Rows left out of the model"),
    "a level that appears once": (lines(ONCE), (G, X), {}, ""),
    "a spline of few values": (
        lines(FEW_VALUES),
        (SplineTerm(column="x"),),
        {},
        "no two of them equal",
    ),
    "forty terms": (FORTY, FORTY_TERMS, {}, "coefficients"),
}


def all_text(found):
    """Everything that is stated about a result."""
    return json.dumps(found.model_dump(mode="json"), ensure_ascii=False, allow_nan=False)


@pytest.mark.parametrize("case", CASES)
def test_a_model_of_such_data_answers_plainly(case):
    text, terms, more, words = CASES[case]
    rows = cohort(text)
    first = terms[0].column
    stated = ModelStatement(
        terms=terms,
        profiles=(Profile(),),
        subgroups=("g",) if "g" in text.split("\n")[0] and not more else (),
        adjusted=first,
        candidates=tuple(t.column for t in terms[:6]),
        kept=(KeptModel(letter="A", model=HazardsModel(terms=terms[:1])),),
        beside="A",
        **more,
    )
    found = model(rows, stated)
    assert words in all_text(found)
    for part in (term_tests, ranking, candidates, kept_models, adjusted_survival):
        if found.blank is None:
            assert part(rows, {**STUDY, "model": stated}, no_progress).sections
    if case == "forty terms":
        return
    for question in WEIGHED:
        checked = check(rows, stated, CheckStatement(question=question))
        assert checked.blank or checked.sections
        assert "NaN" not in all_text(checked)
