"""Actions on what the stages state, and on the analyses that state it."""

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field

from hourglass.analysis.model.field_words import MODEL_WORDS
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.field_words import (
    BETWEEN,
    FieldWords,
    Words,
    changed_fields,
    plain_value,
    sentence_of,
    worded_changes,
)
from hourglass.analysis.shared.formatting import capital
from hourglass.study.actions.action import (
    DATA,
    REPORT,
    BaseAction,
    DeferredSection,
    OnItsOwn,
    Parts,
)

REPORT_WORDS: Words = {
    "title": FieldWords("Title of the report"),
    "left_out": FieldWords("Left out of the report"),
    "order": FieldWords("Order of the report"),
    "words": FieldWords("Words written for", lambda words: plain_value(list(words or {}))),
    "length": FieldWords("Length of the report"),
    "width": FieldWords("Width of figures"),
    "model": FieldWords("Model of the report"),
    "curves": FieldWords("Curves of the report"),
}
WORDS: Mapping[str, Words] = {**{s.name: s.field_words for s in STAGES}, REPORT: REPORT_WORDS}


class OfAnalysis(BaseAction):
    """What is done to an analysis: its stage, and its id."""

    stage: str
    analysis: int | None = None

    @property
    def where(self) -> str:
        return self.stage

    @property
    def kind_of(self) -> str:
        """What an analysis of the stage is called."""
        return "report" if self.stage == REPORT else "view"

    @property
    def own(self) -> DeferredSection:
        """The statement of the analysis."""
        return ("statement", self.stage, str(self.analysis))

    @property
    def changes(self) -> Parts:
        return frozenset([self.own])

    @property
    def rests_on(self) -> Parts:
        return frozenset([self.own, DATA])


class StatementSet(OfAnalysis):
    """A part of the statement of an analysis was set: fields that hold something else, as JSON."""

    kind: Literal["statement set"] = "statement set"
    version: int = 1
    before: dict[str, Any] = Field(default_factory=dict)
    after: dict[str, Any] = Field(default_factory=dict)

    @property
    def about(self) -> str:
        return ",".join(self.after)

    def _worded(self) -> str:
        changes = worded_changes(self.before, self.after, WORDS.get(self.stage, {}))
        return sentence_of(changes) or "Written out as it was"


class ModelsKept(OfAnalysis):
    """Models were kept, noted, planned, dropped or let go; each as JSON."""

    kind: Literal["models kept"] = "models kept"
    before: tuple[dict[str, Any], ...] = ()
    after: tuple[dict[str, Any], ...] = ()

    def _worded(self) -> str:
        was, becomes = ({one["letter"]: one for one in kept} for kept in (self.before, self.after))
        return "; ".join(
            self._of(letter, was.get(letter), becomes.get(letter))
            for letter in sorted(was.keys() | becomes.keys())
            if was.get(letter) != becomes.get(letter)
        )

    @staticmethod
    def _of(letter: str, was: dict[str, Any] | None, becomes: dict[str, Any] | None) -> str:
        before, now = (
            "" if one is None else MODEL_WORDS["kept"].value([one]).removeprefix(f"{letter}: ")
            for one in (was, becomes)
        )
        if not before:
            return f"Model {letter} kept: {now}"
        return f"Model {letter}: {before}{BETWEEN}{now or 'no longer kept'}"


class ReportWordsEdited(OfAnalysis):
    """Words of the report were edited: places with what stands there, null where it is as made."""

    kind: Literal["report words edited"] = "report words edited"
    before: dict[str, dict[str, Any] | None] = Field(default_factory=dict)
    after: dict[str, dict[str, Any] | None] = Field(default_factory=dict)

    def _worded(self) -> str:
        return "; ".join(
            f"Words of the report at {place}: "
            + ("as they are made" if edit is None else f"“{edit['text']}”")
            for place, edit in self.after.items()
        )


