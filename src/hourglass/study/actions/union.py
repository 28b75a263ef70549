"""The closed union of all actions: nothing else lists them."""

from typing import Annotated, TypeAlias

from pydantic import Field, TypeAdapter

from hourglass.study.actions.turns import Done, Redone, Undone, Withdrawn

Action: TypeAlias = Annotated[Done | Undone | Redone | Withdrawn, Field(discriminator="kind")]
ACTIONS: TypeAdapter[Action] = TypeAdapter(Action)
