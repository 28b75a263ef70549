"""Commands on what is shown of a study: tracks, tones, prints. No number depends on it."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from hourglass.study.actions.figures import FigureSet, GroupStyleSet, TracksShown
from hourglass.study.history import NewDecision
from hourglass.study.repository import StudyRepository
from hourglass.study.study import Study


def set_figure(
    repository: StudyRepository,
    study: Study,
    view: str,
    settings: Mapping[str, Any],
    usual: Mapping[str, Any] | None = None,
) -> Study:
    """Keep how the figure of a view is printed; ``usual`` is how it is where nobody has set that."""
    before = study.snapshot.figures.get(view)
    action = FigureSet(view=view, before=dict(before or usual or {}), after=dict(settings))
    if before == settings:
        return study.left_as_it_is(action)
    figures = {**study.snapshot.figures, view: dict(settings)}
    return repository.append(
        study, NewDecision(action=action), replace(study.snapshot, figures=figures)
    )


def set_tracks(
    repository: StudyRepository, study: Study, view: str, shown: Sequence[Mapping[str, Any]]
) -> Study:
    """Set which tracks a view shows, in their order, with their heights."""
    now = [dict(track) for track in shown]
    before = study.snapshot.tracks.get(view)
    was = None if before is None else tuple(dict(track) for track in before)
    action = TracksShown(view=view, before=was, after=tuple(now))
    if before == now:
        return study.left_as_it_is(action)
    tracks = {**study.snapshot.tracks, view: now}
    return repository.append(
        study, NewDecision(action=action), replace(study.snapshot, tracks=tracks)
    )


def set_group_style(
    repository: StudyRepository, study: Study, view: str, group: str, style: Mapping[str, Any]
) -> Study:
    """Set in a view how a group is drawn, in all views."""
    before = study.snapshot.group_styles.get(group)
    was = None if before is None else dict(before)
    action = GroupStyleSet(view=view, group=group, before=was, after=dict(style))
    if before == style:
        return study.left_as_it_is(action)
    group_styles = {**study.snapshot.group_styles, group: dict(style)}
    return repository.append(
        study, NewDecision(action=action), replace(study.snapshot, group_styles=group_styles)
    )
