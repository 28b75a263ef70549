"""Things to choose among, above a statement: the models that were kept, the questions of a check."""

from pydantic import Field, JsonValue

from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.verdict import Verdict


class ChoiceAct(FrozenModel):
    """Something that is done by putting a statement.

    ``question`` is the one whose answer goes into the statement first, at the place ``field`` (a
    dotted path); nothing is requested where it is blank.
    """

    label: str
    statement: dict[str, JsonValue]
    question: str = ""
    field: str = ""


class ChoiceItem(FrozenModel):
    """One of them.

    Attributes:
        key: what it is called for short, such as a letter.
        words: what it is; ``below``: what is shown of it.
        mark: a word that sets it apart, such as "planned".
        verdict: shown as a shape before its words.
        opens: what choosing it does; ``acts``: what else can be done with it.
    """

    key: str = ""
    words: str
    below: str = ""
    mark: str = ""
    verdict: Verdict | None = None
    chosen: bool = False
    opens: ChoiceAct | None = None
    acts: list[ChoiceAct] = Field(default_factory=list)


class Choices(FrozenModel):
    """Choices under one name, and what else is offered after them."""

    label: str
    items: list[ChoiceItem]
    offers: list[ChoiceAct] = Field(default_factory=list)
