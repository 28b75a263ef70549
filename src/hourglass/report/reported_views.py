"""The views of a study that its report prints besides the first of their stages."""

from hourglass.analysis.shared.stage import stage_of
from hourglass.report.pieces.piece import Pieces
from hourglass.report.pieces.views import REPORTED, ReportedView, pieces_with_views
from hourglass.study.results import Results
from hourglass.study.study import Study
from hourglass.study.view_keys import view_key
from hourglass.study.views import letters, titles_of_views


def reported_views(results: Results, study: Study) -> tuple[ReportedView, ...]:
    """The further views of the stages whose curves a report draws, in their order."""
    found = []
    for name in (stage.name for stage in results.stages if stage.name in REPORTED):
        own = study.of_stage(name)
        if len(own) < 2 or results.missing(study, name) is not None:
            continue
        stage, letter = stage_of(results.stages, name), letters(study, name)
        statements = [results.statement(study, one) for one in own]
        titles = titles_of_views(own, statements, stage.field_words)
        found += [
            ReportedView(
                key=view_key(name, letter[one.id]),
                stage=name,
                analysis=one.id,
                stage_title=stage.title,
                letter=letter[one.id],
                title=title,
            )
            for one, title in list(zip(own, titles, strict=True))[1:]
            if one.id is not None
        ]
    return tuple(found)


def report_pieces(results: Results, pieces: Pieces, study: Study) -> Pieces:
    """The pieces that a report of a study can have: those of all studies, and one for each view."""
    return pieces_with_views(pieces, reported_views(results, study))
