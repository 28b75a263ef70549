"""Studies kept in memory: for tests and for work that leaves nothing behind."""

import copy
import hashlib
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from itertools import count
from typing import Any, Self
from uuid import UUID, uuid4

from hourglass.cohort.reading.packed import PackedReading
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.plan import PlacedStep
from hourglass.study.keeping import Computed, Headline, NewDecision, NewFile
from hourglass.study.study import (
    PREPARE,
    Analysis,
    Decision,
    Export,
    NoSuchStudyError,
    NothingToUndoError,
    Study,
    StudyLine,
)


class BytesInMemory:
    """Bytes by their SHA-256."""

    def __init__(self) -> None:
        self._kept: dict[str, bytes] = {}

    def put(self, data: bytes) -> str:
        """Keep bytes; gives their SHA-256."""
        name = hashlib.sha256(data).hexdigest()
        self._kept[name] = data
        return name

    def get(self, name: str) -> bytes:
        """The bytes of that SHA-256."""
        return self._kept[name]


@dataclass
class _Kept:
    """A study with the revisions of each export's steps and the last results."""

    id: UUID
    name: str
    demo: str | None
    created_at: datetime
    exports: dict[int, Export] = field(default_factory=dict)
    revisions: dict[int, list[list[PlacedStep]]] = field(default_factory=dict)
    follow_up: FollowUpStatement = field(default_factory=FollowUpStatement)
    analyses: dict[int, Analysis] = field(default_factory=dict)
    decisions: dict[int, Decision] = field(default_factory=dict)
    results: dict[tuple[int, str], tuple[str, Computed]] = field(default_factory=dict)
    figure_settings: dict[str, Mapping[str, Any]] = field(default_factory=dict)


