"""What is shown of a model's checks."""

from hourglass.analysis.model.readouts import ChiSquared
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.verdict import Verdict


class TermCheck(FrozenModel):
    """A term's test of proportional hazards with its verdict; ``words`` describe it.

    ``course``: how the smooth line of its strongest ratio moves: fades, grows, reverses; else blank.
    """

    label: str
    name: str
    test: ChiSquared
    verdict: Verdict
    words: str
    course: str = ""


class QuestionVerdict(FrozenModel):
    """A question put to the model, and its verdict; ``words`` state what it rests on."""

    key: str
    name: str
    verdict: Verdict
    words: str
