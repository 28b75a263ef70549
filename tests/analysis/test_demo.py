"""The Larkmoor demo: generated again it is the same, and the model finds what was put in."""

import importlib.util
from math import log, log2

import numpy as np
import pytest

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import DoublingTerm, NumberTerm
from hourglass.study.place import DEMO
from making import demo_cohort, demo_table, timed_table
from stages import check, compare, estimate, model

spec = importlib.util.spec_from_file_location("generate", DEMO / "generate.py")
generate = importlib.util.module_from_spec(spec)
spec.loader.exec_module(generate)

COHORT = demo_cohort("larkmoor")
EVERYTHING = ModelStatement(
    terms=(
        CategoryTerm(column="drops", reference="standard"),
        CategoryTerm(column="vessels", reference="none"),
        NumberTerm(column="age", unit=10),
        DoublingTerm(column="donor_cells"),
        CategoryTerm(column="diabetes", reference="no"),
        CategoryTerm(column="prior_graft", reference="no"),
        CategoryTerm(column="eye", reference="left"),
        CategoryTerm(column="centre", reference="Brackwell"),
    )
)


@pytest.fixture(scope="module")
def ratios():
    found = model(COHORT, EVERYTHING)
    return {(t.name, c.label): c.adjusted for t in found.terms for c in t.coefficients}


def test_the_committed_files_are_what_the_script_makes(tmp_path):
    generate.write(tmp_path / "g.csv", generate.COLUMNS, generate.larkmoor())
    generate.write(
        tmp_path / "l.csv", ["lamp", "maker", "hours", "failed"], generate.harbour_lamps()
    )
    assert (tmp_path / "g.csv").read_bytes() == (DEMO / "larkmoor_grafts.csv").read_bytes()
    assert (tmp_path / "l.csv").read_bytes() == (DEMO / "harbour_lamps.csv").read_bytes()


def test_the_file_is_as_described():
    read = demo_table("larkmoor")
    assert read.size == 612
    assert [c.name for c in read.columns] == generate.COLUMNS
    assert len(read.column("centre").counts()) == 5
    assert set(read.column("outcome").counts()) == set("RALD")
    assert (~read.column("joined_on").missing).sum() == 14
    closing = np.datetime64(generate.CLOSING)
    assert read.column("last_seen").values.max() == closing


@pytest.mark.parametrize(
    ("term", "truth"),
    [
        (("drops", "extended"), generate.EXTENDED_DROPS),
        (("age", "age"), generate.AGE_PER_10_YEARS),
        (("donor_cells", "donor_cells"), generate.DONOR_PER_DOUBLING),
        (("diabetes", "yes"), generate.DIABETES),
        (("prior_graft", "yes"), generate.PRIOR_GRAFT),
        (("eye", "right"), generate.EYE),
        *(
            (("centre", name), rate / generate.CENTRES["Brackwell"])
            for name, rate in generate.CENTRES.items()
            if name != "Brackwell"
        ),
    ],
    ids=str,
)
def test_the_model_recovers_what_was_put_in(ratios, term, truth):
    found = ratios[term]
    assert abs(found.beta - log(truth)) < 3 * found.standard_error


def test_medians_are_reached_and_one_upper_limit_is_not():
    everyone = estimate(COHORT, EstimateStatement()).curve
    drops = compare(COHORT, CompareStatement(by="drops"))
    medians = [c.quartiles[1] for c in (everyone, *drops.curves)]
    assert [c.label for c in drops.curves] == ["standard", "extended"]
    assert all(m.time is not None and m.lower is not None for m in medians)
    assert [m.upper is None for m in medians] == [False, False, True]
    assert all(m.time < c.thin_from for m, c in zip(medians[1:], drops.curves, strict=True))
    assert 48 < everyone.last < 102, "months from the first graft to closing"
    assert 40 < drops.cohort.median_follow_up.time < 70


def test_the_vessels_ratio_is_seen_to_fade_and_the_others_are_not():
    found = check(COHORT, EVERYTHING, CheckStatement())
    verdicts = {t.name: t.verdict for t in found.terms}
    assert verdicts.pop("vessels") == "fails"
    assert set(verdicts.values()) == {"holds"}
    timed = timed_table(found)
    row = next(r for r in timed.rows if r.label == "3-4 quadrants")
    worst = timed.series[row.cells[0].series]
    early = next(r for t, r in zip(worst.time, worst.columns[0], strict=True) if t > 6)
    late = next(r for t, r in zip(worst.time, worst.columns[0], strict=True) if t > 24)
    assert early > 2 > late
    assert log2(generate.VESSELS_AT_START["3-4 quadrants"]) > 2
