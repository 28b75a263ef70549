"""The words of the fields of Check's statement."""

from hourglass.analysis.check.time_function_words import WORDS
from hourglass.analysis.shared.field_words import FieldWords, Words, one_of_words

CHECK_WORDS: Words = {
    "question": FieldWords("Question"),
    "time_function": FieldWords(
        "Function of time", one_of_words({key: name for key, (name, _) in WORDS.items()})
    ),
    "variable": FieldWords("Number whose scale is looked at"),
    "residual": FieldWords("Residual"),
    "against": FieldWords("Drawn against"),
    "together": FieldWords("Rows left out together"),
    "time": FieldWords("Predictions compared at"),
}
