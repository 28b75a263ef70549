"""The kept models as choices: each a letter with its terms, to be shown, set beside, planned or dropped."""

from collections.abc import Sequence

from pydantic import JsonValue

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.sentence import terms_in_words
from hourglass.analysis.model.statement import MAX_KEPT, HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.choices import ChoiceAct, ChoiceItem, Choices
from hourglass.core.regression.ties import EFRON

FULL_NAME_CHARACTERS = 40
"""Characters of a model that is shown in full among the kept ones."""
WHY_KEPT, WHY_DROPPED = "Why is it kept?", "Why is it dropped?"


def kept_choices(statement: ModelStatement) -> Choices:
    """The kept models in the order of their letters; this one is offered to be kept."""
    current = statement.current
    items = [_choice(statement, one) for one in sorted(statement.kept, key=lambda k: k.letter)]
    offers = []
    if current is None and statement.terms and len(statement.kept) < MAX_KEPT:
        kept = statement.with_kept(statement.hazards_model)
        label = f"Keep this model as {statement.next_letter}"
        offers.append(_act(label, kept, WHY_KEPT, _note_field(kept, statement.next_letter)))
    every_rule = _under_every_tie_rule(statement)
    if statement.terms and every_rule is not statement:
        offers.append(_act("Keep it under every tie rule", every_rule))
    return Choices(label="Kept models", items=items, offers=offers)


def _under_every_tie_rule(statement: ModelStatement) -> ModelStatement:
    """The statement with the model shown kept under each rule for ties; itself where it is, or is full."""
    for ties in TIE_METHODS:
        statement = statement.with_kept(statement.hazards_model.model_copy(update={"ties": ties}))
    return statement


def model_words(model: HazardsModel) -> str:
    """A model in a few words: its terms, and what is not usual about it."""
    unusual_ties = [] if model.ties == EFRON.key else [_ties(model)]
    return ", ".join([terms_in_words(model.terms), *unusual_ties, *_unusual(model)])


def words_apart(model: HazardsModel, models: Sequence[HazardsModel]) -> str:
    """A model in the few words in which it differs from others; all of it where that is short."""
    several = len({other.ties for other in models}) > 1
    ties = [_ties(model)] if several or model.ties != EFRON.key else []
    whole = ", ".join([terms_in_words(model.terms), *ties, *_unusual(model)])
    if len(whole) <= FULL_NAME_CHARACTERS:
        return whole
    own = [term for term in model.terms if not all(term in other.terms for other in models)]
    ties = ties if several else []
    found = [*([terms_in_words(own)] if own else []), *ties, *_unusual(model)]
    return ", ".join(found) or whole


def _ties(model: HazardsModel) -> str:
    return f"ties by {TIE_METHODS[model.ties].name}"


def _unusual(model: HazardsModel) -> list[str]:
    """What is not usual about a model besides its terms and ties."""
    found = []
    if model.strata:
        found.append(f"stratified by {' and '.join(model.strata)}")
    if model.penalised:
        found.append("penalised")
    if model.cause:
        found.append(f"event {model.cause}")
    if model.left_out:
        found.append(f"without {formatting.count(len(model.left_out), 'rows')}")
    if model.rows_with:
        found.append(f"on the rows that have {' and '.join(model.rows_with)}")
    return found


def _choice(statement: ModelStatement, one: KeptModel) -> ChoiceItem:
    shown = statement.current is one
    beside = statement.beside == one.letter and not shown
    marks = [*one.marks, *(["beside"] if beside else [])]
    return ChoiceItem(
        key=one.letter,
        words=words_apart(one.model, [kept.model for kept in statement.kept]),
        below=one.note,
        mark=", ".join(marks),
        chosen=shown,
        opens=None if shown else _act(f"Show {one.letter}", statement.showing(one.model)),
        acts=_acts(statement, one, shown=shown, beside=beside),
    )


def _acts(
    statement: ModelStatement, one: KeptModel, *, shown: bool, beside: bool
) -> list[ChoiceAct]:
    acts = []
    if beside:
        acts.append(_act("No longer beside", statement.model_copy(update={"beside": ""})))
    elif not shown:
        other = statement.model_copy(update={"beside": one.letter})
        acts.append(_act("Set beside the model shown", other))
    note = _note_field(statement, one.letter)
    if one.planned:
        acts.append(_act("Not planned after all", _with(statement, one, planned=False)))
    else:
        acts.append(_act("Name as the planned model", _planned(statement, one)))
    if one.dropped:
        acts.append(_act("Take up again", _with(statement, one, dropped=False)))
    else:
        acts.append(
            _act("Drop, with a reason", _with(statement, one, dropped=True), WHY_DROPPED, note)
        )
    acts.append(_act("Note why it is kept", statement, WHY_KEPT, note))
    acts.append(_act("Remove from the kept models", _without(statement, one)))
    return acts


def _act(label: str, to: ModelStatement, question: str = "", field: str = "") -> ChoiceAct:
    body: dict[str, JsonValue] = to.model_dump(mode="json")
    return ChoiceAct(label=label, statement=body, question=question, field=field)


def _note_field(statement: ModelStatement, letter: str) -> str:
    place = next(k for k, one in enumerate(statement.kept) if one.letter == letter)
    return f"kept.{place}.note"


def _with(statement: ModelStatement, one: KeptModel, **changes: object) -> ModelStatement:
    kept = tuple(k.model_copy(update=changes) if k is one else k for k in statement.kept)
    return statement.model_copy(update={"kept": kept})


def _planned(statement: ModelStatement, one: KeptModel) -> ModelStatement:
    """One model at most is the planned one."""
    kept = tuple(k.model_copy(update={"planned": k is one}) for k in statement.kept)
    return statement.model_copy(update={"kept": kept})


def _without(statement: ModelStatement, one: KeptModel) -> ModelStatement:
    kept = tuple(k for k in statement.kept if k is not one)
    beside = "" if statement.beside == one.letter else statement.beside
    return statement.model_copy(update={"kept": kept, "beside": beside})


def kept_words(one: KeptModel) -> str:
    """A kept model with what sets it apart, and why it was kept."""
    words = ", ".join([model_words(one.model), *one.marks])
    return f"{words} ({one.note})" if one.note else words
