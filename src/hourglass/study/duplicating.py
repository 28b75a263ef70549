"""A copy of a study: its files, and every decision, with its reason."""

from dataclasses import replace
from datetime import datetime

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.document import PlacedStep
from hourglass.study.actions.data import FileAttached
from hourglass.study.actions.turns import StudyBegun
from hourglass.study.actions.union import Action
from hourglass.study.history import Decision, NewDecision
from hourglass.study.repository import NewFile, StudyRepository
from hourglass.study.study import Analysis, Extract, Study, StudySnapshot


def duplicate(repository: StudyRepository, study: Study, name: str) -> Study:
    """Make a study of another name in which the same has been decided, in the same order."""
    with repository.transaction() as inside:
        copy = Copying(inside, study, inside.load(inside.create(name)))
        for decision in study.standing:
            if decision.whole:
                snapshot = inside.snapshot_at(study.id, decision.id)
                copy.take(decision, replace(snapshot, name=name))
        return copy.made


class Copying:
    """A copy as far as it has got: which of its own ids stand for those of the study."""

    def __init__(self, repository: StudyRepository, study: Study, made: Study) -> None:
        self.made = made
        self._repository, self._study = repository, study
        self._decisions: dict[int, int] = {}
        self._steps: dict[int, PlacedStep] = {}
        self._extracts = {
            extract.id: repository.add_extract(
                made.id, _as_new(extract), waiting=not extract.accepted
            )
            for extract in study.extracts
        }
        self._analyses = {
            a.id: repository.begin_analysis(made.id, a.stage, a.begun)
            for a in study.looked_at
            if a.id is not None
        }

    def take(self, decision: Decision, was: StudySnapshot, at: datetime | None = None) -> None:
        """Decide as in the study, at a moment or now; ``was`` is what was decided after it."""
        action = decision.action
        if isinstance(action, StudyBegun):
            if was.extract is None:
                self._decisions[decision.id] = self.made.revision
                return  # a study that has just begun, like the copy
            extract = next(one for one in self._study.extracts if one.id == was.extract)
            action = FileAttached(name=extract.name, sha256=extract.sha256)
        entry = NewDecision(
            action=self._renumbered(action),
            reason=decision.reason,
            actor=decision.actor,
            undoes=self._decisions.get(decision.undoes or 0),
            redoes=self._decisions.get(decision.redoes or 0),
            withdraws=tuple(self._decisions[w] for w in decision.withdraws if w in self._decisions),
        )
        self.made = self._repository.append(self.made, entry, self._decided(was, decision.id), at)
        self._decisions[decision.id] = self.made.revision
        self._steps |= {a.id: b for a, b in zip(was.steps, self.made.steps, strict=True)}

    def _renumbered(self, action: Action) -> Action:
        return action.renumbered(
            {
                "analysis": self._analyses,
                "export": self._extracts,
                "step_id": {old: step.id for old, step in self._steps.items()},
                "decision": self._decisions,
            }
        )

    def _decided(self, was: StudySnapshot, id: int) -> StudySnapshot:
        return StudySnapshot(
            name=was.name,
            extract=None if was.extract is None else self._extracts[was.extract],
            tables=tuple(
                replace(one, extract=self._extracts.get(one.extract or 0)) for one in was.tables
            ),
            follow_up=was.follow_up,
            steps=tuple(self._step(placed, id) for placed in was.steps),
            analyses=tuple(
                replace(
                    a,
                    id=self._analysis(a),
                    needs={s: self._analyses[n] for s, n in a.needs.items() if n in self._analyses},
                )
                for a in was.analyses
            ),
            gone=frozenset(self._analyses[g] for g in was.gone if g in self._analyses),
            figures=was.figures,
            tracks=was.tracks,
            group_styles=was.group_styles,
            planned=was.planned,
            sealed=was.sealed,
        )

    def _step(self, placed: PlacedStep, id: int) -> PlacedStep:
        known = self._steps.get(placed.id)
        if known is not None:
            return known.model_copy(update={"active": placed.active})
        made_here = placed.decision == id
        decision = None if made_here else self._decisions.get(placed.decision or 0)
        return placed.model_copy(update={"id": 0, "decision": decision})

    def _analysis(self, analysis: Analysis) -> int:
        assert analysis.id is not None
        if analysis.id not in self._analyses:
            made = self._repository.begin_analysis(self.made.id, analysis.stage, analysis.begun)
            self._analyses[analysis.id] = made
        return self._analyses[analysis.id]


def _as_new(extract: Extract) -> NewFile:
    reading = PackedReading(
        table=b"",
        rows=extract.rows,
        columns=(),
        recipe=extract.recipe,
        how=extract.how_read,
        proposal=FollowUpStatement(),
        evidence=extract.evidence,
        sheets=extract.sheets,
    )
    return NewFile(
        name=extract.name,
        sha256=extract.sha256,
        table_sha256=extract.table_sha256,
        size=extract.size,
        reading=reading,
        read_at=extract.read_at,
        table=extract.table,
    )
