"""The report of a study as work: it waits on the results that it needs, so it runs beside them."""

from dataclasses import dataclass

from hourglass.core.watch import Watch
from hourglass.report.composed import Composed, composed
from hourglass.report.gathering import Gathering, findings_hash, kept_letters, report_statement
from hourglass.report.pieces.piece import Pieces
from hourglass.report.reading import read
from hourglass.report.statement import ReportStatement
from hourglass.study.actions.action import REPORT
from hourglass.study.hashes import hash_of
from hourglass.study.keeping import Computed
from hourglass.study.results import Results, Wanted
from hourglass.study.study import Analysis, Study


@dataclass(frozen=True, slots=True)
class RunReport:
    """Compose a report as it is shown."""

    results: Results
    pieces: Pieces
    study: Study
    statement: ReportStatement

    def __call__(self, watch: Watch) -> Computed:
        found = Gathering(self.results, self.pieces, self.study, self.statement).now(watch)
        letters = kept_letters(self.study)
        made = read(found, self.statement, self.pieces, self.results.stages, letters)
        return Computed(made.model_dump_json().encode(), made.headline)


def report_hash(results: Results, pieces: Pieces, study: Study, analysis: Analysis) -> str:
    """Hash of all that a report follows from."""
    own = report_statement(analysis).model_dump(mode="json")
    return hash_of(REPORT, findings_hash(results, pieces, study), own)


def wanted_report(results: Results, pieces: Pieces, study: Study, analysis: Analysis) -> Wanted:
    """A report of a study whose cohort is formed."""
    task = RunReport(results, pieces, study, report_statement(analysis))
    return Wanted(analysis, "", report_hash(results, pieces, study, analysis), task)


def composed_now(
    results: Results, pieces: Pieces, study: Study, statement: ReportStatement, watch: Watch
) -> Composed:
    """A report to be saved; waits for it."""
    return composed(Gathering(results, pieces, study, statement).now(watch), statement, pieces)
