"""The result of a stage: found if it is current, else computed as work, and kept."""

import sys
from collections.abc import Callable
from concurrent.futures import TimeoutError as StillWorkingError
from typing import Any, Generic, TypeVar, cast
from uuid import UUID

from pydantic import BaseModel

from hourglass.analysis import wording
from hourglass.analysis.check import CheckResult
from hourglass.analysis.compare import CompareResult
from hourglass.analysis.context import summarise
from hourglass.analysis.estimate import EstimateResult
from hourglass.analysis.model import ModelResult
from hourglass.analysis.preparation import BlockReading, PrepareResult, prepare
from hourglass.analysis.registry import ANALYSES, Analysis, statements_for
from hourglass.analysis.statements import EstimateStatement, ReportStatement, Stage, Statement
from hourglass.analysis.typed import Typed
from hourglass.analysis.watch import CancelledError, Watch
from hourglass.api.answers import ANSWER_WITHIN, cancelled
from hourglass.api.desk import Desk
from hourglass.api.work import WorkReading
from hourglass.cohort.followup import Cohort
from hourglass.report.document import (
    Findings,
    LoggedDecision,
    offers,
    printed,
    report_sentence,
    tables,
    to_html,
)
from hourglass.report.report_result import ReportResult
from hourglass.store import results
from hourglass.store.studies import Study, open_stage

R = TypeVar("R", bound=BaseModel)
ANALYSED = tuple(analysis.name for analysis in ANALYSES)
NEEDS: dict[Stage, tuple[Stage, ...]] = {
    "prepare": (),
    **{analysis.name: analysis.needs for analysis in ANALYSES},
    "report": (*ANALYSED, "report"),
}
"""The statements that each stage's result follows from."""


class StageReply(Typed, Generic[R]):
    """One of: the result with its statement, the work that will bring it, or what blocks it."""

    result: R | None = None
    statement: Statement | None = None
    work: WorkReading | None = None
    blocked: list[BlockReading] | None = None


def stage_hash(study: Study, stage: Stage) -> str:
    """Hash of what a stage's result follows from, besides the cohort."""
    own = [study.statements.get(s) or [s] for s in NEEDS[stage]]
    decided: list[Any] = []
    if stage == "prepare":
        decided = [
            sorted(kept_findings(study).items()),
            layout_decided(study),
            [[placed.id, placed.active] for placed in study.steps],
        ]
    if stage == "report":
        said = [[d.id, d.sentence, d.reason] for d in study.standing]
        decided = [study.name, sorted(study.asked - {"report"}), *said]
    return results.statement_hash([stage], *own, decided)


def kept_findings(study: Study) -> dict[str, int]:
    """Findings that somebody decided to leave as they are, with the rows they had then."""
    kept: dict[str, int] = {}
    for d in study.standing:
        if d.choice == "keep" and d.stage == "prepare":
            key, _, rows = d.about.rpartition("|")
            if rows.isdigit():
                kept[key] = max(int(rows), kept.get(key, 0))
            else:  # decided before the number of rows was kept with it
                kept[d.about] = sys.maxsize
    return kept


def layout_decided(study: Study) -> bool:
    """Whether somebody has said which layout the study's table has."""
    return any(d.about == "layout" for d in study.standing)


def reply(desk: Desk, study_id: UUID, stage: Stage, kind: type[R]) -> StageReply[R]:
    """Answer a request for a stage's result, within a moment."""
    study = desk.study(study_id)
    cohort: Cohort | None = None
    if stage == "prepare":
        if study.file is None:
            return StageReply(blocked=[])
    else:
        formed = desk.cohort(study)
        if not isinstance(formed, Cohort):
            return StageReply(blocked=[BlockReading.model_validate(b) for b in formed])
        cohort = formed
        if stage not in study.opened:
            with desk.db() as db:
                open_stage(db, study_id, stage)
            study = desk.study(study_id)
    statement = None if cohort is None else desk.statement(study, stage, cohort)
    found = current(desk, study, stage, kind)
    if found is not None:
        return StageReply(result=found, statement=statement)
    key = (str(study_id), stage, results.cohort_hash(study), stage_hash(study, stage))
    work = desk.workshop.start(key, lambda watch: compute(desk, study, stage, watch))
    try:
        result = cast(R, work.future.result(ANSWER_WITHIN))
    except StillWorkingError:
        return StageReply(statement=statement, work=work.reading())
    except CancelledError:
        raise cancelled() from None
    return StageReply(result=result, statement=statement)


