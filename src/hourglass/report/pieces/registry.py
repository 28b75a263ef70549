"""The pieces of the report, in their order: an explicit table, which nothing else repeats."""

from hourglass.report.pieces import (
    cautions,
    checks,
    curves,
    decisions,
    follow_up,
    groups,
    model_pieces,
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
    model_pieces.FOREST,
    model_pieces.TERMS,
    model_pieces.CURVES,
    model_pieces.SUBGROUPS,
    model_pieces.PREDICTIONS,
    model_pieces.CANDIDATES,
    model_pieces.KEPT,
    checks.PIECE,
    cautions.PIECE,
    decisions.PIECE,
)
