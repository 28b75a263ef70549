"""What of a plan fits a file, and what does not."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from hourglass.analysis.prepare.sentence import follow_up_sentence
from hourglass.analysis.shared.formatting import count
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.input import COHORT, Missing
from hourglass.analysis.shared.stage import Stages, stage_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.steps.apply import StepEffect
from hourglass.cohort.words import cut
from hourglass.core.progress import ProgressCallback
from hourglass.study.history import MAX_SENTENCE_CHARACTERS
from hourglass.study.plans.document import PlannedAnalysis, StudyPlan
from hourglass.study.plans.steps import StepForFile, steps_for_file
from hourglass.study.source import Source
from hourglass.study.turns import Turn


class FitLine(FrozenModel):
    """A part of a plan, what it states, and why it does not fit; blank where it does."""

    part: str
    states: str
    why: str


class PlanFit(FrozenModel):
    """A plan set against a file, line by line; ``words`` are how much of it fits."""

    lines: list[FitLine]
    words: str


@dataclass(frozen=True, slots=True)
class RunPlanFit:
    """Set a plan against a file: its steps are carried out on it, and its analyses made.

    Attributes:
        file: where the file's table comes from; its steps and its follow-up statement are not used.
        sha256: of the file's bytes.
    """

    file: Source
    sha256: str
    plan: StudyPlan
    stages: Stages

    @property
    def turn(self) -> Turn:
        """Its turn: all analyses of the plan are made."""
        return self.file.turn(long=True)

    def __call__(self, progress: ProgressCallback) -> PlanFit:
        plan = self.plan
        steps = steps_for_file(plan, self.sha256, self.file.table())
        active = tuple(one.placed.step for one in steps if one.placed.active)
        source = replace(self.file, steps=active, follow_up=plan.follow_up)
        lines = step_lines(steps, source.applied()[1])
        formed = COHORT.load(source)
        waits = formed.blocks if isinstance(formed, Missing) else ()
        blocks = " ".join(block.sentence for block in waits)
        text = follow_up_sentence(source.after_steps(), plan.follow_up).text
        lines.append(FitLine(part="Follow-up", states=text, why=blocks))
        analyses = [a for a in plan.analyses if any(a.stage == s.name for s in self.stages)]
        for k, one in enumerate(analyses):
            stage = stage_of(self.stages, one.stage)
            progress(f"trying {stage.title}", 0.2 + 0.7 * k / len(analyses))
            text, why = one.name, "waits for the follow-up"
            statements = _statements(self.stages, analyses, one, source)
            if statements is not None:
                found = stage.now(stage.input.load(source), statements, progress)
                text, why = found.sentence.text, found.blank or ""
            lines.append(
                FitLine(part=stage.title, states=cut(text, MAX_SENTENCE_CHARACTERS), why=why)
            )
        return PlanFit(lines=lines, words=_in_words(lines))


def _in_words(lines: Sequence[FitLine]) -> str:
    """How many parts do not fit."""
    misfits = sum(bool(line.why) for line in lines)
    if not misfits:
        return "All of it fits the file."
    verb = "does" if misfits == 1 else "do"
    return f"{misfits} of {count(len(lines), 'parts')} {verb} not fit the file as it is."


def step_lines(steps: Sequence[StepForFile], effects: Sequence[StepEffect]) -> list[FitLine]:
    """Each step that a plan switches on, and why it does not fit.

    Args:
        effects: of those that are carried out, in order.
    """
    done = iter(effects)
    lines = []
    for k, one in enumerate(steps, start=1):
        broken = (next(done).broken or "") if one.placed.active else ""
        why = broken or one.why
        if one.placed.active or one.why:
            lines.append(FitLine(part=f"Step {k}", states=one.placed.step.named(), why=why))
    return lines


def _statements(
    stages: Stages, analyses: Sequence[PlannedAnalysis], one: PlannedAnalysis, source: Source
) -> Mapping[str, StageStatement] | None:
    """The statements that an analysis of a plan follows from: its own, and the first of other stages; None
    where an input is missing."""
    statements = {}
    for name in stage_of(stages, one.stage).needs:
        stage = stage_of(stages, name)
        value = stage.input.load(source)
        if isinstance(value, Missing):
            return None
        first = one if name == one.stage else next((a for a in analyses if a.stage == name), None)
        stated = first.statement if first is not None else {}
        statements[name] = stage.statement.read(stated) if stated else stage.default(value)
    return statements
