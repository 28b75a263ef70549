"""Two terms of the model that change each other's ratio: the products of their columns."""

from typing import ClassVar, Literal

from hourglass.analysis.model.terms.column_block import (
    ColumnBlock,
    ColumnName,
    Rows,
    UnusableTermError,
)
from hourglass.analysis.model.terms.form import TermForm
from hourglass.core.regression.terms import products


class ProductTerm(TermForm):
    """The products of the columns of two terms that are in the model themselves."""

    of_terms: ClassVar[bool] = True
    kind: Literal["product"] = "product"
    partner: str

    @property
    def columns(self) -> tuple[str, ...]:
        return (self.column, self.partner)

    @property
    def name(self) -> str:
        return self.label

    @property
    def label(self) -> str:
        return f"{self.column} by {self.partner}"

    @property
    def title(self) -> str:
        return f"{self.label}: the ratio of one within the other"

    def coded(self, rows: Rows) -> ColumnBlock:
        for name in self.columns:
            if name not in rows.blocks:
                raise UnusableTermError(
                    f"{self.label} needs {name} as a term of its own: add it, or take the product out"
                )
        one, other = rows.blocks[self.column], rows.blocks[self.partner]
        names = tuple(
            ColumnName(f"{a.named} × {b.named}", "", "product", f"{a.named} × {b.named}")
            for a in one.names
            for b in other.names
        )
        return ColumnBlock(products(one.x, other.x), names)
