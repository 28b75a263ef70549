"""The words that a file uses for itself: in its names, comments and docstrings, not in what it prints."""

import ast
import io
import re
import tokenize
from pathlib import Path

PART = re.compile(r"[A-Z]?[a-z]+|[A-Z]+(?![a-z])")
IN_TYPESCRIPT = re.compile(
    r'(?P<comment>//[^\n]*|/\*.*?\*/)|"(?:[^"\\\n]|\\.)*"|(?P<name>[A-Za-z_$][\w$]*)', re.S
)


def words_of_code(path: Path) -> list[str]:
    """The words of a file of Python or TypeScript, in lower case; names are taken apart."""
    text = path.read_text(encoding="utf-8")
    found = _of_python(text) if path.suffix == ".py" else _of_typescript(text)
    return [part.lower() for one in found for part in PART.findall(one)]


def _of_python(text: str) -> list[str]:
    docstrings = {
        (node.lineno, node.col_offset)
        for node in ast.walk(ast.parse(text))
        if isinstance(node, ast.Expr)
        and isinstance(node.value, ast.Constant)
        and isinstance(node.value.value, str)
    }
    return [
        token.string
        for token in tokenize.generate_tokens(io.StringIO(text).readline)
        if token.type in (tokenize.NAME, tokenize.COMMENT)
        or (token.type == tokenize.STRING and token.start in docstrings)
    ]


def _of_typescript(text: str) -> list[str]:
    return [m[0] for m in IN_TYPESCRIPT.finditer(text) if m["comment"] or m["name"]]
