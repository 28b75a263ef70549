"""How a covariate is stated by hand: each kind with its words, and the fields that it has."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from hourglass.cohort.records.statement import Role

FieldName = Literal[
    "column", "same_time", "limit", "lag", "which", "cuts", "after_entry", "zero_outside", "unite"
]


class CovariateForm(BaseModel):
    """One kind of covariate.

    Attributes:
        label: its name; ``explains``: what it is, in a line.
        role: what it is made from.
        fields: those that it has; the ones in ``needed`` must be filled.
        of_numbers: whether its column must hold numbers.
        suggests: what it may be called, {column} being its column.
    """

    model_config = ConfigDict(frozen=True)
    kind: str
    label: str
    explains: str
    role: Role
    fields: tuple[FieldName, ...] = ()
    needed: tuple[FieldName, ...] = ()
    of_numbers: bool = False
    suggests: str


class FieldForm(BaseModel):
    """A field of covariates: what it is called, and what it takes."""

    model_config = ConfigDict(frozen=True)
    field: FieldName
    label: str
    takes: Literal["column", "length", "lengths", "yes", "choice"]
    choices: dict[str, str]


OF_VALUE: tuple[FieldName, ...] = ("column", "same_time", "limit", "lag")
RECORDS: Role = "dated records"


def _gathered(
    kind: str, label: str, explains: str, suggests: str, *, of_values: bool
) -> CovariateForm:
    fields: tuple[FieldName, ...] = ("limit", "lag", "after_entry")
    return CovariateForm(
        kind=kind,
        label=label,
        explains=explains,
        role=RECORDS,
        fields=("column", *fields) if of_values else fields,
        needed=("column",) if of_values else (),
        of_numbers=of_values,
        suggests=suggests,
    )


COVARIATE_FORMS: tuple[CovariateForm, ...] = (
    CovariateForm(
        kind="in force",
        suggests="{column} now",
        label="value in force",
        explains="the value of the last record before each moment; what is recorded at the moment of an "
        "event does not explain it",
        role=RECORDS,
        fields=OF_VALUE,
        needed=("column",),
    ),
    CovariateForm(
        kind="baseline",
        suggests="{column} at entry",
        label="value at entry",
        explains="the value of the last record at or before entry; it does not change",
        role=RECORDS,
        fields=OF_VALUE,
        needed=("column",),
    ),
    CovariateForm(
        kind="change",
        suggests="change of {column}",
        label="change since entry",
        explains="the value in force less that at entry",
        role=RECORDS,
        fields=OF_VALUE,
        needed=("column",),
        of_numbers=True,
    ),
    CovariateForm(
        kind="constant",
        suggests="{column}",
        label="constant value",
        explains="a value that never changes, which any record may give; all must agree",
        role=RECORDS,
        fields=("column",),
        needed=("column",),
    ),
    _gathered(
        "ever", "ever", "whether there was a record before each moment", "ever", of_values=False
    ),
    _gathered(
        "count", "number so far", "how many records came before", "number so far", of_values=False
    ),
    _gathered(
        "sum", "sum so far", "the sum of the values before", "sum of {column}", of_values=True
    ),
    _gathered(
        "mean", "mean so far", "the mean of the values before", "mean of {column}", of_values=True
    ),
    _gathered(
        "largest", "largest so far", "the largest value before", "largest {column}", of_values=True
    ),
    _gathered(
        "smallest",
        "smallest so far",
        "the smallest value before",
        "smallest {column}",
        of_values=True,
    ),
    CovariateForm(
        kind="time since",
        suggests="time since",
        label="time since a record",
        explains="in bands: how long ago the first or the last record before each moment was",
        role=RECORDS,
        fields=("which", "cuts", "limit", "lag"),
        needed=("cuts",),
    ),
    CovariateForm(
        kind="on",
        suggests="on now",
        label="whether one is on",
        explains="whether a period is on at each moment",
        role="periods",
        fields=("unite",),
    ),
    CovariateForm(
        kind="value",
        suggests="{column} now",
        label="value of the one that is on",
        explains="such as a dose or a ward",
        role="periods",
        fields=("column", "zero_outside", "unite"),
        needed=("column",),
    ),
    CovariateForm(
        kind="time on",
        suggests="time on so far",
        label="time on so far",
        explains="in bands: how long periods were on before each moment, together",
        role="periods",
        fields=("cuts", "unite"),
        needed=("cuts",),
    ),
    CovariateForm(
        kind="cumulative",
        suggests="cumulative {column}",
        label="cumulative value",
        explains="in bands: the values times how long they were on, such as a cumulative dose",
        role="periods",
        fields=("column", "cuts", "unite"),
        needed=("column", "cuts"),
        of_numbers=True,
    ),
)
"""The kinds of covariates, in the order in which they are offered."""
FIELD_FORMS: tuple[FieldForm, ...] = (
    FieldForm(field="column", label="Column", takes="column", choices={}),
    FieldForm(
        field="same_time",
        label="Several values at one time",
        takes="choice",
        choices={
            "": "are refused where they differ",
            "first": "the first in the file",
            "last": "the last in the file",
            "mean": "their mean",
            "smallest": "the smallest",
            "largest": "the largest",
        },
    ),
    FieldForm(
        field="which",
        label="Since",
        takes="choice",
        choices={"last": "the last record", "first": "the first record"},
    ),
    FieldForm(field="limit", label="Never older than", takes="length", choices={}),
    FieldForm(field="lag", label="Counts after a lag of", takes="length", choices={}),
    FieldForm(field="cuts", label="Bands at", takes="lengths", choices={}),
    FieldForm(field="after_entry", label="Only records after entry", takes="yes", choices={}),
    FieldForm(field="zero_outside", label="0 outside of periods", takes="yes", choices={}),
    FieldForm(
        field="unite", label="Overlapping periods of one value are one", takes="yes", choices={}
    ),
)
"""The fields of covariates."""
