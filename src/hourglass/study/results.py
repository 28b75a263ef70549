"""The results of a study: found if current, else computed, and kept."""

import sys
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeVar, cast
from uuid import UUID, uuid4

import structlog

from hourglass.analysis.export_numbers import AskedStage
from hourglass.analysis.shared.packing import unpack
from hourglass.analysis.shared.sent import Drawing
from hourglass.analysis.shared.stage import Stage, Stages, stage_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import HourglassError
from hourglass.core.watch import Watch
from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.follow_up import KEEP, FindingDecided, LayoutConfirmed
from hourglass.study.formulas import FormulasElsewhere
from hourglass.study.hashes import hash_of
from hourglass.study.keeping import Bytes, Computed, Keeping
from hourglass.study.recent import Recent
from hourglass.study.source import Source, source_of
from hourglass.study.study import Analysis, Study
from hourglass.study.tasks import RunPrepare, RunStage
from hourglass.study.work import Executor, Task, Work, WorkUnderWay

V = TypeVar("V")
log = structlog.get_logger("hourglass")


OF_ANALYSIS, OF_PART = 3, 4
"""How many words of a key name an analysis: its study, stage and id; and a part of it."""


class NoSuchDrawingError(HourglassError):
    """The figure has been replaced by a newer one."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """A result that somebody wants: which, the hash of what it follows from, and how to compute it."""

    analysis: Analysis
    part: str
    hash: str
    task: Task


class Results:
    """Where results come from: kept ones, work under way, and an executor for what is missing."""

    def __init__(
        self, keeping: Keeping, kept_bytes: Bytes, executor: Executor, stages: Stages
    ) -> None:
        self.stages = stages
        self.under_way = WorkUnderWay()
        self._keeping, self._bytes, self._executor = keeping, kept_bytes, executor
        self._formulas = FormulasElsewhere(self.under_way, executor)
        own = uuid4().hex
        self._answers: Recent[Any] = Recent(f"answers {own}")
        self._drawings: Recent[Drawing] = Recent(f"drawings {own}")

    def source(self, study: Study) -> Source:
        """Where the study's cohort comes from."""
        return source_of(study, self._bytes, self._formulas)

    def statement(self, study: Study, analysis: Analysis, cohort: Cohort) -> StageStatement:
        """The statement of an analysis: its own, or the one its stage starts from."""
        stage = stage_of(self.stages, analysis.stage)
        if analysis.body is None:
            return stage.default(cohort)
        return stage.statement.read(analysis.body)

    def in_effect(self, study: Study, stage: str, id: int | None) -> StageStatement | None:
        """What a stage states while nobody has written it; None where the cohort is not formed yet."""
        cohort = self.source(study).cohort()
        analysis = study.analysis(stage, id)
        if not isinstance(cohort, Cohort) or all(one.name != stage for one in self.stages):
            return None
        return self.statement(study, analysis, cohort)

    def stated(self, study: Study) -> Study:
        """The study with the statements in effect written out, where somebody looked and wrote none."""
        cohort = self.source(study).cohort()
        if not isinstance(cohort, Cohort):
            return study
        names = {stage.name for stage in self.stages}
        analyses = tuple(
            replace(a, body=self.statement(study, a, cohort).model_dump(mode="json"))
            if a.body is None and a.asked and a.stage in names
            else a
            for a in study.analyses
        )
        return replace(study, decided=replace(study.decided, analyses=analyses))

    def asked(
        self, study: Study, stage: Stage, analysis: Analysis, cohort: Cohort
    ) -> dict[str, StageStatement]:
        """The statements that an analysis follows from, by stage."""
        return {
            name: self.statement(study, study.needed(analysis, name), cohort)
            for name in stage.needs
        }

    def of_stage(self, study: Study, analysis: Analysis, part: str = "") -> Wanted:
        """The result of an analysis, or a part of it; its cohort must be formed."""
        stage = stage_of(self.stages, analysis.stage)
        source = self.source(study)
        cohort = source.cohort()
        assert isinstance(cohort, Cohort)
        asked = self.asked(study, stage, analysis, cohort)
        return Wanted(
            analysis, part, self.hash(study, analysis, part), RunStage(source, stage, part, asked)
        )

    def hash(self, study: Study, analysis: Analysis, part: str = "") -> str:
        """Hash of what a result follows from: the cohort, and what it takes of the statements kept."""
        stage = stage_of(self.stages, analysis.stage)
        bodies = [
            [name, self._taken(study.needed(analysis, name), stage.takes.get(name))]
            for name in stage.needs
        ]
        return hash_of(analysis.stage, part, self.source(study).hash, bodies)

    def _taken(self, needed: Analysis, fields: tuple[str, ...] | None) -> object:
        """A kept statement, or some of its fields, with their defaults where nobody has written it."""
        if fields is None:
            return None if needed.body is None else dict(needed.body)
        kind = stage_of(self.stages, needed.stage).statement
        if needed.body is None:
            return {name: kind.model_fields[name].default for name in fields}
        return kind.read(needed.body).model_dump(mode="json", include=set(fields))

    def of_prepare(self, study: Study) -> Wanted:
        """What Prepare shows of a study, which must have its file."""
        assert study.file is not None
        source = self.source(study)
        kept, layout = kept_findings(study), layout_decided(study)
        places = [[placed.id, placed.active] for placed in study.steps]
        task = RunPrepare(source, study.steps, kept, study.file.read_at.date(), layout)
        followed_from = hash_of(PREPARE, source.hash, sorted(kept.items()), layout, places)
        return Wanted(study.analysis(PREPARE), "", followed_from, task)

    def current(self, wanted: Wanted) -> bytes | None:
        """The kept result, if it is current."""
        if wanted.analysis.id is None:
            return None
        return self._keeping.find_result(wanted.analysis.id, wanted.part, wanted.hash)

    def start(self, study: Study, wanted: Wanted, executor: Executor | None = None) -> Work:
        """Compute a result and keep it, or join the work that is already under way.

        Nobody waits for what the analysis said before: work on it, and on parts of it, is cancelled.
        """
        key = (
            str(study.id),
            wanted.analysis.stage,
            str(wanted.analysis.id),
            wanted.part,
            wanted.hash,
        )
        self.under_way.cancel_others(key, OF_PART if wanted.part else OF_ANALYSIS)
        begun = time.perf_counter()

        def keep(computed: Computed) -> None:
            self._keep(study, wanted, computed, time.perf_counter() - begun)

        return self.under_way.start(key, wanted.task, executor or self._executor, keep)

    def now(self, study: Study, wanted: Wanted) -> bytes:
        """The result, computed if it is not current; waits for it."""
        found = self.current(wanted)
        if found is not None:
            return found
        computed: Computed = self.start(study, wanted).future.result()
        return computed.body

    def new_drawing(self, key: str) -> Drawing:
        """The whole figure of a result that has just been computed, whether or not it is kept.

        Raises:
            NoSuchDrawingError: when it is gone already.
        """
        packed = self._bytes.drawing(key)
        if packed is None:
            raise NoSuchDrawingError(key)
        return unpack(Drawing, packed)

    def drawing(self, study: UUID, key: str) -> Drawing:
        """The whole figure of a result, with its long series.

        Raises:
            NoSuchDrawingError: when no result that is kept has it any more.
        """

        def read() -> Drawing:
            if not self._keeping.has_drawing(study, key):
                raise NoSuchDrawingError(key)
            packed = self._bytes.drawing(key)
            if packed is None:  # its file is gone: the result is made again
                self._keeping.forget_result(study, key)
                raise NoSuchDrawingError(key)
            return unpack(Drawing, packed)

        return self._drawings.get(f"{study} {key}", read)

    def answer(
        self, key: tuple[str, ...], task: Callable[[Watch], V], executor: Executor | None = None
    ) -> V | Work:
        """An answer that is remembered for a little, or the work that will bring it."""
        known = self._answers.peek("|".join(key))
        if known is not None:
            return cast(V, known)
        return self.under_way.start(
            ("answer", *key),
            task,
            executor or self._executor,
            lambda found: self._answers.put("|".join(key), found),
        )

    def asked_stages(self, study: Study) -> tuple[AskedStage, ...]:
        """Every analysis with the statements that somebody wrote for it."""
        found = []
        for stage in self.stages:
            for analysis in study.of_stage(stage.name) or (Analysis(id=None, stage=stage.name),):
                needed = {name: study.needed(analysis, name) for name in stage.needs}
                own = {
                    name: stage_of(self.stages, name).statement.read(one.body)
                    for name, one in needed.items()
                    if one.body is not None
                }
                needs = {name: stage_of(self.stages, name) for name in stage.needs}
                found.append(AskedStage(stage, analysis.name, own, needs))
        return tuple(found)

    def close(self) -> None:
        """Cancel what is under way."""
        self.under_way.close()

    def _keep(self, study: Study, wanted: Wanted, computed: Computed, seconds: float) -> None:
        log.info(
            "computed",
            study=str(study.id),
            stage=wanted.analysis.stage,
            part=wanted.part,
            seconds=round(seconds, 3),
            size=len(computed.body),
        )
        if wanted.analysis.id is not None:
            self._keeping.keep_result(
                wanted.analysis.id, wanted.part, wanted.hash, computed, study.revision
            )
            if computed.drawing_key:  # a part has none, and takes no other's place
                self._bytes.forget_drawings(self._keeping.drawings())


def asked_for(study: Study, stages: Stages) -> frozenset[str]:
    """Stages that somebody opened or wrote a statement of, and those that these show too."""
    own = {a.stage for a in study.analyses if a.asked}
    with_them = {shown for stage in stages if stage.name in own for shown in stage.asks_for}
    return frozenset(own | with_them)


def kept_findings(study: Study) -> Mapping[str, int]:
    """Findings that somebody decided to leave as they are, with the rows they had then."""
    kept: dict[str, int] = {}
    for d in study.standing:
        if isinstance(d.action, FindingDecided) and d.action.choice == KEEP:
            rows = sys.maxsize if d.action.rows is None else d.action.rows
            kept[d.action.finding] = max(rows, kept.get(d.action.finding, 0))
    return kept


def layout_decided(study: Study) -> bool:
    """Whether somebody has confirmed which layout the study's table has."""
    return any(isinstance(d.action, LayoutConfirmed) for d in study.standing)
