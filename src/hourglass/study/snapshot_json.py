"""What is decided of a study at a moment, as it is kept: steps by id, the rest as it is."""

from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter

from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.records.statement import RecordTable
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.document import PlacedStep
from hourglass.study.study import Analysis, StudySnapshot, TableInUse


def to_json(snapshot: StudySnapshot) -> dict[str, Any]:
    """As JSON; the steps must have their ids."""
    return {
        "name": snapshot.name,
        "export": snapshot.extract,
        "tables": [
            {
                "extract": one.extract,
                "stated": one.stated.model_dump(mode="json"),
                "steps": [step.model_dump(mode="json") for step in one.steps],
                "reading": None if one.reading is None else one.reading.model_dump(mode="json"),
            }
            for one in snapshot.tables
        ],
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
        tables=tuple(_table(one) for one in state.get("tables", ())),
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


def _table(kept: Mapping[str, Any]) -> TableInUse:
    steps = TypeAdapter(tuple[Step, ...]).validate_python(kept["steps"])
    return TableInUse(
        extract=kept["extract"],
        stated=RecordTable.model_validate(kept["stated"]),
        steps=steps,
        reading=None if kept["reading"] is None else Recipe.model_validate(kept["reading"]),
    )
