"""The report of a study: the results it needs gathered, each computed where it is not current."""

from dataclasses import dataclass
from typing import cast

from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.prepare.run import PrepareResult
from hourglass.analysis.shared.cohort_summary import summarise
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.stage import stage_of
from hourglass.api.state import State
from hourglass.cohort.followup import Cohort
from hourglass.core.watch import Watch
from hourglass.report.document import report_of
from hourglass.report.pieces.piece import Findings, LoggedDecision
from hourglass.report.statement import ReportStatement
from hourglass.study.hashes import hash_of
from hourglass.study.history import reported
from hourglass.study.keeping import Computed
from hourglass.study.results import Wanted, asked_for
from hourglass.study.study import PREPARE, REPORT, Analysis, Study


@dataclass(frozen=True, slots=True)
class RunReport:
    """Compose the report; it waits on the results it needs, so it runs beside them."""

    state: State
    study: Study
    statement: ReportStatement

    def __call__(self, watch: Watch) -> Computed:
        found = findings_of(self.state, self.study, watch)
        made = report_of(found, self.statement, self.state.pieces, self.state.stages)
        return Computed(made.model_dump_json().encode(), made.headline)


def report_statement(analysis: Analysis) -> ReportStatement:
    """The report's statement, or the one it starts from."""
    return ReportStatement() if analysis.body is None else ReportStatement.read(analysis.body)


def report_hash(state: State, study: Study, analysis: Analysis) -> str:
    """Hash of what the report follows from: all results, the decisions, its own statement."""
    results = state.results
    kept = [results.hash(study, study.analysis(stage.name)) for stage in state.stages]
    said = [[d.id, d.sentence, d.reason] for d in reported(study.standing, PREPARE)]
    asked = sorted(asked_for(study, state.stages) - {REPORT})
    prepared = "" if study.file is None else results.of_prepare(study).hash
    pieces = [piece.key for piece in state.pieces]
    own = report_statement(analysis).model_dump(mode="json")
    looks = [dict(look) for look in study.decided.looks.values()]
    return hash_of(REPORT, prepared, kept, study.name, asked, said, pieces, own, looks)


def wanted_report(state: State, study: Study, analysis: Analysis) -> Wanted:
    """The report of a study whose cohort is formed."""
    task = RunReport(state, study, report_statement(analysis))
    return Wanted(analysis, "", report_hash(state, study, analysis), task)


def findings_of(state: State, study: Study, watch: Watch) -> Findings:
    """The results somebody asked for."""
    results = state.results
    cohort = results.source(study).cohort()
    assert isinstance(cohort, Cohort)
    assert study.file is not None
    watch("reading what was prepared", 0.1)
    prepared = PrepareResult.model_validate_json(results.now(study, results.of_prepare(study)))
    asked, found = asked_for(study, state.stages), dict[str, StageResult | PartResult]()
    for stage in (one for one in state.stages if one.name in asked):
        watch(f"computing {stage.title}", 0.3)
        body = results.now(study, results.of_stage(study, study.analysis(stage.name)))
        found[stage.name] = _with_drawing(state, study, stage.result.model_validate_json(body))
    for key in _parts(state, study, found):
        watch("computing parts", 0.7)
        name, _, part = key.partition("/")
        body = results.now(study, results.of_stage(study, study.analysis(name), part))
        found[key] = stage_of(state.stages, name).part(part).result.model_validate_json(body)
    estimate = results.statement(study, study.analysis("estimate"), cohort)
    return Findings(
        study=study.name,
        file=study.file.name,
        sha256=study.file.sha256,
        prepare=prepared,
        cohort=summarise(cohort),
        results=found,
        decisions=tuple(
            LoggedDecision(d.stage, d.sentence, d.reason, d.made_at)
            for d in reported(study.standing, PREPARE)
        ),
        times=cast(EstimateStatement, estimate).times,
        looks=study.looks,
    )


def _with_drawing(state: State, study: Study, found: StageResult) -> StageResult:
    """A result with its whole figure, which is printed with all its points."""
    if not found.drawing:
        return found
    whole = state.results.drawing(study.id, found.drawing).figure
    return found.model_copy(update={"figure": whole})


def _parts(state: State, study: Study, found: dict[str, StageResult | PartResult]) -> list[str]:
    """The parts that the pieces print from, of results that there are."""
    left_out = report_statement(study.analysis(REPORT)).left_out
    wanted = []
    for piece in state.pieces:
        for key in () if piece.key in left_out else piece.parts:
            stage, _, part = key.partition("/")
            result = found.get(stage)
            if not isinstance(result, StageResult) or result.blank is not None:
                continue
            waiting = next((s for s in result.sections if s.part == part), None)
            if waiting is None:
                continue
            # What takes long is printed where somebody has had it computed.
            asked = state.results.of_stage(study, study.analysis(stage), part)
            if not waiting.offer or state.results.current(asked) is not None:
                wanted.append(key)
    return wanted
