"""What a report is made from, gathered: each result computed where it is not current."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime

from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.prepare.describe import DescribeResult
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cohort_summary import summarise
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.figure.figure_settings import arrangement_of
from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.stage import Stages, stage_of
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.followup import Cohort
from hourglass.cohort.records.joined import JoinedCohort
from hourglass.cohort.records.prepared import RecordCounts
from hourglass.cohort.table import TextColumn
from hourglass.core.progress import ProgressCallback
from hourglass.report.inputs import DataFile, LoggedDecision, ReportInputs, SealedPlan, WaitingPart
from hourglass.report.pieces.piece import Piece, Pieces
from hourglass.report.pieces.views import ReportedView
from hourglass.report.reported_views import report_pieces, reported_views
from hourglass.report.statement import ReportStatement
from hourglass.study.actions.action import REPORT
from hourglass.study.actions.follow_up import FindingDecided, FollowUpSet
from hourglass.study.actions.plans import PlanSealed
from hourglass.study.decided_so_far import opened_stages
from hourglass.study.hashes import hash_of_shown
from hourglass.study.history import Decision, reported
from hourglass.study.plans.departures import departures_of
from hourglass.study.plans.document import before_data, sealed_plan, sealing
from hourglass.study.result_request import ResultRequest
from hourglass.study.results import Results
from hourglass.study.stage_titles import stage_titles
from hourglass.study.study import Analysis, Extract, Study
from hourglass.study.tasks import formed

Gathered = dict[str, StageResult | PartResult]


def report_statement(analysis: Analysis) -> ReportStatement:
    """The report's statement, or the one it starts from."""
    return ReportStatement() if analysis.body is None else ReportStatement.read(analysis.body)


def kept_letters(study: Study) -> tuple[str, ...]:
    """The letters of the models of the kept models."""
    body = study.analysis("model").body
    kept = () if body is None else ModelStatement.read(body).kept
    return tuple(one.letter for one in kept)


def findings_hash(
    results: Results, pieces: Pieces, study: Study, statement: ReportStatement
) -> str:
    """Hash of all that a report of a study can follow from, besides its own statement."""
    reported_study = reported_copy(study, statement.model)
    stated = opened_stages(reported_study, results.stages) - {REPORT}
    shown = [_of(results, reported_study, name).key for name in sorted(stated)]
    offered = _offered(results, pieces, reported_study)
    there = [
        key for key in offered if results.is_computed(_of(results, reported_study, *key.split("/")))
    ]
    views = [_view(results, reported_study, one).key for one in reported_views(results, study)]
    decided = [[d.id, d.sentence, d.reason] for d in _decisions(study)]
    prepared = "" if study.file is None else results.of_prepare(study).key
    group_styles = [dict(style) for style in study.snapshot.group_styles.values()]
    axes = {view: asdict(arrangement_of(shown)) for view, shown in study.tracks.items()}
    keys = [[piece.key, piece.title] for piece in report_pieces(results, pieces, study)]
    departed = [d.model_dump(mode="json") for d in departures_of(results, study)]
    sealed = [study.snapshot.sealed, departed]
    return hash_of_shown(
        prepared, shown, views, there, study.name, decided, keys, group_styles, axes, sealed
    )


def _offered(results: Results, pieces: Pieces, study: Study) -> list[str]:
    """The parts that pieces print from and that are only computed where somebody requests them."""
    stated, found = opened_stages(study, results.stages), []
    for key in dict.fromkeys(key for piece in pieces for key in piece.parts):
        name, _, part = key.partition("/")
        if name in stated and results.offer(study, name, part):
            found.append(key)
    return found


def _of(results: Results, study: Study, stage: str, part: str = "") -> ResultRequest:
    return results.of_stage(study, study.analysis(stage), part)


def _view(results: Results, study: Study, view: ReportedView) -> ResultRequest:
    return results.of_stage(study, study.analysis(view.stage, view.analysis))


def _decisions(study: Study) -> list[Decision]:
    """Those that a report lists: how follow-up is made stands in the methods, unless a reason was given."""
    return [
        d for d in reported(study.standing) if d.reason or not isinstance(d.action, FollowUpSet)
    ]


def _logged(decision: Decision, stages: Stages) -> LoggedDecision:
    action = decision.action
    if isinstance(action, FindingDecided):
        about, outcome = action.title, action.outcome
    else:
        about = stage_titles(stages).get(decision.stage, formatting.capital(decision.stage))
        outcome = decision.sentence
    return LoggedDecision(about, outcome, decision.reason, decision.made_at)


