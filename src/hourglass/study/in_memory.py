"""Studies kept in memory: for tests and for work that leaves nothing behind."""

import copy
import hashlib
from collections.abc import Callable, Collection, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from itertools import count
from typing import Any, BinaryIO, Self
from uuid import UUID, uuid4

from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.turns import StudyBegun
from hourglass.study.history import Decision, NewDecision
from hourglass.study.repository import Deletion, Headline, KeptResult, NewFile
from hourglass.study.study import (
    Analysis,
    Extract,
    NoSuchStudyError,
    ResultLine,
    StaleError,
    Study,
    StudyLine,
    StudySnapshot,
)

NO_STUDY = "There is no such study, or it has changed: reload the page."


class BlobsInMemory:
    """Bytes by their SHA-256."""

    def __init__(self) -> None:
        self._kept: dict[str, bytes] = {}

    def put(self, data: bytes) -> str:
        """Keep bytes; gives their SHA-256."""
        name = hashlib.sha256(data).hexdigest()
        self._kept[name] = data
        return name

    @contextmanager
    def staged(self) -> Iterator["StagedInMemory"]:
        """A place for bytes that are kept all together or not at all."""
        yield StagedInMemory(self)

    def get(self, name: str) -> bytes:
        """The bytes of that SHA-256."""
        return self._kept[name]

    def put_numbers(self, packed: bytes) -> str:
        """Keep a drawing; gives its key."""
        return self.put(packed)

    def numbers(self, key: str) -> bytes | None:
        """The drawing of that key, if it is still there."""
        return self._kept.get(key)

    def forget_numbers(self, kept: Collection[str]) -> None:
        """Nothing is forgotten: memory ends with the process."""


class StagedInMemory:
    """Bytes that wait to be kept."""

    def __init__(self, kept: BlobsInMemory) -> None:
        self._kept, self._waiting = kept, list[bytes]()

    def add(self, source: BinaryIO) -> str:
        """Take bytes in; gives their SHA-256."""
        data = source.read()
        self._waiting.append(data)
        return hashlib.sha256(data).hexdigest()

    def keep(self) -> None:
        """Keep all of them."""
        for data in self._waiting:
            self._kept.put(data)


@dataclass(kw_only=True)
class _Kept:
    """A study with what was decided at each entry of its log, and the last results."""

    id: UUID
    demo: str | None
    created_at: datetime
    extracts: dict[int, Extract] = field(default_factory=dict)
    looked_at: dict[int, Analysis] = field(default_factory=dict)
    decisions: list[Decision] = field(default_factory=list)
    snapshot: dict[int, StudySnapshot] = field(default_factory=dict)
    results: dict[tuple[int, str], tuple[str, KeptResult]] = field(default_factory=dict)
    made_for: dict[tuple[int, str], int] = field(default_factory=dict)


