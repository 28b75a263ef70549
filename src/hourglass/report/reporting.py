"""The report of a study as work: it waits on the results that it needs, so it runs beside them."""

from dataclasses import dataclass

from hourglass.core.progress import ProgressCallback
from hourglass.report.composed import Composed, composed
from hourglass.report.formats.registry import FORMS
from hourglass.report.gathering import Gathering, findings_hash, kept_letters, report_statement
from hourglass.report.pieces.piece import Pieces
from hourglass.report.reading import read
from hourglass.report.report_result import ReportResult
from hourglass.report.reported_views import report_pieces
from hourglass.report.statement import ReportStatement
from hourglass.study.actions.action import REPORT
from hourglass.study.hashes import hash_of_shown
from hourglass.study.made import Shown
from hourglass.study.result_request import ResultRequest
from hourglass.study.results import Results
from hourglass.study.study import Analysis, Study
from hourglass.study.turns import Turn
from hourglass.study.work import brought


@dataclass(frozen=True, slots=True)
class MakeReport:
    """How a report as it is shown is made."""

    results: Results
    pieces: Pieces
    study: Study
    statement: ReportStatement

    @property
    def turn(self) -> Turn:
        """Its turn: it only waits."""
        return Turn()

    def compute(self, progress: ProgressCallback) -> ReportResult:
        """Compose it."""
        pieces = report_pieces(self.results, self.pieces, self.study)
        found = Gathering(self.results, pieces, self.study, self.statement).now(progress)
        letters = kept_letters(self.study)
        return read(found, self.statement, pieces, self.results.stages, letters)

    def show(self, numbers: ReportResult, drawing: str) -> Shown:
        """The same, as it is sent."""
        body = numbers.model_dump_json().encode()
        return Shown(result=numbers, body=body, headline=numbers.headline)


def report_hash(results: Results, pieces: Pieces, study: Study, analysis: Analysis) -> str:
    """Hash of all that a report follows from."""
    statement = report_statement(analysis)
    findings = findings_hash(results, pieces, study, statement)
    own = statement.model_dump(mode="json")
    return hash_of_shown(str(study.id), analysis.id, REPORT, findings, own)


def report_request(
    results: Results, pieces: Pieces, study: Study, analysis: Analysis
) -> ResultRequest:
    """A report of a study whose cohort is formed."""
    making = MakeReport(results, pieces, study, report_statement(analysis))
    hash = report_hash(results, pieces, study, analysis)
    return ResultRequest(analysis, "", hash, hash, making)


def composed_now(
    results: Results,
    pieces: Pieces,
    study: Study,
    statement: ReportStatement,
    progress: ProgressCallback,
) -> Composed:
    """A report to be saved; waits for it."""
    own = report_pieces(results, pieces, study)
    return composed(Gathering(results, own, study, statement).now(progress), statement, own)


@dataclass(frozen=True, slots=True)
class WriteForm:
    """Write a report in a form."""

    report: Composed
    form: str

    def __call__(self, progress: ProgressCallback) -> bytes:
        progress(f"writing {self.form.upper()}", 0.7)
        return next(one for one in FORMS if one.key == self.form).write(self.report)


@dataclass(frozen=True, slots=True)
class MakeFile:
    """A report as a file: composed here, where it waits on results, and written in another process."""

    results: Results
    pieces: Pieces
    study: Study
    analysis: Analysis
    form: str

    @property
    def key(self) -> tuple[str, ...]:
        """What it is remembered by."""
        hash = report_hash(self.results, self.pieces, self.study, self.analysis)
        return ("report file", hash, self.form)

    def __call__(self, progress: ProgressCallback) -> bytes:
        statement = report_statement(self.analysis)
        made = composed_now(self.results, self.pieces, self.study, statement, progress)
        writing = self.results.begun(("writing", *self.key), WriteForm(made, self.form))
        written: bytes = brought(writing, progress, 0.7)
        return written
