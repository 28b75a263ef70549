"""A stage as the program makes it: its numbers computed, kept as bytes, read again, and shown."""

from dataclasses import replace

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.curve_form import USUAL
from hourglass.analysis.shared.packing import pack, unpack
from hourglass.analysis.shared.stage import stage_of
from hourglass.core.progress import no_progress
from hourglass.core.regression.time_functions import ONE_MINUS_SURVIVAL

NO_GROUPS, NO_TERMS, FIRST_QUESTION = CompareStatement(), ModelStatement(), CheckStatement()
AS_USUAL = EstimateStatement()


def shown(stage, value, statements, progress=no_progress, part=""):
    """What a stage, or a part of it, shows of statements; nobody states what is not among them."""
    of = stage_of(STAGES, stage)
    stated = {name: stage_of(STAGES, name).statement() for name in of.needs} | statements
    numbers = unpack(pack(of.numbers_of(part).of(value, stated, progress)))
    return (of.part(part) if part else of).show(numbers, value, stated)


def computing(stages, name, compute):
    """The stages, the numbers of one computed otherwise, as if by the same code."""
    own = stage_of(stages, name)
    compute.__module__ = own.numbers.compute.__module__
    changed = replace(own, numbers=replace(own.numbers, compute=compute))
    return tuple(changed if stage is own else stage for stage in stages)


def part_of(stage, part):
    """What makes a part of a stage, of a cohort and statements."""
    return lambda cohort, stated, progress=no_progress: shown(stage, cohort, stated, progress, part)


def of_form(form):
    """The statement of Estimate that gives the study's curves a form."""
    return EstimateStatement(
        confidence=form.confidence,
        estimator=form.estimator.key,
        scale=form.scale.key,
        intervals=form.intervals,
    )


def estimate(cohort, statement, progress=no_progress):
    return shown("estimate", cohort, {"estimate": statement}, progress)


def compare(cohort, statement=NO_GROUPS, of_curves=AS_USUAL, progress=no_progress):
    return shown("compare", cohort, {"compare": statement, "estimate": of_curves}, progress)


def model(
    cohort, statement=NO_TERMS, progress=no_progress, time_function=ONE_MINUS_SURVIVAL, form=USUAL
):
    how = CheckStatement(time_function=time_function.key)
    stated = {"model": statement, "check": how, "estimate": of_form(form)}
    return shown("model", cohort, stated, progress)


def check(cohort, requested, statement=FIRST_QUESTION, progress=no_progress, form=USUAL):
    stated = {"model": requested, "check": statement, "estimate": of_form(form)}
    return shown("check", cohort, stated, progress)