@dataclass(frozen=True, slots=True)
class Gathering:
    """A study of which a report is made.

    Attributes:
        results: where its results come from; its cohort must be formed.
        statement: the report's: what is left out is not computed.
    """

    results: Results
    pieces: Pieces
    study: Study
    statement: ReportStatement

    def now(self, progress: ProgressCallback) -> ReportInputs:
        """The results that somebody requested; waits for them."""
        results, study = self.results, reported_copy(self.study, self.statement.model)
        cohort = formed(results.source(study))
        progress("reading what was prepared", 0.1)
        prepared = results.now(study, results.of_prepare(study), progress, 0.1).result
        views = reported_views(results, study)
        found = self._of_stages(study, views, progress)
        waiting = list[WaitingPart]()
        offered = _offered(results, self.pieces, study)
        for key in self._parts(found):
            name, _, part = key.partition("/")
            request = _of(results, study, name, part)
            if key in offered and not results.is_computed(request):
                stage = stage_of(results.stages, name)
                waiting.append(WaitingPart(name, stage.title, stage.part(part).title))
                continue
            progress("computing parts", 0.5)
            found[key] = results.now(study, request, progress, 0.5).result
        statements = {
            stage.name: results.statement(study, study.analysis(stage.name))
            for stage in results.stages
            if results.missing(study, stage.name) is None
        }
        for view in views:
            own = study.analysis(view.stage, view.analysis)
            statements[view.key] = results.statement(study, own)
        return ReportInputs(
            study=study.name,
            dated=datetime.now(UTC).date(),
            files=tuple(data_file(extract) for extract in _used_first(study)),
            prepare=prepared,
            follow_up=cohort.statement,
            cohort=summarise(cohort),
            results=found,
            statements=statements,
            described=self._described(cohort, statements),
            waiting=tuple(waiting),
            decisions=tuple(_logged(d, results.stages) for d in _decisions(study)),
            tracks=study.tracks,
            group_styles=study.group_styles,
            curves=self.statement.curves,
            sealed=_sealed(results, study),
            tables=tuple(table.stated for table in study.tables),
            joined=_joined(results, study),
            left_out=frozenset(p.key for p in self.pieces if not self._held(p)),
        )

    def _held(self, piece: Piece) -> bool:
        return self.statement.holds(piece.key, piece.shortest)

    def _of_stages(
        self, study: Study, views: Sequence[ReportedView], progress: ProgressCallback
    ) -> Gathered:
        results, found = self.results, Gathered()
        stated = opened_stages(study, results.stages)
        for stage in (one for one in results.stages if one.name in stated):
            progress(f"computing {stage.title}", 0.3)
            request = _of(results, study, stage.name)
            found[stage.name] = results.now(study, request, progress, 0.3).result
        for view in views:
            progress(f"computing view {view.letter} of {view.stage_title}", 0.4)
            found[view.key] = results.now(study, _view(results, study, view), progress, 0.4).result
        return found

    def _parts(self, found: Gathered) -> Iterator[str]:
        """The parts that the pieces print from, of results that have them."""
        for piece in self.pieces:
            for key in piece.parts if self._held(piece) else ():
                stage, _, part = key.partition("/")
                result = found.get(stage)
                if isinstance(result, StageResult) and result.blank is None:
                    yield from (key for s in result.sections if s.part == part)

    def _described(
        self, cohort: Cohort, statements: Mapping[str, StageStatement]
    ) -> DescribeResult | None:
        """Who is in the groups that are compared, where a piece prints it."""
        if not any(p.describes and self._held(p) for p in self.pieces):
            return None
        by = statement_of(statements, CompareStatement).by if "compare" in statements else None
        there = by is not None and cohort.table.has(by)
        grouped = there and isinstance(cohort.table.column(str(by)), TextColumn)
        return self.results.described(self.study, by if grouped else None)


def reported_copy(study: Study, letter: str) -> Study:
    """The study with a kept model in the place of the one that Model shows; as it is without a letter."""
    shown = study.analysis("model")
    if not letter or shown.body is None:
        return study
    statement = ModelStatement.read(shown.body)
    kept = next((one for one in statement.kept if one.letter == letter), None)
    if kept is None or kept is statement.current:
        return study
    body = statement.showing(kept.model).model_dump(mode="json")
    others = tuple(a for a in study.snapshot.analyses if a.id != shown.id)
    text = replace(shown, id=None, body=body)
    return replace(
        study,
        snapshot=replace(study.snapshot, analyses=(text, *others)),
        looked_at=tuple(a for a in study.looked_at if a.id != shown.id),
    )


def _sealed(results: Results, study: Study) -> SealedPlan | None:
    plan, placed = sealed_plan(study), sealing(study)
    if plan is None or plan.sealed is None or placed is None:
        return None
    seal = plan.sealed
    return SealedPlan(
        at=seal.at,
        sha256=seal.sha256,
        here=isinstance(placed.action, PlanSealed),
        placed=placed.made_at,
        before=before_data(study, placed),
        departures=tuple(departures_of(results, study)),
        stages=frozenset(one.stage for one in plan.analyses if one.statement),
    )


def _used_first(study: Study) -> list[Extract]:
    """The data extracts that were ever in use, that in use now before all others."""
    accepted = [extract for extract in study.extracts if extract.accepted]
    return sorted(accepted, key=lambda extract: (extract is not study.file, extract.id))


def _joined(results: Results, study: Study) -> tuple[RecordCounts, ...]:
    """What became of the rows of further tables."""
    found = results.source(study).joined()
    return found.counts if isinstance(found, JoinedCohort) else ()


def data_file(extract: Extract) -> DataFile:
    """What is shown of a data extract."""
    return DataFile(
        name=extract.name,
        sha256=extract.sha256,
        size=extract.size,
        rows=extract.rows,
        how_read=extract.how_read,
        read_at=extract.read_at,
    )
