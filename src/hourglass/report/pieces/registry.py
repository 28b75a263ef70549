"""The pieces of the report, in their order: an explicit table, which nothing else repeats."""

from hourglass.report.pieces import (
    cautions,
    checks,
    curves,
    decisions,
    follow_up,
    groups,
    ratios,
    rows,
    sections,
)
from hourglass.report.pieces.piece import Pieces

PIECES: Pieces = (
    rows.PIECE,
    follow_up.PIECE,
    groups.PIECE,
    curves.PIECE,
    sections.EVERYONE,
    sections.CONTRASTS,
    sections.TESTS,
    sections.WEIGHTS,
    ratios.PIECE,
    checks.PIECE,
    cautions.PIECE,
    decisions.PIECE,
)
