"""The results of a study: found if current, else computed, and kept."""

import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any, TypeVar, cast
from uuid import uuid4

import structlog

from hourglass.analysis.extract_numbers import OpenedStage
from hourglass.analysis.prepare.describe import DescribeResult
from hourglass.analysis.prepare.run import prepare
from hourglass.analysis.shared.input import COHORT, Input, Missing
from hourglass.analysis.shared.sent import Drawing
from hourglass.analysis.shared.stage import Stage, Stages, stage_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.core.errors import HourglassError
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.study.actions.action import PREPARE
from hourglass.study.code import code_of
from hourglass.study.decided_so_far import kept_findings, layout_decided
from hourglass.study.formulas import ROWS_WORKED_OUT_AT_ONCE, FormulasElsewhere
from hourglass.study.hashes import hash_of, hash_of_shown
from hourglass.study.made import Made, Make, Shown, kept_numbers
from hourglass.study.recent import Recent
from hourglass.study.repository import BlobStore, KeptResult, StudyRepository
from hourglass.study.result_request import ResultRequest
from hourglass.study.source import Source, source_of
from hourglass.study.study import Analysis, Study
from hourglass.study.tasks import MakePrepare, MakeStage, RunDescribe, input_of
from hourglass.study.work import Executor, Task, Work, WorkUnderWay, brought

V = TypeVar("V")
log = structlog.get_logger("hourglass")


SHOWN_AT_ONCE = 5_000
"""Rows up to which what is shown is made of kept numbers while somebody waits."""
REMEMBERED = 2
"""So many states of an analysis are remembered as they were shown: a page may still show the one before."""
OF_ANALYSIS, OF_PART = 3, 4
"""How many words of a key name an analysis: its study, stage and id; and a part of it."""


class NoSuchDrawingError(HourglassError):
    """The figure has been replaced by a newer one."""