class StatementsGiven(BaseAction):
    """Statements of several stages were given together: their bodies, by stage."""

    kind: Literal["statements given"] = "statements given"
    after: dict[str, dict[str, Any]]

    @property
    def changes(self) -> Parts:
        return frozenset(("statement", stage) for stage in self.after)

    def _worded(self) -> str:
        names = [stage.title for stage in STAGES if stage.name in self.after]
        return f"Statements given: {', '.join(names)}"


class AnalysisBegun(OfAnalysis):
    """Another analysis of a stage was begun."""

    kind: Literal["analysis begun"] = "analysis begun"
    name: str = ""

    @property
    def rests_on(self) -> Parts:
        return frozenset()

    def _worded(self) -> str:
        return (
            f"Another {self.kind_of} begun: {self.name}"
            if self.name
            else f"Another {self.kind_of} begun"
        )


class AnalysisPlace(BaseAction):
    """What an analysis is called, its place, and the analyses that it follows from."""

    kind: Literal["place"] = "place"
    name: str = ""
    position: int = 0
    needs: dict[str, int] = Field(default_factory=dict)


class AnalysisArranged(OfAnalysis):
    """An analysis was named, moved, or put on others."""

    kind: Literal["analysis arranged"] = "analysis arranged"
    before: AnalysisPlace
    after: AnalysisPlace

    def _worded(self) -> str:
        was, now = self.before, self.after
        found = []
        if was.name != now.name:
            found.append(
                f"{self.kind_of} called “{now.name}”"
                if now.name
                else f"{self.kind_of} no longer named"
            )
        if was.position != now.position:
            found.append(f"{self.kind_of} moved to place {now.position + 1}")
        if was.needs != now.needs:
            found.append(f"{self.kind_of} follows from others")
        return capital("; ".join(found)) or capital(f"{self.kind_of} as it was")

    @property
    def before_words(self) -> str:
        return self.before.name


class AnalysisDeleted(OfAnalysis):
    """An analysis was deleted."""

    kind: Literal["analysis deleted"] = "analysis deleted"
    name: str = ""

    def _worded(self) -> str:
        kind = capital(self.kind_of)
        return f"{kind} deleted: {self.name}" if self.name else f"{kind} deleted"


class Answered(OnItsOwn):
    """A caution was accepted, or a check left as it is: what it was about, and how it read."""

    kind: Literal["answered"] = "answered"
    stage: str
    subject: str
    choice: str
    words: str

    @property
    def where(self) -> str:
        return self.stage

    @property
    def about(self) -> str:
        return self.subject

    @property
    def changes(self) -> Parts:
        return frozenset([("answer", self.stage, self.subject)])

    @property
    def rests_on(self) -> Parts:
        return self.changes | {DATA, ("statement", self.stage)}

    def _worded(self) -> str:
        return self.words


def _unstated(stage: str) -> dict[str, Any]:
    """What a stage's statement holds where nothing is stated."""
    kind = next((one.statement for one in STAGES if one.name == stage), None)
    return {} if kind is None else kind.model_validate({}).model_dump(mode="json")


def statement_action(
    stage: str, analysis: int, version: int, before: Mapping[str, Any], after: Mapping[str, Any]
) -> "StatementSet | ModelsKept | ReportWordsEdited":
    """What the setting of a statement is: of one kind of fields alone, that of its own.

    Args:
        before, after: the statement as JSON; before is empty where nothing was in effect.
    """
    before = before or _unstated(stage)
    names = changed_fields(before, after)
    of: dict[str, Any] = {"stage": stage, "analysis": analysis}
    if names == ["kept"]:
        return ModelsKept(**of, before=tuple(before.get("kept", ())), after=tuple(after["kept"]))
    if stage == REPORT and names == ["words"]:
        was, becomes = before.get("words", {}), after["words"]
        places = [p for p in {**was, **becomes} if was.get(p) != becomes.get(p)]
        return ReportWordsEdited(
            **of, before={p: was.get(p) for p in places}, after={p: becomes.get(p) for p in places}
        )
    return StatementSet(
        **of,
        version=version,
        before={n: before[n] for n in names if n in before},
        after={n: after.get(n) for n in names},
    )
