"""The numbers that a question can be put of, as options of a slot."""

from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.groups import numbers
from hourglass.analysis.shared.sentence import Option
from hourglass.cohort.followup import Cohort


def number_options(cohort: Cohort, stated: ModelStatement, field: str, chosen: str) -> list[Option]:
    """Every number of the table, with whether it is a term of the model."""
    within = {t.column for t in stated.terms}
    return [
        Option(
            label=name,
            note="a term of the model" if name in within else "not in the model",
            field=field,
            value=name,
            chosen=name == chosen,
        )
        for name in numbers(cohort)
    ]
