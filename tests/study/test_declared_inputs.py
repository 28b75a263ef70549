"""Numbers follow from the fields that they declare, and from nothing else: generated from the stages."""

import dataclasses
import random
import shutil
import time
from functools import cache, partial

import numpy as np
import pytest
from pydantic import BaseModel, ValidationError

from hourglass.analysis.check import optimism_numbers
from hourglass.analysis.check.numbers import check_numbers
from hourglass.analysis.compare import part_numbers
from hourglass.analysis.model import sampled
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.declared import OF_EVERY_STATEMENT
from hourglass.analysis.shared.stage import stage_of
from hourglass.core.progress import no_progress
from hourglass.study.code import PACKAGE, code_of, reached
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.results import Results
from hourglass.study.study import Analysis
from making import cohort, default_statement, demo_cohort
from values_of_schema import values

OWNERS = [(stage.name, part) for stage in STAGES for part in ("", *(p.key for p in stage.parts))]
OWN = {owner: stage_of(STAGES, owner[0]).numbers_of(owner[1]) for owner in OWNERS}
FIELDS = [
    (stage.name, field)
    for stage in STAGES
    for field in stage.statement.model_fields
    if field not in OF_EVERY_STATEMENT
]
WORDS = (
    "formatting", "words", "sections", "section", "sentence", "cautions", "cell", "slots", "figure",
    "workings", "result", "parts", "part", "tracks", "readouts", "views", "marks", "shown",
)  # fmt: skip
"""How modules are called that word, arrange or draw."""


def another(kind, body, field):
    """The statement with some other value of a field, made from its schema; None where there is none."""
    schema = kind.model_json_schema()
    of_schema = values(schema["properties"][field], schema.get("$defs", {}))
    for value in (*ALWAYS.get(field, ()), *of_schema):
        try:
            made = kind.model_validate({**body, field: value})
        except ValidationError:
            continue
        if made.model_dump(mode="json")[field] != body[field]:
            return made.model_dump(mode="json")
    return None


@pytest.fixture(scope="module")
def study():
    repository, kept = InMemory(), BlobsInMemory()
    made = repository.load(load_demo(repository, kept, "larkmoor")[0])
    executor = InProcess()
    results = Results(repository, kept, executor, STAGES)
    rows = results.source(made).cohort()
    bodies = {one.name: default_statement(one.name, rows).model_dump(mode="json") for one in STAGES}
    yield results, made, bodies
    executor.close()


def hashes(results, study, bodies):
    analyses = tuple(Analysis(id=None, stage=name, body=body) for name, body in bodies.items())
    stated = dataclasses.replace(
        study, snapshot=dataclasses.replace(study.snapshot, analyses=analyses), looked_at=()
    )
    return {
        (stage, part): results.of_stage(stated, stated.analysis(stage), part).hash
        for stage, part in OWNERS
    }


@pytest.mark.parametrize(("stage", "field"), FIELDS)
def test_a_field_makes_stale_what_declares_it_and_nothing_else(study, stage, field):
    results, made, bodies = study
    changed = another(stage_of(STAGES, stage).statement, bodies[stage], field)
    assert changed is not None, "a value other than the one stated is needed"
    before, after = hashes(results, made, bodies), hashes(results, made, {**bodies, stage: changed})
    stale = {owner for owner in OWNERS if before[owner] != after[owner]}
    assert stale == {owner for owner in OWNERS if field in OWN[owner].depends_on.get(stage, ())}


@cache
def rows():
    draw = random.Random(5)
    lines = ["t,s,x,age,z,g,h,k"]
    for _ in range(90):
        g, h, x = draw.choice("abc"), draw.choice("uv"), draw.choice((1.0, 2.0, 3.5, 4.0, 6.0))
        age = draw.randint(30, 80)
        t = 1 + int(10 * draw.expovariate(0.2 * (1 + (g == "c") + 0.1 * x)))
        empty = "" if draw.random() < 0.05 else draw.choice("pq")
        z = round(draw.gauss(0, 1), 4)
        lines.append(f"{t},{draw.choice('0112')},{x},{age},{z},{g},{h},{empty}")
    return cohort("\n".join(lines) + "\n")


NUMBER, OTHER = {"kind": "number", "column": "x"}, {"kind": "number", "column": "age", "unit": 10}
CATEGORY, SECOND = {"kind": "category", "column": "g"}, {"kind": "category", "column": "h"}
KEPT = {"letter": "A", "model": {"terms": [CATEGORY]}}
THIRD = {"letter": "B", "model": {"terms": [OTHER]}}
SOMEBODY = {"values": [{"column": "x", "value": "2"}]}
BASES = (
    {"compare": {"by": "g"}, "model": {"terms": [CATEGORY, NUMBER], "subgroups": ["h"]}},
    {"estimate": {"by": "g"}, "compare": {"by": "g", "pairs": "all"}, "model": {"terms": [NUMBER]}},
    {"model": {"terms": [OTHER, {"kind": "number", "column": "z"}]}},
    {"estimate": {"by": "x"}, "compare": {"by": "x"},
     "model": {"terms": [NUMBER], "intervals": "profile"}},
    {"compare": {"each": True}, "model": {"terms": [CATEGORY, OTHER], "adjusted": "g"}},
    {"model": {"terms": [OTHER], "kept": [KEPT, THIRD], "beside": "A", "candidates": ["x", "g"],
               "profiles": [SOMEBODY], "intervals": "profile"}},
    {"compare": {"each": True, "variables": [{"column": "age", "threshold": 50.0}],
                 "tried": [{"column": "age", "at": [50.0, 60.0]}]}},
)  # fmt: skip
"""Statements beside which a field is changed: one of them lets it count."""
ALWAYS = {
    "by": ["h"], "reference": ["b"], "crossed": ["h"], "thresholds": [[2.0]], "start": [3.0],
    "confidence": [0.9], "intervals": ["profile", "standard error", "Hall–Wellner"], "scale": ["linear"],
    "estimator": ["Nelson–Aalen"], "each": [True], "weight": ["Gehan–Breslow"], "within": [["h"], ["k"]],
    "pairs": ["all", "reference"], "adjustment": ["Bonferroni"], "seed": [2, 3, 5],
    "terms": [[SECOND, OTHER]], "strata": [["h"]], "ties": ["Breslow", "exact"],
    "robust": [{"kind": "column", "column": "k"}], "penalised": [True], "cause": ["2"],
    "left_out": [[1, 2, 3]], "rows_with": [["k"]], "kept": [[{**KEPT, "model": {"terms": [SECOND]}}]],
    "beside": ["B"], "subgroups": [["k"]], "profiles": [[{"values": [{"column": "x", "value": "6"}]}]],
    "times": [[5.0]], "adjusted": ["g"], "candidates": [["age"]], "time_function": ["rank"],
    "margin": [{"size": 0.1, "at": 5.0}], "variables": [[{"column": "age", "split": "median"}]],
    "tried": [[]],
}  # fmt: skip
"""Other values of a field."""


