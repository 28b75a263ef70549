"""What all statements of the stages have in common: analyses as data, with a version."""

from collections.abc import Callable, Iterable, Mapping
from typing import Annotated, Any, ClassVar, Self

from pydantic import AfterValidator, Field, WithJsonSchema

from hourglass.analysis.shared.earlier_keys import EARLIER_KEYS
from hourglass.analysis.shared.frozen_model import FrozenModel

Confidence = Annotated[float, Field(gt=0.5, lt=1)]
USUAL_LEVEL = 0.95
MAX_TIMES = 12
Times = Annotated[tuple[Annotated[float, Field(ge=0)], ...], Field(max_length=MAX_TIMES)]
Body = Mapping[str, Any]
Upgrade = Callable[[Body], Body]


class StageStatement(FrozenModel):
    """The statement of a stage; ``stage`` and ``version`` identify its form.

    ``upgrades[k]`` turns a body of version k + 1 into one of version k + 2.
    """

    upgrades: ClassVar[tuple[Upgrade, ...]] = ()
    stage: str
    version: int

    @classmethod
    def read(cls, body: Body) -> Self:
        """A statement as it was kept, brought to today's version.

        Raises:
            ValidationError: when it is no statement of this stage, of any version known.
        """
        for upgrade in cls.upgrades[int(body.get("version", 1)) - 1 :]:
            body = upgrade(body)
        return cls.model_validate(dict(body))

    def columns(self) -> tuple[str, ...]:
        """The columns of the table that the statement names, in its order."""
        return ()

    def references(self) -> Mapping[str, str]:
        """The reference levels that the statement requests, by column."""
        return {}

    def levels(self) -> tuple[tuple[str, str], ...]:
        """The levels that the statement names, each with its column."""
        return tuple(self.references().items())

    def with_levels_named(self, column: str, names: Mapping[str, str]) -> Self:
        """The statement with the levels of a column under their new names: old to new."""
        return self

    def with_codes_named(self, names: Mapping[str, str]) -> Self:
        """The statement with the codes of the outcome under their new names: old to new."""
        return self

    def informed_by(self, earlier: Iterable[Mapping[str, Any]]) -> Self:
        """The statement with what earlier ones of its stage, as JSON, add to it: most add nothing."""
        return self

    def without_references(self) -> Self:
        """The statement, its reference levels left to the columns."""
        return self


def renamed(version: int, **names: str) -> Upgrade:
    """An upgrade to ``version`` in which some fields have other names: old to new."""

    def upgrade(body: Body) -> Body:
        return {**{names.get(key, key): value for key, value in body.items()}, "version": version}

    return upgrade


def with_keys_of_the_field(version: int) -> Upgrade:
    """An upgrade to ``version``, in which methods are named as the field names them."""
    return lambda body: {**keys_of_the_field(body), "version": version}


def keys_of_the_field(body: Body) -> dict[str, Any]:
    """A body in which methods have today's names, whatever its version."""
    named = {
        field: EARLIER_KEYS[field].get(str(value), value)
        for field, value in body.items()
        if field in EARLIER_KEYS
    }
    return {**body, **named}


def level_of_study(body: Body) -> Body:
    """An upgrade to version 4, in which a level that nobody changed is that of the study's curves."""
    changed = {**body, "version": 4}
    if body.get("confidence") == USUAL_LEVEL:
        changed["confidence"] = None
    return changed


def one_of(keys: Iterable[str]) -> Any:
    """The type of a text that must be one of some keys, those of a table of variants."""
    known = tuple(keys)

    def check(key: str) -> str:
        if key not in known:
            raise ValueError(f"“{key}” is none of {', '.join(known)}")
        return key

    return Annotated[
        str, AfterValidator(check), WithJsonSchema({"type": "string", "enum": list(known)})
    ]
