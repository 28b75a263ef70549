"""The statement of Model: what is fitted, and the models kept beside it."""

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal, Self, TypeAlias

from pydantic import Field, model_validator

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.terms.forms import Term, going_with
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.statement import (
    Body,
    Confidence,
    StageStatement,
    Times,
    level_of_study,
    one_of,
    renamed,
)
from hourglass.core.regression.ties import EFRON

MAX_TERMS, MAX_KEPT, MAX_PROFILES = 40, 26, 6
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class BySubject(FrozenModel):
    """Errors that hold where a subject's rows belong together."""

    kind: Literal["subject"] = "subject"


class ByColumn(FrozenModel):
    """Errors that hold where rows of one level of a column belong together."""

    kind: Literal["column"] = "column"
    column: str


Robust: TypeAlias = Annotated[BySubject | ByColumn, Field(discriminator="kind")]
Terms = Annotated[tuple[Term, ...], Field(max_length=MAX_TERMS)]


class HazardsModel(FrozenModel):
    """What is fitted.

    Attributes:
        strata: columns whose levels, crossed, have a baseline each.
        robust: what errors are computed by, where not by the model itself.
        penalised: whether the likelihood bears Firth's penalty.
        intervals: by the standard error, or by profile likelihood.
        cause: the code of a competing event that is studied in the place of the event.
        left_out: rows that the model is fitted without, by their number in the table.
        rows_with: columns that rows must have a value of, terms or not.
        confidence: the level of intervals where it is not that of the study's curves.
    """

    terms: Terms = ()
    strata: Annotated[tuple[str, ...], Field(max_length=4)] = ()
    ties: one_of(TIE_METHODS) = EFRON.key  # type: ignore[valid-type]
    robust: Robust | None = None
    penalised: bool = False
    intervals: Literal["standard error", "profile"] = "standard error"
    cause: str = ""
    left_out: Annotated[tuple[Annotated[int, Field(ge=1)], ...], Field(max_length=1000)] = ()
    rows_with: Annotated[tuple[str, ...], Field(max_length=100)] = ()
    confidence: Confidence | None = None

    @property
    def term_columns(self) -> tuple[str, ...]:
        """The columns that the terms take their values from, each once."""
        return tuple(dict.fromkeys(name for term in self.terms for name in term.columns))

    def with_term(self, place: int, term: Term) -> "HazardsModel":
        """The same model with another term in a place."""
        return self._with_terms(term if k == place else t for k, t in enumerate(self.terms))

    def without_term(self, place: int) -> "HazardsModel":
        """The same model without a term, and without the products that it is part of."""
        going = going_with(self.terms, place)
        return self._with_terms(t for k, t in enumerate(self.terms) if k not in going)

    def with_levels_named(self, column: str, names: Mapping[str, str]) -> Self:
        """The same model with the levels of a column under their new names: old to new."""
        terms = tuple(t.with_levels_named(names) if t.column == column else t for t in self.terms)
        return self.model_copy(update={"terms": terms})

    def with_codes_named(self, names: Mapping[str, str]) -> Self:
        """The same model of a competing event whose code has a new name: old to new."""
        return self.model_copy(update={"cause": names.get(self.cause, self.cause)})

    def _with_terms(self, terms: Iterable[Term]) -> "HazardsModel":
        return self.model_copy(update={"terms": tuple(terms)})


MODEL_FIELDS = tuple(HazardsModel.model_fields)
"""The fields that state what is fitted, and how intervals are made."""
FIT_FIELDS = ("terms", "strata", "ties", "penalised", "cause", "left_out", "rows_with")
"""Those that the coefficients themselves follow from.

Robust errors by a column count, too: rows without a value of it are left out.
"""


class KeptModel(FrozenModel):
    """A kept model.

    ``planned`` states that it was named before results were seen, ``dropped`` that it is shown but not
    used; ``note`` gives the reason it was kept or dropped.
    """

    letter: Annotated[str, Field(pattern="^[A-Z]$")]
    model: HazardsModel
    note: Annotated[str, Field(max_length=500)] = ""
    planned: bool = False
    dropped: bool = False

    @property
    def marks(self) -> list[str]:
        """What sets it apart, in words."""
        shown = (("planned", self.planned), ("dropped", self.dropped))
        return [word for word, there in shown if there]


class ProfileValue(FrozenModel):
    """The value of a column in a profile, as it is written."""

    column: str
    value: str


class Profile(FrozenModel):
    """Whom a prediction is for; what is not stated is usual: the median, or the commonest level."""

    values: Annotated[tuple[ProfileValue, ...], Field(max_length=MAX_TERMS)] = ()

    def with_levels_named(self, column: str, names: Mapping[str, str]) -> "Profile":
        """The same profile with the levels of a column under their new names: old to new."""
        values = tuple(
            v.model_copy(update={"value": names.get(v.value, v.value)}) if v.column == column else v
            for v in self.values
        )
        return Profile(values=values)


