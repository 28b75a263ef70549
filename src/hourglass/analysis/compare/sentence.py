"""The comparison as a sentence."""

from hourglass.analysis.compare.groups import contrast_of
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.weight_words import WORDS
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.groups import Groups, categories, group_by, level_counts
from hourglass.analysis.shared.sentence import Option, Sentence, Slot, sentence
from hourglass.analysis.shared.slots import confidence_slot
from hourglass.cohort.followup import Cohort


def compare_sentence(cohort: Cohort, statement: CompareStatement) -> Sentence:
    """The statement in words."""
    start = f"Compare time to {cohort.statement.event_name} by "
    by = _by_slot(cohort, statement)
    if statement.by is None or not cohort.table.has(statement.by):
        return sentence(start, by, ".")
    groups = group_by(cohort.table, statement.by, statement.reference)
    parts: list[str | Slot] = [start, by, ", against ", _reference_slot(cohort, statement, groups)]
    if len(groups.labels) > 2:
        parts += [", showing the difference for ", _contrast_slot(groups, statement)]
    parts += [", weighting ", _weight_slot(statement)]
    return sentence(*parts, ", with ", confidence_slot(statement.confidence), " intervals.")


def _by_slot(cohort: Cohort, statement: CompareStatement) -> Slot:
    kept = statement.model_copy(update={"reference": None, "contrast": None})
    options = [
        Option(
            label=name,
            note=" · ".join(
                f"{v} {wording.grouped(n)}" for v, n in level_counts(cohort, name).items()
            ),
            field="",
            value=kept.model_copy(update={"by": name}).model_dump(mode="json"),
            chosen=name == statement.by,
        )
        for name in categories(cohort)
    ]
    return Slot(
        id="by",
        label=statement.by or "a category",
        title="Compare by",
        state="filled" if statement.by and cohort.table.has(statement.by) else "open",
        options=options,
    )


def _reference_slot(cohort: Cohort, statement: CompareStatement, groups: Groups) -> Slot:
    reference = groups.labels[0] if groups.labels else None
    return Slot(
        id="reference",
        label=reference or "nothing",
        title="Reference group",
        options=[
            Option(
                label=level,
                note=wording.count(n, cohort.rows_are),
                field="reference",
                value=level,
                chosen=level == reference,
            )
            for level, n in level_counts(cohort, statement.by or "").items()
        ],
    )


def _contrast_slot(groups: Groups, statement: CompareStatement) -> Slot:
    chosen = groups.labels[contrast_of(groups, statement.contrast)]
    options = [
        Option(label=level, field="contrast", value=level, chosen=level == chosen)
        for level in groups.labels[1:]
    ]
    return Slot(id="contrast", label=chosen, title="Difference shown for", options=options)


def _weight_slot(statement: CompareStatement) -> Slot:
    return Slot(
        id="weight",
        label=WORDS[statement.weight].weighting,
        title="Weight of the event times",
        options=[
            Option(
                label=told.weighting,
                note=f"{told.heading} test: {told.note}",
                field="weight",
                value=key,
                chosen=key == statement.weight,
            )
            for key, told in WORDS.items()
        ],
    )
