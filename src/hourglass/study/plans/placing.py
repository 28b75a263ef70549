"""The rows that the steps of a plan or a data extract name, found again: many rows by another process."""

from collections.abc import Sequence
from dataclasses import dataclass

from hourglass.cohort.carry import RowStep, carry_over
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.steps.document import PlacedStep, PlannedStep, StepsDocument
from hourglass.cohort.steps.names import RenameColumn
from hourglass.core.progress import ProgressCallback
from hourglass.study.hashes import hash_of
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.plans.steps import StepForFile, rows_are_others, steps_for_file, with_keys
from hourglass.study.results import Results
from hourglass.study.source import Source
from hourglass.study.study import Study
from hourglass.study.tasks import OfSource, before_them


@dataclass(frozen=True, slots=True)
class PlaceSteps(OfSource):
    """Place the steps of a plan for the file of a source, which has other bytes than the plan's own."""

    source: Source
    plan: StudyPlan | StepsDocument
    sha256: str

    def __call__(self, progress: ProgressCallback) -> list[StepForFile]:
        progress("finding the rows again", 0.1)
        return steps_for_file(self.plan, self.sha256, self.source.table())


@dataclass(frozen=True, slots=True)
class NameRows(OfSource):
    """Find what the rows that steps name are known by."""

    source: Source
    steps: tuple[PlannedStep, ...]
    subject: str | None

    def __call__(self, progress: ProgressCallback) -> tuple[PlannedStep, ...]:
        progress("finding what rows are known by", 0.1)
        return with_keys(self.steps, self.source.table(), self.subject)


@dataclass(frozen=True, slots=True)
class CarryOver(OfSource):
    """Carry the steps of a data extract over to a new one."""

    source: Source
    steps: tuple[PlacedStep, ...]
    new: Source
    renamed: tuple[RenameColumn, ...]

    def __call__(self, progress: ProgressCallback) -> list[PlacedStep]:
        progress("finding the rows again", 0.1)
        named = apply_steps(self.new.table(), self.renamed)[0]
        old, subject = self.source.table(), self.source.follow_up.subject
        return before_them(self.renamed, carry_over(self.steps, old, named, subject)[0])


def placed_steps(
    results: Results, source: Source, plan: StudyPlan | StepsDocument, sha256: str | None
) -> list[StepForFile]:
    """The steps of a plan as they are placed for the file of a source; waits for it.

    Args:
        sha256: of the file's bytes; None while there is no file.
    """
    if sha256 is None or not rows_are_others(plan, sha256):
        return steps_for_file(plan, sha256, None)
    key = ("placed", str(source.table_sha256), hash_of(plan.model_dump(mode="json")))
    return results.waited(key, PlaceSteps(source, plan, sha256), source.rows)


def plan_naming_rows(results: Results, study: Study) -> StudyPlan:
    """What stands in a study as a plan that finds the rows that it names in other files too; waits for it."""
    plan = plan_of_study(study)
    if study.file is None or not any(isinstance(p.step, RowStep) for p in plan.steps):
        return plan
    source, subject = results.source(study), plan.follow_up.subject
    stated = [one.model_dump(mode="json") for one in plan.steps]
    key = ("rows named", str(source.table_sha256), hash_of(stated, subject))
    steps = results.waited(key, NameRows(source, plan.steps, subject), source.rows)
    return plan.model_copy(update={"steps": steps})


def steps_carried_over(
    results: Results, study: Study, new: Source, renamed: Sequence[RenameColumn]
) -> list[PlacedStep]:
    """A study's steps as they are carried over to a new data extract of it; waits for them."""
    source = results.source(study)
    steps = [[one.id, one.active, one.model_dump(mode="json")] for one in study.steps]
    names = [one.model_dump(mode="json") for one in renamed]
    rows = max(source.rows, new.rows)
    key = ("carried over", source.hash, str(new.table_sha256), hash_of(steps, names))
    return results.waited(key, CarryOver(source, study.steps, new, tuple(renamed)), rows)
