"""The forms of a term, each one class: nothing else lists them."""

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
