"""The words of the fields of Check's statement."""

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.shared.earlier_keys import EARLIER_KEYS
from hourglass.analysis.shared.field_words import FieldWords, Words, one_of_entries, one_of_words

CHECK_WORDS: Words = {
    "question": FieldWords("Question", one_of_words(EARLIER_KEYS["question"])),
    "time_function": FieldWords("Function of time", one_of_entries(TIME_FUNCTIONS)),
    "variable": FieldWords("Number whose scale is looked at"),
    "residual": FieldWords("Residual", one_of_words(EARLIER_KEYS["residual"])),
    "against": FieldWords("Drawn against"),
    "together": FieldWords("Rows left out together"),
    "time": FieldWords("Predictions compared at"),
}
