"""What would mislead, from every stage that is in the report."""

from hourglass.analysis.shared.cautions import Caution
from hourglass.analysis.shared.result import StageResult
from hourglass.report.findings import Findings
from hourglass.report.pieces.piece import Piece, Printed


def _cautions(found: Findings) -> Printed:
    seen: dict[str, Caution] = {}
    for result in found.results.values():
        for caution in result.cautions if isinstance(result, StageResult) else ():
            seen.setdefault(caution.key, caution)
    return Printed(cautions=tuple(seen.values()))


PIECE = Piece(key="cautions", title="Read with care", words="cautions", render=_cautions)
