"""Other models that a question offers to fit, each kept beside the one it comes from."""

from collections.abc import Sequence

from hourglass.analysis.model.statement import HazardsModel, ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.sections import Action

MAX_LISTED = 5


def tried(model_statement: ModelStatement, model: HazardsModel, note: str) -> ModelStatement:
    """The statement with another model shown beside this one, both kept."""
    both = model_statement.with_kept(model_statement.hazards_model).with_kept(model, note)
    letter = next((k.letter for k in both.kept if k.model == model_statement.hazards_model), "")
    return both.showing(model).model_copy(update={"beside": letter})


def trying(
    model_statement: ModelStatement, model: HazardsModel, sentence: str, label: str, note: str
) -> Action:
    """An offer to fit another model."""
    return Action(
        sentence=sentence,
        label=label,
        do="state",
        stage="model",
        statement=tried(model_statement, model, note).model_dump(mode="json"),
    )


def without_rows(
    model_statement: ModelStatement, rows: Sequence[int], sentence: str, named: str = ""
) -> Action:
    """An offer to fit the model without some rows, by what they are called together or one by one."""
    left_out = tuple(sorted({*model_statement.left_out, *rows}))
    model = model_statement.hazards_model.model_copy(update={"left_out": left_out})
    shown = named or f"{'row' if len(rows) == 1 else 'rows'} {_listed(rows)}"
    return trying(
        model_statement, model, sentence, f"Fit without {shown}", f"without {shown}, tried in Check"
    )


def _listed(rows: Sequence[int]) -> str:
    first = [formatting.grouped(n) for n in rows[:MAX_LISTED]]
    more = len(rows) - len(first)
    return ", ".join(first) + f" and {more} more" if more else formatting.listed(first)
