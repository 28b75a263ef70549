"""What is decided of a study at a moment, as it is kept: steps by id, the rest as it is."""

from collections.abc import Mapping
from typing import Any

from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.document import PlacedStep
from hourglass.study.study import Analysis, StudySnapshot


def to_json(snapshot: StudySnapshot) -> dict[str, Any]:
    """As JSON; the steps must have their ids."""
    return {
        "name": snapshot.name,
        "export": snapshot.extract,
        "follow_up": snapshot.follow_up.model_dump(mode="json"),
        "steps": [[placed.id, placed.active] for placed in snapshot.steps],
        "analyses": [
            {
                "id": a.id,
                "stage": a.stage,
                "name": a.name,
                "position": a.position,
                "body": None if a.body is None else dict(a.body),
                "needs": dict(a.needs),
                "begun": a.begun,
            }
            for a in snapshot.analyses
        ],
        "gone": sorted(snapshot.gone),
        "tracks": {
            view: [dict(track) for track in shown] for view, shown in snapshot.tracks.items()
        },
        "figures": {view: dict(settings) for view, settings in snapshot.figures.items()},
        "group_styles": {group: dict(style) for group, style in snapshot.group_styles.items()},
        "planned": snapshot.planned,
        "sealed": snapshot.sealed,
    }


def step_ids(state: Mapping[str, Any]) -> list[int]:
    """The ids of its steps."""
    return [step for step, _ in state["steps"]]


def from_json(state: Mapping[str, Any], steps: Mapping[int, PlacedStep]) -> StudySnapshot:
    """As it was kept; ``steps`` has its steps by id."""
    return StudySnapshot(
        name=state["name"],
        extract=state["export"],
        follow_up=FollowUpStatement.model_validate(state["follow_up"] or {}),
        steps=tuple(steps[k].model_copy(update={"active": active}) for k, active in state["steps"]),
        analyses=tuple(Analysis(**a) for a in state["analyses"]),
        gone=frozenset(state["gone"]),
        figures=state["figures"],
        tracks=state.get("tracks", {}),
        group_styles=state.get("group_styles", state.get("looks", {})),
        planned=state.get("planned"),
        sealed=state.get("sealed"),
    )
