"""Choose the tracks of a figure that are printed, and the names printed for them."""

from collections.abc import Sequence

from hourglass.analysis.shared.figure.description import Figure, Track
from hourglass.report.print.settings import PrintSettings


def chosen_tracks(figure: Figure, settings: PrintSettings) -> Sequence[Track]:
    """The tracks to print, in the order requested."""
    if settings.tracks is None:
        shown = [track for track in figure.tracks if track.shown]
    else:
        shown = [t for id in settings.tracks for t in [figure.track(id)] if t is not None]
    return [track for track in shown if settings.at_risk or not track.counts]


def worded(figure: Figure, settings: PrintSettings) -> Figure:
    """The figure with the words that somebody chose in place of its own."""

    def label(own: str) -> str:
        return settings.labels.get(own) or own

    tracks = [
        track.model_copy(
            update={
                "title": settings.titles.get(track.id) or track.title,
                "marks": [m.model_copy(update={"label": label(m.label)}) for m in track.marks],
                "counts": [c.model_copy(update={"label": label(c.label)}) for c in track.counts],
                "panels": [p.model_copy(update={"title": label(p.title)}) for p in track.panels],
            }
        )
        for track in figure.tracks
    ]
    across = figure.across.model_copy(update={"label": settings.across or figure.across.label})
    return figure.model_copy(update={"tracks": tracks, "across": across})
