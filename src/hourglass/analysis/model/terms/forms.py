"""The forms of a term, each one class: nothing else lists them."""

from collections.abc import Sequence
from typing import Annotated, TypeAlias

from pydantic import Field

from hourglass.analysis.model.terms.category import CategoryTerm, TrendTerm
from hourglass.analysis.model.terms.curve import PolynomialTerm, SplineTerm
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.model.terms.number import DoublingTerm, NumberTerm
from hourglass.analysis.model.terms.product import ProductTerm

Term: TypeAlias = Annotated[
    CategoryTerm
    | TrendTerm
    | NumberTerm
    | DoublingTerm
    | PolynomialTerm
    | SplineTerm
    | ProductTerm,
    Field(discriminator="kind"),
]
OFFERED: tuple[type[TermForm], ...] = (
    TrendTerm,
    NumberTerm,
    DoublingTerm,
    SplineTerm,
    PolynomialTerm,
    CategoryTerm,
)
"""The forms that a column may take, in the order in which they are offered."""


def in_product(terms: Sequence[TermForm], column: str) -> bool:
    """Whether the term by a column is part of a product."""
    return any(t.of_terms and column in t.columns for t in terms)


def going_with(terms: Sequence[TermForm], place: int) -> tuple[int, ...]:
    """The places of a term and of the products that it is part of: what goes when it is taken out."""
    term = terms[place]
    if term.of_terms:
        return (place,)
    return tuple(
        k for k, t in enumerate(terms) if k == place or (t.of_terms and term.column in t.columns)
    )
