"""What the numbers of Model take from statements: its own, and the level of intervals."""

from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of

LEVEL_OF_STUDY = {"estimate": ("confidence",)}
"""Limits are at the level of the study's curves where the model states no other."""


def model_of(stated: Statements) -> ModelStatement:
    """What is stated of the model."""
    return statement_of(stated, ModelStatement)


def level_of_study(stated: Statements) -> float:
    """The level of the study's curves."""
    return study_form(stated).confidence


def level_of(stated: Statements) -> float:
    """The level of the model's intervals."""
    return model_of(stated).confidence or level_of_study(stated)
