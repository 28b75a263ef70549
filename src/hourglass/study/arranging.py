"""How people arrange what is shown of a study: tracks, tones, prints. No number depends on it."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from hourglass.analysis.shared.changed_words import shortened
from hourglass.study.history import ARRANGED, NewDecision
from hourglass.study.keeping import Keeping
from hourglass.study.study import Study


def set_figure(keeping: Keeping, study: Study, view: str, settings: Mapping[str, Any]) -> Study:
    """Keep how the figure of a view is printed."""
    if study.decided.figures.get(view) == settings:
        return study
    entry = NewDecision(
        stage=view,
        about="figure",
        choice=ARRANGED,
        sentence="How the figure is printed was changed",
    )
    figures = {**study.decided.figures, view: dict(settings)}
    return keeping.append(study, entry, replace(study.decided, figures=figures))


def set_tracks(
    keeping: Keeping, study: Study, view: str, shown: Sequence[Mapping[str, Any]]
) -> Study:
    """Say which tracks a view shows, in their order, with their heights."""
    shown = [dict(track) for track in shown]
    before = study.decided.tracks.get(view)
    if before == shown:
        return study
    entry = NewDecision(
        stage=view,
        about="tracks",
        choice=ARRANGED,
        sentence=shortened(f"Tracks shown: {_tracks(shown)}"),
        before="" if before is None else shortened(_tracks(before)),
        after=shortened(_tracks(shown)),
    )
    tracks = {**study.decided.tracks, view: shown}
    return keeping.append(study, entry, replace(study.decided, tracks=tracks))


def set_look(
    keeping: Keeping, study: Study, view: str, group: str, look: Mapping[str, Any]
) -> Study:
    """Say how a group is drawn; said in a view."""
    if study.decided.looks.get(group) == look:
        return study
    entry = NewDecision(
        stage=view,
        about="look",
        choice=ARRANGED,
        sentence=shortened(f"How a group is drawn: {group}"),
    )
    looks = {**study.decided.looks, group: dict(look)}
    return keeping.append(study, entry, replace(study.decided, looks=looks))


def _tracks(shown: Sequence[Mapping[str, Any]]) -> str:
    return ", ".join(str(track["id"]) for track in shown) or "none"
