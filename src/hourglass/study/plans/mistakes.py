"""What is wrong with a document, in words: the place by name, what stands there, what may be meant."""

from collections.abc import Mapping, Sequence
from difflib import get_close_matches
from typing import Any

from pydantic import BaseModel, ValidationError

PARTS = {"analyses": "Analysis", "steps": "Step", "decisions": "Decision", "follow_up": "Follow-up"}
MEMBERS = {
    "terms": "term",
    "kept": "kept model",
    "profiles": "profile",
    "group_styles": "group style",
}
KINDS = {
    "string_type": "must be text",
    "int_type": "must be a whole number",
    "int_parsing": "must be a whole number",
    "float_type": "must be a number",
    "float_parsing": "must be a number",
    "bool_type": "must be true or false",
    "bool_parsing": "must be true or false",
    "tuple_type": "must be a list",
    "list_type": "must be a list",
    "dict_type": "must be an object",
    "model_type": "must be an object",
    "model_attributes_type": "must be an object",
    "date_from_datetime_parsing": "must be a date, as in 2026-01-31",
    "json_invalid": "is no JSON",
}


def wrong_places(kind: type[BaseModel], why: ValidationError, within: str = "") -> list[str]:
    """A sentence for each mistake that was found in a document of a kind; ``within`` is where it stands."""
    names = _names_in(kind.model_json_schema())
    found = []
    for error in why.errors():
        place = ", ".join(part for part in (within, _place(error["loc"], error["type"])) if part)
        found.append(f"{place or 'The document'}: {_mistake(error, names)}.")
    return list(dict.fromkeys(found))


def _place(loc: Sequence[int | str], type_: str) -> str:
    """Where a mistake is: parts by name, members of lists counted from one; names of kinds are left out."""
    words: list[str] = []
    last = ""
    for k, part in enumerate(loc):
        if isinstance(part, int):
            of = PARTS.get(last) or MEMBERS.get(last) or last.replace("_", " ").removesuffix("s")
            if words:
                words[-1] = f"{of} {part + 1}"
        elif (
            k
            and isinstance(loc[k - 1], int)
            and last in {"terms", "steps", "group_styles", "events"}
        ):
            continue  # the kind of the member
        elif not (type_ in {"extra_forbidden", "missing"} and k == len(loc) - 1):
            words.append(PARTS.get(part, str(part).replace("_", " ")))
        if isinstance(part, str):
            last = part
    return ", ".join(words)


def _mistake(error: Mapping[str, Any], names: frozenset[str]) -> str:
    type_, context = error["type"], error.get("ctx", {})
    last = str(error["loc"][-1]) if error["loc"] else ""
    if type_ == "extra_forbidden":
        return f"“{last}” is not known{_meant(last, names)}"
    if type_ == "missing":
        return f"“{last}” is missing"
    if type_ in {"literal_error", "enum"}:
        known = [word.strip(" '") for word in context["expected"].replace(" or ", ", ").split(",")]
        return (
            f"“{error['input']}” is none of {', '.join(known)}{_meant(str(error['input']), known)}"
        )
    if type_ == "union_tag_invalid":
        known = [word.strip(" '") for word in context["expected_tags"].split(",")]
        return f"“{context['tag']}” is none of {', '.join(known)}{_meant(context['tag'], known)}"
    if type_ == "union_tag_not_found":
        return f"{context['discriminator']} is missing, which says what it is".replace(
            "'", "“", 1
        ).replace("'", "”", 1)
    if type_ == "value_error":
        return str(context["error"])
    if type_ in KINDS:
        return KINDS[type_]
    text = str(error["msg"]).removeprefix("Input ")
    return text[:1].lower() + text[1:]


def _meant(word: str, known: Sequence[str] | frozenset[str]) -> str:
    found = get_close_matches(word, sorted(known), n=1)
    return f"; did you mean “{found[0]}”?".rstrip("?") + "?" if found else ""


def _names_in(schema: Any) -> frozenset[str]:
    """The names of all fields of a schema."""
    if isinstance(schema, dict):
        own = frozenset(schema.get("properties", {}))
        return own.union(*(_names_in(value) for value in schema.values()))
    if isinstance(schema, list):
        return frozenset().union(*map(_names_in, schema))
    return frozenset()
