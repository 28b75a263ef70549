"""The columns of a fitted model for the rows of another cohort: its levels, knots and scores stay."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.design import Design, LeftOut
from hourglass.analysis.model.statement import HazardsModel
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.shared.groups import group_by
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Table
from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.regression.terms import products


@dataclass(frozen=True, slots=True)
class CodedRows:
    """Rows of another cohort in the columns of a model.

    Attributes:
        used: (n,) those that have every value, and no level that the model does not know.
        x: (m, p) the columns of those; ``stratum``: (m,) their baseline.
        left_out: why the others are missing.
    """

    used: BoolArray
    x: FloatArray
    stratum: IntArray
    left_out: tuple[LeftOut, ...]


def coded_rows(own: Cohort, coded: Design, model: HazardsModel, other: Cohort) -> CodedRows:
    """The rows of a cohort as a model of another codes them.

    Args:
        own, coded: the cohort that the model was fitted to, and its columns.

    Raises:
        UnusableTermError: when a column holds something else than the model's.
        NoSuchColumnError: when the other cohort has no such column.
    """
    table = other.table
    blocks: dict[str, FloatArray] = {}
    parts: dict[int, FloatArray] = {}
    for k, term in enumerate(coded.stated_terms):
        if not term.of_terms:
            parts[k] = blocks[term.column] = term.for_rows(own.table, table, coded.blocks[k])
    for k, term in enumerate(coded.stated_terms):
        if term.of_terms:
            parts[k] = products(*(blocks[name] for name in term.columns))
    stratum = _stratum(coded.strata, table, model.strata)
    used = stratum >= 0
    left_out = _left_out(parts, coded.stated_terms, table, used)
    for part in parts.values():
        used = used & np.isfinite(part).all(axis=1)
    x = np.hstack([parts[k] for k in range(len(coded.stated_terms))])[used]
    return CodedRows(used, x, stratum[used], tuple(left_out))


def _stratum(labels: tuple[str, ...], other: Table, names: Sequence[str]) -> IntArray:
    """(n,) the baseline of each row of the other table; −1 for one that the model does not have."""
    if not names:
        return np.zeros(other.size, dtype=np.int64)
    groups = [group_by(other, name, None) for name in names]
    place = {label: k for k, label in enumerate(labels)}
    codes, which = np.unique(np.stack([g.code for g in groups]), axis=1, return_inverse=True)
    known = np.array(
        [
            place.get(", ".join(g.labels[c] for g, c in zip(groups, own, strict=True)), -1)
            if min(own) >= 0
            else -1
            for own in codes.T.tolist()
        ]
    )
    return np.asarray(known[which.reshape(-1)])


def _left_out(
    parts: dict[int, FloatArray], terms: Sequence[Term], table: Table, used: BoolArray
) -> list[LeftOut]:
    found = []
    if not used.all():
        found.append(LeftOut("", int((~used).sum()), "a baseline that the model does not have"))
    for k, term in enumerate(terms):
        if term.of_terms:
            continue
        missing = table.column(term.column).missing
        strange = ~missing & ~np.isfinite(parts[k]).all(axis=1)
        if missing.any():
            found.append(LeftOut(term.column, int(missing.sum()), f"{term.column} missing"))
        if strange.any():
            why = f"a value of {term.column} that the model does not know"
            found.append(LeftOut(term.column, int(strange.sum()), why))
    return found
