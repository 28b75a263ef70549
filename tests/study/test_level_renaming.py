"""A level that gets another name in Prepare keeps it in every statement, code and drawing."""

from dataclasses import replace

import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.model.statement import (
    HazardsModel,
    KeptModel,
    ModelStatement,
    Profile,
    ProfileValue,
)
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.registry import STAGES
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.study.commands.statements import state
from hourglass.study.commands.steps import name_level, put_step
from hourglass.study.commands.undoing import undo
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.level_renaming import Renaming, with_levels_named
from hourglass.study.results import Results

NEW, OTHER = "long course", "no vessels"


@pytest.fixture
def larkmoor():
    repository, kept = InMemory(), BlobsInMemory()
    made, _ = load_demo(repository, kept, "larkmoor")
    executor = InProcess()
    results = Results(repository, kept, executor, STAGES)
    profile = Profile(values=(ProfileValue(column="drops", value="extended"),))
    terms = (CategoryTerm(column="drops", reference="extended"), CategoryTerm(column="vessels"))
    model = ModelStatement(
        terms=terms,
        profiles=(profile,),
        kept=(KeptModel(letter="A", model=HazardsModel(terms=terms)),),
    )
    compare = CompareStatement(by="drops", crossed="vessels", contrast="extended, none")
    for statement in (model, compare):
        study = repository.load(made)
        state(repository, study, None, statement, results.source(study).after_steps())
    yield repository, results, made
    executor.close()


def held(repository, made):
    study = repository.load(made)
    model = ModelStatement.read(study.analysis("model").body)
    compare = CompareStatement.read(study.analysis("compare").body)
    return (
        model.profiles[0].values[0].value,
        model.kept[0].model.terms[0].reference,
        compare.contrast,
    )


@pytest.mark.parametrize("how", ["named", "respelled"])
def test_every_statement_has_the_new_name_and_undoing_brings_the_old_one_back(larkmoor, how):
    repository, results, made = larkmoor
    before = held(repository, made)
    assert before == ("extended", "extended", "extended, none")
    for column, old, new in (("drops", "extended", NEW), ("vessels", "none", OTHER)):
        study = repository.load(made)
        if how == "named":
            name_level(repository, study, results.source(study).after_steps(), column, old, new)
        else:
            step = RespellLevels(column=column, spelling={old: new})
            put_step(repository, study, step)
    assert held(repository, made) == (NEW, NEW, f"{NEW}, {OTHER}")
    study = repository.load(made)
    body = results.now(study, results.of_stage(study, study.analysis("model"))).body
    assert b'"predicted"' in body or b"predicted" in body
    assert b"has no level" not in body
    for _ in range(2):
        undo(repository, repository.load(made))
    assert held(repository, made) == before


def test_a_step_that_names_a_level_again_goes_on_from_the_name_it_has_now(larkmoor):
    repository, results, made = larkmoor
    for old, new in (("extended", "longer"), ("longer", NEW)):
        study = repository.load(made)
        name_level(repository, study, results.source(study).after_steps(), "drops", old, new)
    assert [
        p.step.spelling for p in repository.load(made).steps if p.step.kind == "respell_levels"
    ][-1]["extended"] == NEW
    assert held(repository, made)[:2] == (NEW, NEW)


def test_a_code_of_the_outcome_keeps_its_meaning_under_another_name(larkmoor):
    repository, _, made = larkmoor
    study = repository.load(made)
    outcome = study.follow_up.outcome
    code, meaning = next(iter(study.follow_up.meanings.items()))
    put_step(repository, study, RespellLevels(column=outcome, spelling={code: "in words"}))
    assert repository.load(made).follow_up.meanings["in words"] == meaning


def test_the_competing_event_of_a_model_keeps_its_code_under_another_name(larkmoor):
    repository, _, made = larkmoor
    study = repository.load(made)
    outcome, code = study.follow_up.outcome, next(iter(study.follow_up.meanings))
    own = ModelStatement(terms=(CategoryTerm(column="drops"),), cause=code)
    kept = KeptModel(letter="A", model=HazardsModel(terms=own.terms, cause=code))
    model = own.model_copy(update={"kept": (kept,)})
    body = model.model_dump(mode="json")
    renaming = Renaming(outcome, {code: "in words"})
    analyses = tuple(
        replace(a, body=body) if a.stage == "model" else a for a in study.snapshot.analyses
    )
    named = with_levels_named(replace(study.snapshot, analyses=analyses), [renaming])
    (after,) = [a for a in named.analyses if a.stage == "model"]
    found = ModelStatement.read(after.body)
    assert (found.cause, found.kept[0].model.cause) == ("in words", "in words")
