"""Values that fit a JSON schema, made from it: the first is plain, the others differ from it."""

DEEP = 3
"""How far within an object its optional fields are tried."""


def values(schema, defs, depth=0):
    """Some values, each otherwise than the first."""
    if "$ref" in schema:
        return values(defs[schema["$ref"].rsplit("/", 1)[1]], defs, depth)
    if "const" in schema:
        return [schema["const"]]
    if "enum" in schema:
        return list(schema["enum"])
    several = schema.get("anyOf") or schema.get("oneOf")
    if several:
        return [v for one in several for v in values(one, defs, depth + 1)]
    return OF_TYPE[schema.get("type", "string")](schema, defs, depth)


def numbers(schema, *_):
    low = schema.get("minimum", schema.get("exclusiveMinimum", 0))
    return [low + 1, low + 2]


def strings(schema, *_):
    return ["2020-01-01", "2021-01-01"] if schema.get("format") == "date" else ["a", "b"]


def arrays(schema, defs, depth):
    if "prefixItems" in schema:
        each = [values(one, defs, depth + 1) for one in schema["prefixItems"]]
        return [[v[0] for v in each], [v[-1] for v in each]]
    some = values(schema.get("items", {}), defs, depth + 1)[:3]
    least = schema.get("minItems", 0)
    full = (some * (least + 1))[: max(least, 1)]
    return [full, some] if some != full else [full, full + some[:1]]


def objects(schema, defs, depth):
    if "properties" not in schema:
        some = values(schema.get("additionalProperties") or {}, defs, depth + 1)
        return [{"a": some[0]}, {"b": some[-1]}]
    fields = schema["properties"]
    plain = {
        name: values(one, defs, depth + 1)[0]
        for name, one in fields.items()
        if name in schema.get("required", ()) or "const" in one
    }
    if depth >= DEEP:
        return [plain]
    changed = [
        {**plain, name: v} for name, one in fields.items() for v in values(one, defs, depth + 1)
    ]
    return [plain, *changed]


OF_TYPE = {
    "null": lambda *_: [None],
    "boolean": lambda *_: [False, True],
    "integer": numbers,
    "number": numbers,
    "string": strings,
    "array": arrays,
    "object": objects,
}
