"""The rail of kept models: each a letter with its terms, to be shown, set beside, planned or dropped."""

from pydantic import JsonValue

from hourglass.analysis.model.sentence import terms_in_words
from hourglass.analysis.model.statement import MOST_KEPT, HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.shared.choices import ChoiceAct, ChoiceItem, Choices

WHY_KEPT, WHY_DROPPED = "Why is it kept?", "Why is it dropped?"


def rail(statement: ModelStatement) -> Choices:
    """The kept models in the order of their letters; this one is offered to be kept."""
    current = statement.current
    items = [_choice(statement, one) for one in sorted(statement.kept, key=lambda k: k.letter)]
    offers = []
    if current is None and statement.terms and len(statement.kept) < MOST_KEPT:
        keeping = statement.keeping(statement.hazards_model)
        label = f"Keep this model as {statement.next_letter}"
        offers.append(_act(label, keeping, WHY_KEPT, _note_field(keeping, statement.next_letter)))
    return Choices(label="Kept models", items=items, offers=offers)


def model_words(model: HazardsModel) -> str:
    """A model in a few words: its terms, and what is not usual about it."""
    words = terms_in_words(model.terms)
    if model.strata:
        words += f", stratified by {' and '.join(model.strata)}"
    if model.penalised:
        words += ", penalised"
    if model.cause:
        words += f", event {model.cause}"
    if model.left_out:
        words += f", without {len(model.left_out)} {'row' if len(model.left_out) == 1 else 'rows'}"
    if model.rows_with:
        words += f", on the rows that have {' and '.join(model.rows_with)}"
    return words


def _choice(statement: ModelStatement, one: KeptModel) -> ChoiceItem:
    shown = statement.current is one
    beside = statement.beside == one.letter and not shown
    marks = [*one.marks, *(["beside"] if beside else [])]
    return ChoiceItem(
        key=one.letter,
        words=model_words(one.model),
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
    acts.append(_act("Take off the rail", _without(statement, one)))
    return acts


def _act(label: str, to: ModelStatement, asks: str = "", field: str = "") -> ChoiceAct:
    body: dict[str, JsonValue] = to.model_dump(mode="json")
    return ChoiceAct(label=label, statement=body, asks=asks, field=field)


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