def _levels_of_study(body: Body) -> Body:
    """Version 4, for the model that is shown and for those that are kept."""
    kept = [
        {**one, "model": {k: v for k, v in level_of_study(one["model"]).items() if k != "version"}}
        for one in body.get("kept", ())
    ]
    return {**level_of_study(body), "kept": kept}


class ModelStatement(StageStatement, HazardsModel):
    """The rate of the event by several terms together, beside what is kept.

    Attributes:
        kept: the kept models; ``beside``: the letter of the one that is shown beside this.
        subgroups: the variables within whose levels the ratio of the first term is given.
        profiles: whom curves are predicted for; ``times``: where they are read.
        adjusted: the category whose curves are adjusted for the other terms.
        candidates: columns that are tried each alone.
    """

    upgrades = (renamed(2, level="confidence"), renamed(3), _levels_of_study)
    stage: Literal["model"] = "model"
    version: Literal[4] = 4
    kept: Annotated[tuple[KeptModel, ...], Field(max_length=MAX_KEPT)] = ()
    beside: str = ""
    subgroups: Annotated[tuple[str, ...], Field(max_length=12)] = ()
    profiles: Annotated[tuple[Profile, ...], Field(max_length=MAX_PROFILES)] = ()
    times: Times = ()
    adjusted: str = ""
    candidates: Annotated[tuple[str, ...], Field(max_length=60)] = ()

    @property
    def hazards_model(self) -> HazardsModel:
        """What is fitted, without what stands beside it."""
        return HazardsModel(**{name: getattr(self, name) for name in HazardsModel.model_fields})

    def columns(self) -> tuple[str, ...]:
        robust = (self.robust.column,) if isinstance(self.robust, ByColumn) else ()
        adjusted = (self.adjusted,) if self.adjusted else ()
        named = (*self.term_columns, *self.strata, *robust, *self.rows_with, *self.subgroups)
        profiled = (v.column for profile in self.profiles for v in profile.values)
        return (*named, *adjusted, *self.candidates, *profiled)

    def levels(self) -> tuple[tuple[str, str], ...]:
        values = [v for profile in self.profiles for v in profile.values]
        categories = {t.column for t in self.terms if t.against_reference}
        profiled = [(v.column, v.value) for v in values if v.column in categories]
        return (*self.references().items(), *profiled)

    @property
    def current(self) -> KeptModel | None:
        """The kept model that is fitted now."""
        own = self.hazards_model
        return next((one for one in self.kept if one.model == own), None)

    @property
    def set_beside(self) -> KeptModel | None:
        """The kept model that is shown beside this one; None where it is this one."""
        one = next((k for k in self.kept if k.letter == self.beside), None)
        return None if one is None or one.model == self.hazards_model else one

    def showing(self, model: HazardsModel) -> "ModelStatement":
        """The same statement with another model fitted."""
        fields = {name: getattr(model, name) for name in HazardsModel.model_fields}
        return self.model_copy(update=fields)

    def with_kept(self, model: HazardsModel, note: str = "") -> "ModelStatement":
        """The same statement with one more kept model; unchanged where it is there, or full."""
        if any(one.model == model for one in self.kept) or len(self.kept) >= MAX_KEPT:
            return self
        kept = (*self.kept, KeptModel(letter=self.next_letter, model=model, note=note))
        return self.model_copy(update={"kept": kept})

    @property
    def next_letter(self) -> str:
        """The letter that the next model gets: the first that none has."""
        used = {one.letter for one in self.kept}
        return next((letter for letter in LETTERS if letter not in used), "Z")

    def references(self) -> Mapping[str, str]:
        return {t.column: t.reference_level for t in self.terms if t.reference_level}

    def with_levels_named(self, column: str, names: Mapping[str, str]) -> Self:
        named = HazardsModel.with_levels_named(self, column, names)
        kept = tuple(
            one.model_copy(update={"model": one.model.with_levels_named(column, names)})
            for one in self.kept
        )
        profiles = tuple(profile.with_levels_named(column, names) for profile in self.profiles)
        return named.model_copy(update={"kept": kept, "profiles": profiles})

    def with_codes_named(self, names: Mapping[str, str]) -> Self:
        kept = tuple(
            one.model_copy(update={"model": one.model.with_codes_named(names)}) for one in self.kept
        )
        return HazardsModel.with_codes_named(self, names).model_copy(update={"kept": kept})

    def without_references(self) -> Self:
        terms = tuple(t.without_reference() for t in self.terms)
        return self.model_copy(update={"terms": terms})

    @model_validator(mode="after")
    def _letters_differ(self) -> Self:
        letters = [one.letter for one in self.kept]
        if len(set(letters)) < len(letters):
            raise ValueError("two kept models have the same letter")
        return self
