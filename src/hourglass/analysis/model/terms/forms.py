"""The forms of a term, each one class: nothing else lists them."""

from collections.abc import Sequence
from typing import Annotated, TypeAlias

from pydantic import Field

from hourglass.analysis.model.terms.category import CategoryTerm, TrendTerm
from hourglass.analysis.model.terms.number import (
    CurvedTerm,
    DoublingTerm,
    NumberTerm,
    PolynomialTerm,
    SplineTerm,
)
from hourglass.analysis.model.terms.product import ProductTerm

__all__ = [
    "CategoryTerm",
    "CurvedTerm",
    "DoublingTerm",
    "NumberTerm",
    "PolynomialTerm",
    "ProductTerm",
    "SplineTerm",
    "Term",
    "TrendTerm",
]

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


def in_product(terms: Sequence[Term], column: str) -> bool:
    """Whether the term by a column is part of a product."""
    return any(isinstance(t, ProductTerm) and column in t.columns for t in terms)


def going_with(terms: Sequence[Term], place: int) -> tuple[int, ...]:
    """The places of a term and of the products that it is part of: what goes when it is taken out."""
    term = terms[place]
    if isinstance(term, ProductTerm):
        return (place,)
    return tuple(
        k
        for k, t in enumerate(terms)
        if k == place or (isinstance(t, ProductTerm) and term.column in t.columns)
    )
