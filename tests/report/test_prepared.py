"""The prepared table as other programs take it: nothing lost, nothing run."""

import csv
import io

import numpy as np
import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from examples import examples
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.reading.read import read
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.levels import LabelColumn, OrderLevels
from hourglass.cohort.steps.numbers import SplitNumber
from hourglass.report.prepared import codebook_csv, prepared_csv, prepared_parquet, prepared_table
from making import cohort, table, timed

HOSTILE = st.one_of(
    st.sampled_from(
        ["=1+1", "+cmd", "-x", "@sum", "'quoted", "''twice", "a,b", 'say "so"', "plain"]
    ),
    st.text(
        st.characters(codec="utf-8", exclude_categories=["Cc", "Cs", "Zs", "Zl", "Zp"]),
        min_size=1,
        max_size=6,
    ),
).filter(
    lambda w: w.strip() == w and w not in ("NA", ".", "nan", "NaN", "null", "NULL", "N/A", "n/a")
)


@settings(max_examples=examples(150), deadline=None)
@given(st.lists(HOSTILE, min_size=1, max_size=10))
def test_taking_off_one_apostrophe_gives_every_cell_back(words):
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(
        [["t", "s", "note"], ["1", "1", "a word"], *(["2", "0", w] for w in words)]
    )
    formed = cohort(out.getvalue())
    harmless = list(csv.DictReader(io.StringIO(prepared_csv(formed, True).decode())))
    exact = list(csv.DictReader(io.StringIO(prepared_csv(formed, False).decode())))
    held = formed.table.column("note")
    for k, (safe, plain) in enumerate(zip(harmless, exact, strict=True)):
        assert plain["note"] == held.cell(k)
        if held.kind == "text":
            assert not safe["note"].startswith(("=", "+", "-", "@"))
        back = safe["note"][1:] if safe["note"].startswith("'") else safe["note"]
        assert back == plain["note"]


def test_times_ends_entries_and_counts_go_with_the_rows():
    text = "t,s,e,n,stands for\n5.25,1,1,2,x\n7,2,,1,y\n9,0,3,4,z\n"
    formed = cohort(text, late_entry="e", count="n", event_name="failure")
    found = prepared_table(formed)
    assert [c.name for c in found.columns][5:] == [
        "time followed",
        "time of entry",
        "how it ended",
        "stands for (analysed)",
    ]
    assert found.column("time followed").values.tolist() == [5.25, 7, 9]
    assert [found.column("time of entry").cell(k)[:1] for k in range(3)] == ["1", "", "3"]
    assert [found.column("how it ended").cell(k) for k in range(3)] == [
        "failure",
        "something else",
        "censored",
    ]
    assert found.column("stands for (analysed)").values.tolist() == [2, 1, 4]


def test_numbers_keep_all_their_digits():
    values = np.random.default_rng(1).normal(size=30) * 10.0 ** np.arange(-15, 15)
    text = "t,s,x\n" + "".join(f"{k + 1},1,{v!r}\n" for k, v in enumerate(map(float, values)))
    formed = cohort(text)
    out = prepared_csv(formed, True).decode()
    assert [float(r["x"]) for r in csv.DictReader(io.StringIO(out))] == values.tolist()
    kept = parquet.read_table(pa.BufferReader(prepared_parquet(formed)))
    assert kept.column("x").to_pylist() == values.tolist()
    assert kept.column("t").to_pylist() == [k + 1.0 for k in range(30)]


def test_what_goes_out_can_be_read_in_again():
    text = "t,s,g,seen,at\n1,1,a,2020-01-31,2020-01-31 10:30\n2,0,,2020-02-29,2020-02-29 23:59\n"
    formed = cohort(text)
    for data in (prepared_csv(formed, False), prepared_parquet(formed)):
        again = read(data).table
        for column in formed.table.columns:
            found = again.column(column.name)
            assert found.kind == column.kind
            assert [found.cell(k) for k in range(2)] == [column.cell(k) for k in range(2)]


def test_the_codebook_shows_names_labels_levels_and_where_columns_come_from():
    raw = table("t,s,age,g\n1,1,50,b\n2,0,70,a\n3,1,60,\n")
    steps = [
        LabelColumn(column="age", label="Age at start", unit="years"),
        SplitNumber(column="age", points=(60,), into="older"),
        OrderLevels(column="g", order=("b", "a"), reference="a"),
    ]
    now, _ = apply_steps(raw, steps)

    lines = csv.DictReader(
        io.StringIO(codebook_csv(form_cohort(now, timed()), raw, steps).decode())
    )
    book = {line["name"]: line for line in lines}
    assert (book["age"]["label"], book["age"]["unit"], book["age"]["kind"]) == (
        "Age at start",
        "years",
        "number",
    )
    assert (book["g"]["levels"], book["g"]["reference"], book["g"]["missing"]) == (
        "b | a",
        "a",
        "1",
    )
    assert book["t"]["origin"] == "read from the file"
    assert (
        book["g"]["origin"]
        == "read from the file; changed by step 3: g: order b, a; compare with a"
    )
    assert book["older"]["origin"] == "made by step 2: Split age at 60"
    assert book["how it ended"]["levels"] == "censored | the event"