def current(desk: Desk, study: Study, stage: Stage, kind: type[R]) -> R | None:
    """The kept result, if it is current."""
    with desk.db() as db:
        body = results.find_current(
            db, study.id, stage, results.cohort_hash(study), stage_hash(study, stage)
        )
    return None if body is None else kind.model_validate(body)


def compute(desk: Desk, study: Study, stage: Stage, watch: Watch) -> BaseModel:
    """Compute a stage's result and keep it."""
    result, headline, mark = COMPUTE[stage](desk, study, watch)
    with desk.db() as db:
        results.keep(
            db,
            study.id,
            stage,
            results.cohort_hash(study),
            stage_hash(study, stage),
            headline,
            mark,
            result.model_dump(mode="json"),
        )
    return result


Computed = tuple[BaseModel, str, str]


def _cohort(desk: Desk, study: Study) -> Cohort:
    cohort = desk.cohort(study)
    assert isinstance(cohort, Cohort)
    return cohort


def _prepare(desk: Desk, study: Study, watch: Watch) -> Computed:
    assert study.file is not None
    found = prepare(
        desk.table(study),
        study.steps,
        study.follow_up,
        kept_findings(study),
        study.file.read_at.date(),
        layout_decided(study),
        watch,
    )
    open_findings = len(found.findings)
    return found, found.headline, f"{open_findings} to decide" if open_findings else ""


def _analysed(analysis: Analysis) -> Callable[[Desk, Study, Watch], Computed]:
    def compute(desk: Desk, study: Study, watch: Watch) -> Computed:
        cohort = _cohort(desk, study)
        asked = statements_for(analysis, study.statements, cohort)
        found: Any = analysis.run(cohort, asked, watch)
        return found, found.headline, analysis.mark(found)

    return compute


def _report(desk: Desk, study: Study, watch: Watch) -> Computed:
    found = findings_of(desk, study, watch)
    asked = cast(ReportStatement, desk.statement(study, "report", _cohort(desk, study)))
    made = ReportResult(
        sentence=report_sentence(asked, study.name),
        html=to_html(found, asked),
        tables=[table.key for table in tables(found, asked)],
        offers=offers(found, asked),
        headline=wording.count(len(printed(found, asked)), "pieces"),
    )
    return made, made.headline, ""


def findings_of(desk: Desk, study: Study, watch: Watch) -> Findings:
    """The results somebody asked for, computed where they are not current."""
    cohort = _cohort(desk, study)
    assert study.file is not None

    def get(stage: Stage, kind: type[R]) -> R:
        found = current(desk, study, stage, kind)
        return found if found is not None else cast(R, compute(desk, study, stage, watch))

    def if_asked(stage: Stage, kind: type[R]) -> R | None:
        return get(stage, kind) if stage in study.asked else None

    return Findings(
        study=study.name,
        file=study.file.name,
        sha256=study.file.sha256,
        prepare=get("prepare", PrepareResult),
        cohort=summarise(cohort),
        estimate=if_asked("estimate", EstimateResult),
        compare=if_asked("compare", CompareResult),
        model=if_asked("model", ModelResult),
        check=if_asked("check", CheckResult),
        decisions=tuple(
            LoggedDecision(d.stage, d.sentence, d.reason, d.made_at) for d in study.standing
        ),
        times=cast(EstimateStatement, desk.statement(study, "estimate", cohort)).times,
    )


COMPUTE: dict[Stage, Callable[[Desk, Study, Watch], Computed]] = {
    "prepare": _prepare,
    **{analysis.name: _analysed(analysis) for analysis in ANALYSES},
    "report": _report,
}
