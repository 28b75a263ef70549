"""The steps of an export, in revisions: every change makes one, and undoing goes back to the last."""

from collections.abc import Sequence

from psycopg.types.json import Jsonb

from hourglass.cohort.steps.plan import PlacedStep
from hourglass.store.queries import query
from hourglass.store.rows import Db, one
from hourglass.study.study import NothingToUndoError


def placed_steps(db: Db, export: int) -> tuple[PlacedStep, ...]:
    """The steps of an export's current revision, in order."""
    return tuple(
        PlacedStep.model_validate(
            {"id": r["id"], "step": r["body"], "active": r["active"], "decision": r["decision_id"]}
        )
        for r in db.execute(query("find_steps"), {"export": export})
    )


def revise(db: Db, export: int, what: str, steps: Sequence[PlacedStep]) -> None:
    """Make a new revision of an export's steps; steps with id 0 are new. What was undone is gone."""
    with db.transaction():
        revision = int(one(db, "lock_export", export=export)["revision"])
        db.execute(query("forget_later_revisions"), {"export": export, "revision": revision})
        db.execute(
            query("add_revision"), {"export": export, "revision": revision + 1, "what": what}
        )
        for position, placed in enumerate(steps):
            step = placed.id or _add_body(db, export, placed)
            db.execute(
                query("add_place"),
                {
                    "export": export,
                    "revision": revision + 1,
                    "position": position,
                    "step": step,
                    "active": placed.active,
                },
            )
        _go(db, export, revision + 1)


def undo(db: Db, export: int, by: int) -> None:
    """Go back a revision (−1), or forth (1).

    Raises:
        NothingToUndoError: when there is none.
    """
    with db.transaction():
        revision = int(one(db, "lock_export", export=export)["revision"]) + by
        there = db.execute(
            query("has_revision"), {"export": export, "revision": revision}
        ).fetchone()
        if revision < 0 or (revision > 0 and there is None):
            raise NothingToUndoError(
                "There is nothing to undo." if by < 0 else "There is nothing to redo."
            )
        _go(db, export, revision)


def _add_body(db: Db, export: int, placed: PlacedStep) -> int:
    body = Jsonb(placed.step.model_dump(mode="json"))
    return int(one(db, "add_step_body", export=export, decision=placed.decision, body=body)["id"])


def _go(db: Db, export: int, revision: int) -> None:
    db.execute(query("go_to_revision"), {"export": export, "revision": revision})
    db.execute(query("settle_decisions"), {"export": export})
