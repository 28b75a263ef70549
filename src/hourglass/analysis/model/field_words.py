"""The words of the fields of Model's statement."""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from hourglass.analysis.model.kept_models import kept_words
from hourglass.analysis.model.sentence import terms_in_words
from hourglass.analysis.model.statement import KeptModel, Terms
from hourglass.analysis.shared.curve_field_words import CONFIDENCE_WORDS
from hourglass.analysis.shared.field_words import FieldWords, Words, plain_value, yes_as
from hourglass.cohort.words import grouped, listed

_TERMS: TypeAdapter[Terms] = TypeAdapter(Terms)
_KEPT: TypeAdapter[tuple[KeptModel, ...]] = TypeAdapter(tuple[KeptModel, ...])


def _terms(value: Any) -> str:
    try:
        return terms_in_words(_TERMS.validate_python(value or ()))
    except ValidationError:  # of an older form
        return plain_value(value)


def _kept(value: Any) -> str:
    try:
        found = _KEPT.validate_python(value or ())
    except ValidationError:  # of an older form
        return plain_value(value)
    return "; ".join(f"{one.letter}: {kept_words(one)}" for one in found)


def _robust(value: Any) -> str:
    return "" if not value else str(value.get("column", "the subject"))


def _rows(value: Any) -> str:
    return listed([grouped(n) for n in value or ()])


def _profiles(value: Any) -> str:
    usual = "all values usual"
    return "; ".join(
        listed([f"{v['column']} {v['value']}" for v in one.get("values", ())]) or usual
        for one in value or ()
    )


MODEL_WORDS: Words = {
    "terms": FieldWords("Terms", _terms),
    "strata": FieldWords("Own baseline for each level of"),
    "ties": FieldWords("Ties"),
    "robust": FieldWords("Errors with rows together that share", _robust),
    "penalised": FieldWords("Firth’s penalty", yes_as("put on")),
    "intervals": FieldWords("Intervals by"),
    "cause": FieldWords("Event whose rate is modelled"),
    "left_out": FieldWords("Rows left out of the model", _rows),
    "rows_with": FieldWords("Only rows with a value of"),
    **CONFIDENCE_WORDS,
    "kept": FieldWords("Models kept", _kept),
    "beside": FieldWords("Model set beside"),
    "subgroups": FieldWords("Within the levels of"),
    "profiles": FieldWords("Predicted for", _profiles),
    "times": FieldWords("Predictions read at"),
    "adjusted": FieldWords("Curves adjusted by"),
    "candidates": FieldWords("Candidates"),
}
