"""The check as a sentence."""

from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.check.time_function_words import WORDS
from hourglass.analysis.shared.sentence import Option, Sentence, Slot, sentence


def check_sentence(statement: CheckStatement) -> Sentence:
    """The statement in words."""
    chosen = statement.time_function
    slot = Slot(
        id="time-function",
        label=WORDS[chosen][0],
        title="Measure time as",
        options=[
            Option(label=label, note=note, field="time_function", value=key, chosen=key == chosen)
            for key, (label, note) in WORDS.items()
        ],
    )
    return sentence(
        "Check the model: does each ratio stay the same over time, with time measured as ",
        slot,
        "?",
    )
