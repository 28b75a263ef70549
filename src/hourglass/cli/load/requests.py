"""Requests made up from the description of the interface: most are almost right, some are absurd."""

import json
import random
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import quote, urlencode

METHODS = ("get", "post", "put", "patch", "delete", "head")
DEEPEST = 7
"""Beyond so many schemas within one another only the shortest value is made."""
WHOLE_NUMBERS = (0, 1, 2, -1, 3, 2**31, 2**53 + 1, 2**63 - 1, 2**63, -(2**63) - 1, 2**70, 10**400)
NUMBERS = (0.0, 1.5, -1.0, 1e308, 5e-324, 1e15, 12.0)
TEXTS = (
    "", "a", "arm", "outcome", "1", "\x00", "\ud800", "<script>alert(1)</script>", "=1+1", "../../x",
    "%00", "é" * 300, "a" * 20_000, "NaN", "2024-02-30", "(" * 3000, "'; drop table studies; --", "\u202e",
)  # fmt: skip
ABSURD: tuple[Any, ...] = (
    None, True, [], {}, [[]] * 50, "x", 2**64, -1.5, {"kind": "?"}, [None], {"": None}, "\x00",
)  # fmt: skip
HEADERS: tuple[dict[str, str], ...] = (
    {}, {"If-Match": "*"}, {"If-Match": '"1"'}, {"If-Match": '"99999999999999999999999"'},
    {"If-Match": "W/\"x\x7f"}, {"Origin": "http://["}, {"Origin": "null"}, {"Accept-Encoding": "gzip;q=x"},
    {"Range": "bytes=9-2"}, {"If-None-Match": "*"}, {"Content-Type": "text/plain"}, {"Content-Type": "?"},
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class MadeUpRequest:
    """One request: its path with its query, its headers and its body."""

    method: str
    path: str
    headers: Mapping[str, str] = field(default_factory=dict)
    body: bytes | None = None


class Requests:
    """Makes requests up, the same ones from the same seed."""

    def __init__(
        self,
        interface: dict[str, Any],
        known: Mapping[str, list[Any]],
        bodies: Mapping[str, list[Any]],
        seed: int,
    ) -> None:
        """Make requests to an interface.

        Args:
            interface: the OpenAPI document.
            known: values that there are, such as ids of studies, by the names of parameters, and "text".
            bodies: good bodies, by method and path ("put /api/…"): most that are sent differ in one place.
            seed: of what is made up.
        """
        self._bodies = bodies
        self._schemas = interface["components"]["schemas"]
        self._calls = [
            (method, path, {p["name"]: p for p in call.get("parameters", [])}, call)
            for path, calls in sorted(interface["paths"].items())
            for method, call in sorted(calls.items())
            if method in METHODS
        ]
        self._known, self._random = known, random.Random(seed)  # noqa: S311 (nothing secret)

    def __iter__(self) -> Iterator[MadeUpRequest]:
        while True:
            yield self._request(*self._random.choice(self._calls))

    def _request(
        self, method: str, path: str, parameters: dict[str, Any], call: dict[str, Any]
    ) -> MadeUpRequest:
        chance, query, template = self._random.random, list[tuple[str, str]](), path
        headers = dict(self._random.choice(HEADERS)) if chance() < 0.5 else {"If-Match": "*"}
        for name, stated in parameters.items():
            if stated["in"] == "path":
                path = path.replace(
                    "{" + name + "}", quote(self._text(self._given(name, stated)), safe="")
                )
            elif stated["in"] == "query" and chance() < 0.7:
                query.append((name, self._text(self._given(name, stated))))
        if query:
            path += "?" + urlencode(query, errors="replace")
        body, stated = None, call.get("requestBody", {}).get("content", {}).get("application/json")
        if stated is not None:
            good = self._bodies.get(f"{method} {template}", [])
            body = (
                json.dumps(self._altered(self._random.choice(good))).encode()
                if good and self._random.random() < 0.8
                else self._body(stated["schema"])
            )
            headers.setdefault("Content-Type", "application/json")
        elif method in ("put", "post") and chance() < 0.3:
            body = self._random.randbytes(self._random.choice([0, 1, 40, 5000]))
        shown = {name: value for name, value in headers.items() if value.isprintable()}
        return MadeUpRequest(method.upper(), path, shown, body)

    def _given(self, name: str, stated: dict[str, Any]) -> Any:
        there = self._known.get(name, [])
        if there and self._random.random() < 0.8:
            return self._random.choice(there)
        return self._value(stated.get("schema", {}), 0)

    def _text(self, value: Any) -> str:
        written = value if isinstance(value, str) else json.dumps(value)
        return written.encode("utf-8", "replace").decode()[:6000]

    def _altered(self, body: Any) -> Any:
        """A good body with another value in one place, or without one."""
        choice = self._random.choice
        if not isinstance(body, dict | list) or not body or self._random.random() < 0.15:
            return choice((*ABSURD, *TEXTS, *NUMBERS, *WHOLE_NUMBERS, *self._known.get("text", ())))
        place = choice(list(body) if isinstance(body, dict) else range(len(body)))
        made = body.copy()
        if self._random.random() < 0.05:
            del made[place]
        else:
            made[place] = self._altered(body[place])
        return made

    def _body(self, schema: dict[str, Any]) -> bytes:
        if self._random.random() < 0.03:
            return self._random.choice([b"", b"{", b"[" * 60_000, b"\xff", b"NaN", b'{"a":1e999}'])
        return json.dumps(self._value(schema, 0)).encode()

    def _value(self, schema: dict[str, Any], depth: int) -> Any:
        chance, choice = self._random.random(), self._random.choice
        if chance < 0.03:
            return choice(ABSURD)
        if "$ref" in schema:
            return self._value(self._schemas[schema["$ref"].rsplit("/", 1)[1]], depth + 1)
        for several in ("anyOf", "oneOf", "allOf"):
            if several in schema:
                return self._value(choice(schema[several]), depth)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return choice(schema["enum"])
        kind = schema.get("type")
        if kind == "object":
            return self._object(schema, depth)
        if kind == "array":
            return self._array(schema, depth)
        if kind == "string":
            return choice(self._known["text"] if chance < 0.6 and "text" in self._known else TEXTS)
        return {
            "integer": choice(WHOLE_NUMBERS),
            "number": choice(NUMBERS),
            "boolean": chance < 0.5,
        }.get(str(kind))

    def _array(self, schema: dict[str, Any], depth: int) -> list[Any]:
        if depth > DEEPEST:
            return []
        if "prefixItems" in schema:
            return [self._value(part, depth + 1) for part in schema["prefixItems"]]
        many = self._random.choice([0, 1, 1, 2, 3, 3, 40])
        return [self._value(schema.get("items", {}), depth + 1) for _ in range(many)]

    def _object(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        parts, needed = schema.get("properties", {}), schema.get("required", ())
        made = {
            name: self._value(part, depth + 1)
            for name, part in parts.items()
            if name in needed or (depth <= DEEPEST and self._random.random() < 0.6)
        }
        further = schema.get("additionalProperties")
        if isinstance(further, dict) and depth <= DEEPEST:
            made[self._random.choice(("0", "1", "felled"))] = self._value(further, depth + 1)
        return made
