"""The check as a sentence."""

from hourglass.analysis.check.questions import QUESTIONS
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.sentence import Option, Sentence, Slot, sentence
from hourglass.cohort.followup import Cohort
from hourglass.core.variants import variant


def check_sentence(
    cohort: Cohort, model_statement: ModelStatement, statement: CheckStatement
) -> Sentence:
    """The statement in words: the question, and what belongs to it."""
    question = variant(QUESTIONS, statement.question)
    slot = Slot(
        id="question",
        label=question.name,
        title="What is checked",
        options=[
            Option(label=q.name, field="question", value=q.key, chosen=q.key == statement.question)
            for q in QUESTIONS
        ],
    )
    return sentence("Check ", slot, ": ", *question.words_of(cohort, model_statement, statement))