class InMemory:
    """The form of :class:`hourglass.study.keeping.Keeping` that is gone with the process."""

    def __init__(self) -> None:
        self._studies: dict[UUID, _Kept] = {}
        self._ids = count(1)

    @contextmanager
    def transaction(self) -> Iterator[Self]:
        """Should the work fail, all is as it was before."""
        before = copy.deepcopy(self._studies)
        try:
            yield self
        except BaseException:
            self._studies = before
            raise

    def studies(self) -> list[StudyLine]:
        return [self._line(kept) for kept in self._studies.values()]

    def create(self, name: str, demo: str | None = None) -> UUID:
        made = _Kept(uuid4(), name, demo, datetime.now(UTC))
        self._studies[made.id] = made
        self.add_analysis(made.id, PREPARE, "", None)
        return made.id

    def rename(self, study: UUID, name: str) -> None:
        self._study(study).name = name

    def delete(self, study: UUID) -> None:
        del self._studies[self._study(study).id]

    def load(self, study: UUID) -> Study:
        kept = self._study(study)
        exports = tuple(self._numbered(kept, one) for one in kept.exports.values())
        file = next((one for one in exports if one.current), None)
        steps = () if file is None else tuple(kept.revisions[file.id][file.revision])
        return Study(
            kept.id,
            kept.name,
            kept.demo,
            exports,
            kept.follow_up,
            tuple(sorted(kept.analyses.values(), key=lambda a: (a.stage, a.position))),
            steps,
            tuple(kept.decisions.values()),
        )

    def lock(self, study: UUID) -> None:
        self._study(study)

    def put_follow_up(self, study: UUID, statement: FollowUpStatement) -> None:
        self._study(study).follow_up = statement

    def add_analysis(
        self, study: UUID, stage: str, name: str, body: Mapping[str, Any] | None
    ) -> int:
        kept, made = self._study(study), next(self._ids)
        position = sum(a.stage == stage for a in kept.analyses.values())
        kept.analyses[made] = Analysis(made, stage, name, position, body)
        return made

    def put_statement(self, analysis: int, body: Mapping[str, Any]) -> None:
        self._change(analysis, body=body)

    def arrange_analysis(
        self, analysis: int, name: str, position: int, needs: Mapping[str, int]
    ) -> None:
        self._change(analysis, name=name, position=position, needs=needs)

    def remove_analysis(self, analysis: int) -> None:
        kept = self._of_analysis(analysis)
        del kept.analyses[analysis]
        kept.results = {key: held for key, held in kept.results.items() if key[0] != analysis}

    def open_analysis(self, analysis: int) -> None:
        self._change(analysis, opened=True)

    def find_result(self, analysis: int, part: str, hash: str) -> bytes | None:
        known = self._of_analysis(analysis).results.get((analysis, part))
        return known[1].body if known is not None and known[0] == hash else None

    def keep_result(self, analysis: int, part: str, hash: str, computed: Computed) -> None:
        self._of_analysis(analysis).results[(analysis, part)] = (hash, computed)

    def find_drawing(self, study: UUID, key: str) -> bytes | None:
        kept = [computed for _, computed in self._study(study).results.values()]
        return next((one.drawing for one in kept if key and one.drawing_key == key), None)

    def figure_settings(self, study: UUID, view: str) -> Mapping[str, Any] | None:
        return self._study(study).figure_settings.get(view)

    def put_figure_settings(self, study: UUID, view: str, settings: Mapping[str, Any]) -> None:
        self._study(study).figure_settings[view] = dict(settings)

    def headlines(self, study: UUID) -> dict[int, Headline]:
        return {
            analysis: Headline(hash, computed.headline, computed.mark, computed.drawing_key)
            for (analysis, part), (hash, computed) in self._study(study).results.items()
            if not part
        }

    def add_export(self, study: UUID, file: NewFile, accepted: bool) -> int:
        if not accepted:
            self.forget_waiting_export(study)
        kept, made = self._study(study), next(self._ids)
        kept.exports[made] = Export(
            made,
            file.name,
            file.sha256,
            file.table_sha256,
            file.size,
            file.reading.rows,
            file.reading.how,
            file.reading.recipe,
            datetime.now(UTC),
            revision=0,
            last_revision=0,
            accepted=accepted,
            current=False,
        )
        kept.revisions[made] = [[]]
        if accepted:
            self.accept_export(study, made)
        return made

    def change_reading(self, export: int, table_sha256: str, reading: PackedReading) -> None:
        kept = self._of_export(export)
        kept.exports[export] = replace(
            kept.exports[export],
            table_sha256=table_sha256,
            rows=reading.rows,
            how_read=reading.how,
            recipe=reading.recipe,
        )

    def accept_export(self, study: UUID, export: int) -> None:
        kept = self._study(study)
        if export not in kept.exports:
            raise NoSuchStudyError("There is no such study, or it has changed: reload the page.")
        for one in kept.exports.values():
            mine = one.id == export
            kept.exports[one.id] = replace(one, current=mine, accepted=one.accepted or mine)

    def forget_waiting_export(self, study: UUID) -> None:
        kept = self._study(study)
        kept.exports = {k: one for k, one in kept.exports.items() if one.accepted}

    def revise(self, export: int, what: str, steps: Sequence[PlacedStep]) -> None:
        kept = self._of_export(export)
        now = kept.exports[export].revision
        placed = [s if s.id else s.model_copy(update={"id": next(self._ids)}) for s in steps]
        kept.revisions[export] = [*kept.revisions[export][: now + 1], placed]
        self._go(kept, export, now + 1)

    def undo(self, export: int, by: int) -> None:
        kept = self._of_export(export)
        to = kept.exports[export].revision + by
        if not 0 <= to < len(kept.revisions[export]):
            raise NothingToUndoError(
                "There is nothing to undo." if by < 0 else "There is nothing to redo."
            )
        self._go(kept, export, to)

    def record(self, study: UUID, decision: NewDecision) -> int:
        made = next(self._ids)
        self._study(study).decisions[made] = Decision(
            made,
            decision.stage,
            decision.about,
            decision.choice,
            decision.sentence,
            decision.reason,
            datetime.now(UTC),
            None,
        )
        return made

    def mark_withdrawn(self, study: UUID, decision: int) -> None:
        kept = self._study(study)
        known = kept.decisions.get(decision)
        if known is None or known.withdrawn_at is not None:
            raise NoSuchStudyError("There is no such study, or it has changed: reload the page.")
        kept.decisions[decision] = replace(known, withdrawn_at=datetime.now(UTC))

    def _study(self, study: UUID) -> _Kept:
        if study not in self._studies:
            raise NoSuchStudyError("There is no such study, or it has changed: reload the page.")
        return self._studies[study]

    def _of_analysis(self, analysis: int) -> _Kept:
        return next(kept for kept in self._studies.values() if analysis in kept.analyses)

    def _of_export(self, export: int) -> _Kept:
        return next(kept for kept in self._studies.values() if export in kept.exports)

    def _change(self, analysis: int, **changes: Any) -> None:
        kept = self._of_analysis(analysis)
        kept.analyses[analysis] = replace(kept.analyses[analysis], **changes)

    def _go(self, kept: _Kept, export: int, revision: int) -> None:
        """Go to a revision: a decision stands while a step of it is there."""
        kept.exports[export] = replace(kept.exports[export], revision=revision)
        there = {placed.decision for placed in kept.revisions[export][revision]}
        ever = {p.decision for steps in kept.revisions[export] for p in steps}
        for k, decision in kept.decisions.items():
            if k in ever:
                gone = None if k in there else decision.withdrawn_at or datetime.now(UTC)
                kept.decisions[k] = replace(decision, withdrawn_at=gone)

    @staticmethod
    def _numbered(kept: _Kept, export: Export) -> Export:
        return replace(export, last_revision=len(kept.revisions[export.id]) - 1)

    @staticmethod
    def _line(kept: _Kept) -> StudyLine:
        file = next((one for one in kept.exports.values() if one.current), None)
        name, rows = (None, None) if file is None else (file.name, file.rows)
        return StudyLine(kept.id, kept.name, kept.demo, kept.created_at, name, rows)