class Results:
    """Where results come from: kept numbers, work under way, and an executor for what is missing."""

    def __init__(
        self, repository: StudyRepository, blobs: BlobStore, executor: Executor, stages: Stages
    ) -> None:
        self.stages = stages
        self.under_way = WorkUnderWay()
        self._repository, self._blobs, self._executor = repository, blobs, executor
        self._formulas = FormulasElsewhere(self.under_way, executor)
        own = uuid4().hex
        self._answers: Recent[Any] = Recent(f"answers {own}")
        self._shown: Recent[Shown] = Recent(f"shown {own}")
        self._keys: dict[tuple[int | None, str], list[str]] = {}

    def source(self, study: Study) -> Source:
        """Where the study's cohort comes from."""
        return source_of(study, self._blobs, self._formulas)

    def missing(self, study: Study, stage: str) -> Missing | None:
        """What a stage waits for, if it waits; a report waits for the cohort."""
        source = self.source(study)
        loaded = (one.load(source) for one in self._inputs(stage))
        return next((one for one in loaded if isinstance(one, Missing)), None)

    def _inputs(self, name: str) -> list[Input]:
        """The inputs of a stage, and of those whose statements it reads."""
        stage = next((one for one in self.stages if one.name == name), None)
        if stage is None:
            return [COHORT]
        return [one.input for one in self.stages if one is stage or one.name in stage.needs]

    def statement(self, study: Study, analysis: Analysis) -> StageStatement:
        """The statement of an analysis: its own, or the one its stage starts from; its input is there."""
        stage = stage_of(self.stages, analysis.stage)
        if analysis.body is None:
            return stage.default(input_of(self.source(study), stage))
        return stage.statement.read(analysis.body)

    def in_effect(self, study: Study, stage: str, id: int | None) -> StageStatement | None:
        """What a stage states while nobody has written it; None where its input is not there yet."""
        known = any(one.name == stage for one in self.stages)
        if not known or self.missing(study, stage) is not None:
            return None
        return self.statement(study, study.analysis(stage, id))

    def stated(self, study: Study) -> Study:
        """The study with the statements in effect written out, where somebody looked and wrote none."""
        ready = {one.name for one in self.stages if self.missing(study, one.name) is None}
        analyses = tuple(
            replace(a, body=self.statement(study, a).model_dump(mode="json"))
            if a.body is None and a.in_use and a.stage in ready
            else a
            for a in study.analyses
        )
        return replace(study, snapshot=replace(study.snapshot, analyses=analyses))

    def statements_of(
        self, study: Study, stage: Stage, analysis: Analysis
    ) -> dict[str, StageStatement]:
        """The statements that an analysis follows from, by stage."""
        return {name: self.statement(study, study.needed(analysis, name)) for name in stage.needs}

    def of_stage(self, study: Study, analysis: Analysis, part: str = "") -> ResultRequest:
        """The result of an analysis, or a part of it; its input must be there."""
        stage, source = stage_of(self.stages, analysis.stage), self.source(study)
        statements = self.statements_of(study, stage, analysis)
        numbers = stage.numbers_of(part)
        made_by = code_of(numbers.compute.__module__)
        hash = hash_of(
            stage.name, part, stage.input.key(source), made_by, numbers.stated(statements)
        )
        whole = {name: one.model_dump(mode="json") for name, one in statements.items()}
        key = _key(study, analysis, hash, whole)
        making = MakeStage(source, stage, part, statements)
        return ResultRequest(analysis, part, hash, key, making, source.rows)

    def of_prepare(self, study: Study) -> ResultRequest:
        """What Prepare shows of a study, which must have its file."""
        assert study.file is not None
        source = self.source(study)
        kept, layout = kept_findings(study), layout_decided(study)
        places = [[placed.id, placed.active] for placed in study.steps]
        making = MakePrepare(source, study.steps, kept, study.file.read_at.date(), layout)
        made_by = code_of(prepare.__module__)
        hash = hash_of(PREPARE, made_by, source.hash, sorted(kept.items()), layout, places)
        analysis = study.analysis(PREPARE)
        return ResultRequest(analysis, "", hash, _key(study, analysis, hash), making, source.rows)

    def current(self, request: ResultRequest) -> Shown | None:
        """What is shown of a result whose numbers are kept; None where showing it takes its time, too."""
        known = self._shown.peek(request.key)
        if known is not None or request.rows > SHOWN_AT_ONCE:
            return known
        numbers = kept_numbers(self._blobs, self._kept(request))
        if numbers is None:
            return None
        shown = request.making.show(*numbers, request.key)
        self._remember(request, request.key, shown)
        return shown

    def offer(self, study: Study, stage: str, part: str) -> str:
        """What is offered in the place of a part that takes long; blank where it is computed at once."""
        of, source = stage_of(self.stages, stage), self.source(study)
        return of.part(part).offer(input_of(source, of))

    def _remember(self, request: ResultRequest, key: str, shown: Shown) -> None:
        """Remember what is shown of an analysis, and what a page may still show of it: the one before."""
        own = (request.analysis.id, request.part)
        keys = [*(k for k in self._keys.get(own, ()) if k != key), key]
        for old in keys[:-REMEMBERED]:
            self._shown.forget(old)
        self._keys[own] = keys[-REMEMBERED:]
        self._shown.put(key, shown)

    def is_computed(self, request: ResultRequest) -> bool:
        """Whether the numbers of a result are kept."""
        return bool(self._kept(request))

    def _kept(self, request: ResultRequest) -> str:
        """The name of the kept numbers of a result; blank where none are."""
        if request.analysis.id is None:
            return ""
        return self._repository.find_numbers(request.analysis.id, request.part, request.hash) or ""

    def start(self, study: Study, request: ResultRequest, executor: Executor | None = None) -> Work:
        """Make a result and keep its numbers, or join the work that is already under way.

        Work on the analysis as it was stated before, and on parts of it, is cancelled: nobody waits for it.
        """
        kept = self._kept(request)
        # One that is not kept, or whose numbers are, is made for what is shown of it.
        goal = request.key if kept or request.analysis.id is None else request.hash
        id, stage = str(request.analysis.id), request.analysis.stage
        key = (str(study.id), stage, id, request.part, goal)
        self.under_way.cancel_others(key, OF_PART if request.part else OF_ANALYSIS)
        begun = time.perf_counter()
        task = Make(
            making=request.making,
            blobs=self._blobs,
            key=request.key,
            kept=kept,
            keep=request.analysis.id is not None,
        )

        def keep(made: Made) -> None:
            self._remember(request, made.key, made.shown)
            if made.numbers != kept:
                self._keep(study, request, made, time.perf_counter() - begun)

        return self.under_way.start(key, task, executor or self._executor, keep)

    def now(
        self,
        study: Study,
        request: ResultRequest,
        progress: ProgressCallback = no_progress,
        share: float = 0.0,
    ) -> Shown:
        """What is shown of a result, made if it is not there; waits for it, ``share`` of the way."""
        found = self.current(request)
        while found is None:
            found = self.made_for(request, brought(self.start(study, request), progress, share))
        return found

    def made_for(self, request: ResultRequest, made: Made) -> Shown | None:
        """What work has made of the numbers, if it is what is wanted: others may have begun it."""
        return made.shown if made.key == request.key else self.current(request)

    def drawing(self, study: Study, key: str) -> Drawing:
        """The whole figure of a result, with its long series.

        Raises:
            NoSuchDrawingError: when no result has it any more.
        """
        known = self._shown.peek(key)
        request = None if known is not None else self._with_key(study, key)
        if request is not None:
            known = self.now(study, request)
        if known is None or known.drawing is None:
            raise NoSuchDrawingError(key)
        return known.drawing

    def _with_key(self, study: Study, key: str) -> ResultRequest | None:
        """The result of a study that is shown under a key."""
        every = [] if study.file is None else [self.of_prepare(study)]
        for stage in self.stages:
            if self.missing(study, stage.name) is None:
                every += [self.of_stage(study, one) for one in study.of_stage(stage.name)]
        return next((one for one in every if one.key == key and self.is_computed(one)), None)

    def answer(
        self,
        key: tuple[str, ...],
        task: Callable[[ProgressCallback], V],
        executor: Executor | None = None,
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

    def begun(self, key: tuple[str, ...], task: Task) -> Work:
        """Work whose answer nobody remembers but whoever waits for it."""
        return self.under_way.start(key, task, self._executor)

    def waited(self, key: tuple[str, ...], task: Callable[[ProgressCallback], V], rows: int) -> V:
        """An answer about so many rows, waited for: few are worked on here, many by the executor.

        Raises:
            CancelledError: when somebody has cancelled the work.
        """
        if rows <= ROWS_WORKED_OUT_AT_ONCE:
            return task(no_progress)
        return _ended(self.answer(key, task))

    def described(self, study: Study, by: str | None) -> DescribeResult:
        """Who is in the groups of a column; waits for it."""
        return _ended(self.describe(study, by))

    def describe(self, study: Study, by: str | None) -> DescribeResult | Work:
        """Who is in the groups of a column, or the work that will bring it."""
        source = self.source(study)
        return self.answer(("describe", source.hash, by or ""), RunDescribe(source, by))

    def opened_stages(self, study: Study) -> tuple[OpenedStage, ...]:
        """Every analysis of the cohort with the statements that somebody wrote for it."""
        found = []
        for stage in (one for one in self.stages if one.input is COHORT):
            for analysis in study.of_stage(stage.name) or (Analysis(id=None, stage=stage.name),):
                needed = {name: study.needed(analysis, name) for name in stage.needs}
                own = {
                    name: stage_of(self.stages, name).statement.read(one.body)
                    for name, one in needed.items()
                    if one.body is not None
                }
                needs = {name: stage_of(self.stages, name) for name in stage.needs}
                found.append(OpenedStage(stage, analysis.name, own, needs))
        return tuple(found)

    def close(self) -> None:
        """Cancel what is under way."""
        self.under_way.close()

    def _keep(self, study: Study, request: ResultRequest, made: Made, seconds: float) -> None:
        log.info(
            "computed",
            study=str(study.id),
            stage=request.analysis.stage,
            part=request.part,
            seconds=round(seconds, 3),
            size=len(made.shown.body),
        )
        if request.analysis.id is not None:
            shown = made.shown
            kept = KeptResult(
                numbers=made.numbers,
                headline=shown.headline,
                mark=shown.mark,
                pictured=shown.drawing is not None,
                thumbnail=shown.thumbnail,
            )
            self._repository.keep_result(
                request.analysis.id, request.part, request.hash, kept, study.revision
            )
            self._blobs.forget_numbers(self._repository.numbers())


def _ended(found: V | Work) -> V:
    return cast(V, found.future.result()) if isinstance(found, Work) else found


def _key(study: Study, analysis: Analysis, *parts: object) -> str:
    """What is shown of an analysis goes by: its study and itself, and all that it follows from."""
    return hash_of_shown(str(study.id), analysis.id, *parts)