class InMemory:
    """The form of :class:`hourglass.study.repository.Keeping` that is gone with the process."""

    def __init__(self, now: Callable[[], datetime] = lambda: datetime.now(UTC)) -> None:
        self._now = now
        self._studies: dict[UUID, _Kept] = {}
        self._deleted: dict[UUID, _Kept] = {}
        self._deletions: list[Deletion] = []
        self._demos: set[str] = set()
        self._presets: dict[str, dict[str, Any]] = {}
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

    def create(self, name: str, demo: str | None = None, at: datetime | None = None) -> UUID:
        made = _Kept(id=uuid4(), demo=demo, created_at=self._now())
        self._studies[made.id] = made
        self.begin_analysis(made.id, PREPARE, False)
        entry = NewDecision(action=StudyBegun(name=name))
        self._log(made, entry, StudySnapshot(name=name), at)
        return made.id

    def demos_loaded(self) -> set[str]:
        return set(self._demos)

    def note_demo(self, demo: str) -> None:
        self._demos.add(demo)

    def delete(self, study: Study) -> None:
        now = self.load(study.id)
        if now.revision != study.revision:
            raise StaleError(now, study.revision)
        self._deleted[study.id] = self._studies.pop(study.id)
        made = Deletion(
            study=study.id, name=study.name, revision=study.revision, deleted_at=self._now()
        )
        self._deletions.append(made)

    def figure_presets(self) -> dict[str, dict[str, Any]]:
        names = sorted(self._presets, key=lambda name: (name.lower(), name))
        return {name: dict(self._presets[name]) for name in names}

    def put_figure_preset(self, name: str, settings: Mapping[str, Any]) -> None:
        self._presets[name] = dict(settings)

    def delete_figure_preset(self, name: str) -> None:
        self._presets.pop(name, None)

    def deletions(self) -> list[Deletion]:
        return list(self._deletions)

    def restore(self, study: UUID, revision: int | None = None) -> None:
        kept = self._deleted.get(study)
        if kept is None or revision not in (None, kept.decisions[-1].id):
            raise NoSuchStudyError(NO_STUDY)
        self._studies[study] = self._deleted.pop(study)
        self._deletions = [
            replace(one, restored_at=self._now())
            if one.study == study and one.restored_at is None
            else one
            for one in self._deletions
        ]

    def load(self, study: UUID) -> Study:
        kept = self._study(study)
        decisions = tuple(kept.decisions)
        now = kept.snapshot[decisions[-1].id]
        return Study(
            id=kept.id,
            demo=kept.demo,
            extracts=tuple(kept.extracts.values()),
            looked_at=tuple(kept.looked_at.values()),
            snapshot=now,
            decisions=decisions,
        )

    def append(
        self, study: Study, entry: NewDecision, snapshot: StudySnapshot, at: datetime | None = None
    ) -> Study:
        study.refuse_decided_meanwhile(entry.action)
        kept = self._study(study.id)
        if kept.decisions[-1].id != study.revision:
            raise StaleError(self.load(study.id), study.revision)
        self._log(kept, entry, snapshot, at)
        return replace(self.load(study.id), meanwhile=study.meanwhile)

    def snapshot_at(self, study: UUID, decision: int) -> StudySnapshot:
        return self._study(study).snapshot[decision]

    def last_with_extract(self, study: UUID, extract: int) -> StudySnapshot | None:
        every = reversed(self._study(study).snapshot.values())
        return next((one for one in every if one.extract == extract), None)

    def begin_analysis(self, study: UUID, stage: str, begun: bool) -> int:
        there = self._study(study).looked_at.values()
        first = next((a.id for a in there if a.stage == stage and not a.begun), None)
        if first is not None and not begun:
            return first
        made = next(self._ids)
        self._study(study).looked_at[made] = Analysis(id=made, stage=stage, begun=begun)
        return made

    def open_analysis(self, analysis: int) -> None:
        there = self._of_analysis(analysis).looked_at
        there[analysis] = replace(there[analysis], opened=True)

    def find_numbers(self, analysis: int, part: str, hash: str) -> str | None:
        known = self._of_analysis(analysis).results.get((analysis, part))
        return known[1].numbers if known is not None and known[0] == hash else None

    def keep_result(
        self, analysis: int, part: str, hash: str, result: KeptResult, revision: int = 0
    ) -> None:
        kept = self._of_analysis(analysis)
        kept.results[(analysis, part)] = (hash, result)
        kept.made_for[(analysis, part)] = revision

    def numbers(self) -> set[str]:
        every = (one for study in self._studies.values() for _, one in study.results.values())
        return {one.numbers for one in every}

    def headlines(self, study: UUID) -> dict[int, Headline]:
        return {
            analysis: Headline(hash, result.headline, result.mark, result.pictured)
            for (analysis, part), (hash, result) in self._study(study).results.items()
            if not part
        }

    def add_extract(self, study: UUID, file: NewFile, waiting: bool) -> int:
        if waiting:
            self.forget_waiting_export(study)
        kept, made = self._study(study), next(self._ids)
        kept.extracts[made] = Extract(
            id=made,
            name=file.name,
            sha256=file.sha256,
            table_sha256=file.table_sha256,
            size=file.size,
            rows=file.reading.rows,
            how_read=file.reading.how,
            recipe=file.reading.recipe,
            evidence=file.reading.evidence,
            sheets=file.reading.sheets,
            read_at=file.read_at or self._now(),
            accepted=not waiting,
            table=file.table,
        )
        return made

    def forget_waiting_export(self, study: UUID) -> None:
        kept = self._study(study)
        kept.extracts = {k: one for k, one in kept.extracts.items() if one.accepted}

    def _log(
        self, kept: _Kept, entry: NewDecision, snapshot: StudySnapshot, at: datetime | None
    ) -> None:
        made = next(self._ids)
        steps = tuple(
            s if s.id else s.model_copy(update={"id": next(self._ids)})
            for s in snapshot.steps_of(made)
        )
        kept.snapshot[made] = replace(snapshot, steps=steps)
        kept.decisions.append(entry.logged(made, at or self._now()))
        if snapshot.extract is not None:
            used = kept.extracts.get(snapshot.extract)
            if used is None:
                raise NoSuchStudyError(NO_STUDY)
            kept.extracts[used.id] = replace(used, accepted=True)

    def _study(self, study: UUID) -> _Kept:
        if study not in self._studies:
            raise NoSuchStudyError(NO_STUDY)
        return self._studies[study]

    def _of_analysis(self, analysis: int) -> _Kept:
        return next(kept for kept in self._studies.values() if analysis in kept.looked_at)

    @staticmethod
    def _line(kept: _Kept) -> StudyLine:
        now = kept.snapshot[kept.decisions[-1].id]
        file = None if now.extract is None else kept.extracts[now.extract]
        name, rows = (None, None) if file is None else (file.name, file.rows)
        results = tuple(
            ResultLine(
                kept.looked_at[analysis].stage,
                result.headline,
                None if result.thumbnail is None else result.thumbnail.model_dump(mode="json"),
                kept.made_for[(analysis, part)] == kept.decisions[-1].id,
            )
            for (analysis, part), (_, result) in kept.results.items()
            if not part and not kept.looked_at[analysis].begun
        )
        revision = kept.decisions[-1].id
        return StudyLine(
            id=kept.id,
            name=now.name,
            demo=kept.demo,
            created_at=kept.created_at,
            revision=revision,
            file_name=name,
            rows=rows,
            results=results,
        )
