"""A plan applied to the file that it was made on gives the study again, and so the same plan."""

import pytest

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.model.statement import HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.model.terms.category import CategoryTerm
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.registry import STAGES
from hourglass.cohort.followup import Cohort
from hourglass.report.statement import ReportStatement
from hourglass.study.commands.figures import set_figure, set_group_style
from hourglass.study.commands.statements import begin_analysis, state
from hourglass.study.commands.steps import withdraw
from hourglass.study.commands.undoing import undo
from hourglass.study.demos import demos, keep_file, load_demo
from hourglass.study.history import reported
from hourglass.study.in_process import InProcess
from hourglass.study.place import DEMO
from hourglass.study.plans.applying import apply_plan, seal_plan
from hourglass.study.plans.departures import departures
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.plans.placing import plan_naming_rows
from hourglass.study.plans.steps import steps_for_file
from hourglass.study.results import Results
from hourglass.study.source import source_of

MODEL = ModelStatement(
    terms=(NumberTerm(column="age"),),
    kept=(
        KeptModel(letter="A", model=HazardsModel(terms=(NumberTerm(column="age"),)), planned=True),
        KeptModel(
            letter="B", model=HazardsModel(terms=(CategoryTerm(column="eye"),)), dropped=True
        ),
    ),
)


def decided_in_full(repository, blobs):
    """A demo with several analyses, kept models, a report of its own words, looks and figure settings."""
    study = repository.load(load_demo(repository, blobs, "larkmoor")[0])
    table = source_of(study, blobs).after_steps()
    study = state(repository, study, None, MODEL, table)
    words = {"rows/title": {"text": "Whom we followed", "was": "Rows read, set aside and analysed"}}
    report = ReportStatement.model_validate({"words": words, "left_out": ["weights"]})
    study = state(repository, study, None, report, table)
    body = CompareStatement(by="eye").model_dump(mode="json")
    study, _ = begin_analysis(repository, study, "compare", "By eye", body)
    study = set_figure(repository, study, "compare", {"width": 85})
    return set_group_style(
        repository, study, "compare", "drops: standard", {"group": "drops: standard", "tone": 3}
    )


def applied(repository, blobs, study, plan):
    steps = steps_for_file(plan, study.file.sha256, source_of(study, blobs).table())
    return apply_plan(repository, study, plan, steps)


def comparable(plan):
    return plan.model_copy(update={"name": "", "dated": None})


def test_everything_that_was_decided_comes_back(repository, blobs):
    study = decided_in_full(repository, blobs)
    plan = plan_of_study(study)
    bare = repository.load(load_demo(repository, blobs, "larkmoor_as_received")[0])
    made = applied(repository, blobs, bare, plan)
    assert comparable(plan_of_study(made)) == comparable(plan)
    assert [a.name for a in made.of_stage("compare")] == ["", "By eye"]
    again = applied(repository, blobs, made, plan)
    given = sorted((d.sentence, d.reason) for d in plan.decisions)
    for one in (made, again):
        assert sorted((d.sentence, d.reason) for d in reported(one.standing)) == given
    assert [(p.step, p.active, p.reason) for p in plan_of_study(again).steps] == [
        (p.step, p.active, p.reason) for p in plan.steps
    ]


def test_a_plan_that_waited_for_its_file_keeps_every_reason(repository, blobs):
    study = repository.load(load_demo(repository, blobs, "larkmoor")[0])
    results = Results(repository, blobs, InProcess(), STAGES)
    plan = plan_naming_rows(results, study)
    waiting = steps_for_file(plan, None, None)
    waiting = apply_plan(repository, repository.load(repository.create("Next")), plan, waiting)
    assert comparable(plan_of_study(waiting)) == comparable(plan), "the rows stay those of its file"
    waiting = seal_plan(repository, waiting)
    file = demos()["larkmoor"]["file"]
    lines = (DEMO / file).read_text("utf-8").splitlines()
    other = "\n".join([lines[0], lines[-1].replace("K-", "N-", 1), *lines[1:]])
    made, _ = keep_file(repository, blobs, waiting, file, other.encode())
    assert [(p.active, p.reason) for p in plan_of_study(made).steps] == [
        (p.active, p.reason) for p in plan.steps
    ]
    assert departures(made, STAGES) == []
    assert made.steps[0].step.rows == tuple(row + 1 for row in plan.steps[0].step.rows)
    assert (
        source_of(made, blobs).cohort().table.size
        == source_of(study, blobs).cohort().table.size + 1
    )


def test_a_decision_of_a_plan_is_withdrawn_with_its_steps(repository, blobs):
    plan = plan_of_study(repository.load(load_demo(repository, blobs, "larkmoor")[0]))
    bare = repository.load(load_demo(repository, blobs, "larkmoor_as_received")[0])
    made = applied(repository, blobs, bare, plan)
    lost = next(d for d in made.standing if d.reason.startswith("Notes lost"))
    left = withdraw(repository, made, lost.id)
    assert [p.step for p in left.steps] == [
        p.step for p in made.steps if getattr(p.step, "why", "") != "blank outcome"
    ]
    assert len(left.steps) == len(made.steps) - 1


def test_a_step_written_by_hand_keeps_its_reason(repository, blobs):
    study = repository.load(load_demo(repository, blobs, "lamps")[0])
    step = {
        "step": {"kind": "label_column", "column": "type", "label": "Lamp"},
        "reason": "clearer",
    }
    plan = StudyPlan.model_validate(
        {"name": "By hand", "dated": "2026-01-01", "follow_up": study.follow_up, "steps": [step]}
    )
    made = applied(repository, blobs, study, plan)
    (planned,) = plan_of_study(made).steps
    assert planned.reason == "clearer"
    assert made.standing[-1].reason == "clearer"


def test_an_analysis_that_the_plan_does_not_hold_goes_and_comes_back_by_undoing(repository, blobs):
    study = decided_in_full(repository, blobs)
    plan = plan_of_study(repository.load(load_demo(repository, blobs, "lamps")[0]))
    made = applied(repository, blobs, study, plan)
    assert [a.name for a in made.of_stage("compare")] == [""]
    back = made
    for _ in range(len(made.decisions) - len(study.decisions)):
        back = undo(repository, back)
    assert comparable(plan_of_study(back)) == comparable(plan_of_study(study))


@pytest.mark.parametrize("demo", sorted(demos()))
def test_a_plan_gives_the_results_of_its_study(repository, blobs, demo):
    study = repository.load(load_demo(repository, blobs, demo)[0])
    bare = repository.load(load_demo(repository, blobs, demo)[0])
    made = applied(repository, blobs, bare, plan_of_study(study))
    results = Results(repository, blobs, InProcess(), STAGES)
    assert source_of(made, blobs).hash == source_of(study, blobs).hash
    cohort = source_of(made, blobs).cohort()
    for stage in STAGES if isinstance(cohort, Cohort) else ():
        before, after = (
            results.statements_of(one, stage, one.analysis(stage.name)) for one in (study, made)
        )
        assert before == after, stage.name
