"""Changes to a study that are more than one piece of work."""

from collections.abc import Sequence
from uuid import UUID

from hourglass.analysis.references import asked_references, reference_step
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.plan import PlacedStep, Plan, PlannedStep
from hourglass.cohort.table import Table
from hourglass.study.keeping import Keeping, NewDecision, NewFile
from hourglass.study.study import PREPARE, FileAlreadyReadError, Study

LONGEST_SENTENCE = 1000


def attach_file(keeping: Keeping, study: UUID, file: NewFile) -> None:
    """Record a study's first file, its columns and proposed statement: all of it, or nothing.

    Raises:
        NoSuchStudyError, FileAlreadyReadError.
    """
    with keeping.transaction() as inside:
        inside.lock(study)
        if any(export.accepted for export in inside.load(study).exports):
            raise FileAlreadyReadError("This study has its file already. Start a new study.")
        inside.add_export(study, file, accepted=True)
        inside.put_follow_up(study, file.reading.proposal)


def decide(
    keeping: Keeping,
    study: UUID,
    decision: NewDecision,
    steps: Sequence[Step] = (),
    instead_of: int | None = None,
) -> int:
    """Log a decision together with the steps that carry it out; gives its id.

    Args:
        instead_of: the id of a step that the (one) new step takes the place of.
    """
    with keeping.transaction() as inside:
        inside.lock(study)
        made = inside.record(study, decision)
        if steps:
            now = inside.load(study)
            assert now.file is not None
            new = [PlacedStep(step=step, decision=made) for step in steps]
            there = list(now.steps)
            places = [k for k, placed in enumerate(there) if placed.id == instead_of]
            if places:
                new = [new[0].model_copy(update={"active": there[places[0]].active})]
                there[places[0] : places[0] + 1] = new
            else:
                there += new
            inside.revise(now.file.id, decision.sentence, there)
    return made


def take_step(
    keeping: Keeping,
    study: UUID,
    choice: str,
    step: Step,
    reason: str = "",
    instead_of: int | None = None,
) -> int:
    """Take a step, as a decision; gives the decision's id."""
    sentence = step.named()[:LONGEST_SENTENCE]
    decision = NewDecision(PREPARE, "step", choice, sentence, reason)
    return decide(keeping, study, decision, [step], instead_of)


def withdraw(keeping: Keeping, study: UUID, decision: int) -> None:
    """Take a decision back, with its steps; the log keeps it, marked as withdrawn.

    Raises:
        NoSuchStudyError: when there is no such standing decision in the study.
    """
    with keeping.transaction() as inside:
        inside.mark_withdrawn(study, decision)
        now = inside.load(study)
        if now.file is None:
            return
        left = [placed for placed in now.steps if placed.decision != decision]
        if len(left) < len(now.steps):
            inside.revise(now.file.id, "a decision withdrawn", left)


def state(
    keeping: Keeping, study: Study, analysis: int | None, statement: StageStatement, table: Table
) -> None:
    """Put the statement of an analysis.

    A reference level that it asks for becomes a step in Prepare, so that all stages share it.

    Args:
        analysis: its id; None for the first of its stage.
        table: as the steps have left it.
    """
    named = study.analysis(statement.stage, analysis)
    with keeping.transaction() as inside:
        for column, level in asked_references(statement, table).items():
            step, instead_of = reference_step(table, study.steps, column, level)
            take_step(inside, study.id, "reference level", step, instead_of=instead_of)
        body = statement.without_references().model_dump(mode="json")
        if named.id is None:
            inside.add_analysis(study.id, statement.stage, "", body)
        else:
            inside.put_statement(named.id, body)


def plan_of(study: Study) -> Plan:
    """The follow-up statement and the steps, as a document that can be applied to another file."""
    reasons = {d.id: d.reason for d in study.decisions}
    return Plan(
        follow_up=study.follow_up,
        steps=tuple(
            PlannedStep(step=p.step, active=p.active, reason=reasons.get(p.decision or 0, ""))
            for p in study.steps
        ),
    )


def apply_plan(keeping: Keeping, study: UUID, export: int, plan: Plan) -> int:
    """Put a plan in the place of all steps and of the follow-up statement; gives the decision's id."""
    sentence = f"Steps applied from a document: {len(plan.steps)}"
    with keeping.transaction() as inside:
        made = decide(inside, study, NewDecision(PREPARE, "plan", "applied", sentence))
        new = [PlacedStep(step=p.step, active=p.active, decision=made) for p in plan.steps]
        inside.revise(export, sentence, new)
        inside.put_follow_up(study, plan.follow_up)
    return made
