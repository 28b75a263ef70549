"""The code that makes something: the modules that it is made by, found by following their imports."""

import hashlib
import re
import sys
from functools import cache
from importlib.metadata import version
from pathlib import Path

import hourglass

PACKAGE = Path(hourglass.__file__).parent
"""Where this program's own modules lie."""
_IMPORT = re.compile(
    r"^[ \t]*from[ \t]+(hourglass[\w.]*)[ \t]+import[ \t]+(\([^)]*\)|[^\n]+)"
    r"|^[ \t]*import[ \t]+(hourglass[\w.]*)",
    re.MULTILINE,
)
_LIBRARIES = f"{version('numpy')} {version('scipy')}"
"""What numbers are computed with besides our own code."""


@cache
def code_of(*modules: str, root: Path = PACKAGE) -> str:
    """A hash of the source of modules, and of all of this program's that they import, however far.

    Args:
        modules: their names; one that is not this program's own must be loaded.
        root: where the package ``hourglass`` lies.
    """
    digest = hashlib.sha256(_LIBRARIES.encode())
    for name in sorted(reached(*modules, root=root)):
        digest.update(name.encode())
        digest.update(_source(name, root))
    return digest.hexdigest()


def reached(*modules: str, root: Path = PACKAGE) -> set[str]:
    """The modules that these import, and that those import, themselves among them."""
    found, ahead = set[str](), list(modules)
    while ahead:
        name = ahead.pop()
        if name not in found:
            found.add(name)
            ahead += _imports(name, root)
    return found


@cache
def _imports(name: str, root: Path) -> tuple[str, ...]:
    text = _source(name, root).decode()
    found = set[str]()
    for from_, names, whole in _IMPORT.findall(text):
        found.add(whole or from_)
        for one in re.split(r"[\s,()]+", names):
            if one and _file(f"{from_}.{one}", root) is not None:
                found.add(f"{from_}.{one}")
    return tuple(sorted(found))


@cache
def _source(name: str, root: Path) -> bytes:
    file = _file(name, root)
    if file is None:  # a module from elsewhere, as tests have them
        file = Path(str(sys.modules[name].__file__))
    return file.read_bytes()


def _file(name: str, root: Path) -> Path | None:
    """Where a module of this program lies; None for others."""
    package, *parts = name.split(".")
    if package != "hourglass":
        return None
    place = root.joinpath(*parts)
    for file in (place.with_suffix(".py"), place / "__init__.py"):
        if file.is_file():
            return file
    return None