def numbers_in(value):
    """Every number of a value, in order, and what is there at all."""
    if value is None or isinstance(value, str):
        return []
    if isinstance(value, np.ndarray):
        return [] if value.dtype == object else [float(v) for v in value.ravel()]
    if isinstance(value, bool | int | float | np.generic):
        return [float(value)]
    if isinstance(value, BaseModel):
        return numbers_in(dict(value))
    if dataclasses.is_dataclass(value):
        return numbers_in([getattr(value, f.name) for f in dataclasses.fields(value)])
    if isinstance(value, dict):
        return numbers_in(list(value.values()))
    if isinstance(value, list | tuple):
        return [number for one in value for number in numbers_in(one)]
    return []


@pytest.fixture
def few_samples(monkeypatch):
    for module, name in ((optimism_numbers, "optimism"), (sampled, "predicted_means")):
        monkeypatch.setattr(module, name, partial(getattr(module, name), samples=7))
    for module in (sampled, part_numbers):
        monkeypatch.setattr(module, "SAMPLES", 7)


def stated(base):
    return {one.name: one.statement.model_validate(base.get(one.name, {})) for one in STAGES}


DECLARED = [
    (owner, stage, field)
    for owner in OWNERS
    for stage, fields in OWN[owner].depends_on.items()
    for field in fields
]


@pytest.mark.parametrize(("owner", "stage", "field"), DECLARED)
def test_a_declared_field_changes_a_number(few_samples, owner, stage, field):
    kind = stage_of(STAGES, stage).statement
    for base in BASES:
        before = stated(base)
        own = numbers_in(OWN[owner].of(rows(), before, no_progress))
        for value in ALWAYS[field]:
            try:
                changed = kind.model_validate({**before[stage].model_dump(), field: value})
            except ValidationError:
                continue
            found = numbers_in(OWN[owner].of(rows(), {**before, stage: changed}, no_progress))
            if not np.array_equal(own, found, equal_nan=True):
                return
    pytest.fail(f"no number of {owner} follows from {field} of {stage}")


def edited(tmp_path, *files):
    """A copy of the program in which a line was added to some files."""
    copy = tmp_path / "hourglass"
    if not copy.exists():
        shutil.copytree(PACKAGE, copy, ignore=shutil.ignore_patterns("__pycache__"))
    root = tmp_path / f"{len(list(tmp_path.iterdir()))}"
    shutil.copytree(copy, root)
    for name in files:
        with (root / name).open("a", encoding="utf-8") as file:
            file.write("\nEDITED = True\n")
    return root


def codes(root=PACKAGE):
    return {owner: code_of(numbers.compute.__module__, root=root) for owner, numbers in OWN.items()}


def test_an_edit_of_the_core_voids_every_number_and_one_of_words_none(tmp_path):
    words = [
        str(file.relative_to(PACKAGE))
        for file in (PACKAGE / "analysis").rglob("*.py")
        if file.stem in WORDS or file.stem.split("_")[-1] in WORDS or file.parent.name == "figure"
    ]
    assert len(words) > 50
    before = codes()
    assert codes(edited(tmp_path, *words)) == before
    core = codes(edited(tmp_path, "core/followup.py"))
    assert not [owner for owner in OWNERS if core[owner] == before[owner]]
    fit = codes(edited(tmp_path, "core/regression/newton.py"))
    stale = {owner for owner in OWNERS if fit[owner] != before[owner]}
    assert stale == {owner for owner in OWNERS if owner[0] in ("compare", "model", "check")}


def test_the_code_of_numbers_holds_no_words():
    for owner, numbers in OWN.items():
        through = reached(numbers.compute.__module__)
        assert check_numbers.__module__ in through or owner != ("check", "")
        named = {name for name in through if name.startswith("hourglass.analysis.shared")}
        assert not {n for n in named if n.rsplit(".", 1)[1] in WORDS or ".figure" in n}, owner


def test_what_is_shown_is_made_of_kept_numbers_within_a_moment():
    larkmoor = demo_cohort("larkmoor")
    stated = {one.name: default_statement(one.name, larkmoor) for one in STAGES}
    for stage in STAGES:
        needed = {name: stated[name] for name in stage.needs}
        computed = stage.numbers.of(larkmoor, needed, no_progress)
        taken = []
        for _ in range(5):
            begun = time.process_time()
            stage.show(computed, larkmoor, needed)
            taken.append(time.process_time() - begun)
        assert min(taken) < 0.05, (stage.name, taken)
