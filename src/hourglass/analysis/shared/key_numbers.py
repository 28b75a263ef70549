"""The numbers of a stage that are looked at first when its data change."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class KeyNumber:
    """A number by what it is of, such as "median, clear", in words."""

    name: str
    text: str
