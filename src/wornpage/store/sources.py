"""What the source of a module does, without what only people read: comments, blank lines and docstrings."""

from __future__ import annotations

import re

from wornpage.store.files import content

_ASKS = re.compile(
    rb"__doc__|\bhelp\(|getdoc|docstring|docopt|doctest|argparse|\binspect\b|lineno|currentframe|_getframe|\btraceback\b|"
    rb"\blinecache\b|getsource|stack_info|stacklevel|\bco_\w+|faulthandler|funcName|__file__|\bfire\b|loguru|icecream|RichHandler|"
    rb"structlog|\bsnoop|[cl]?[pP]rofile|tracemalloc|\bpdb\b|\bdis\b|\bjoblib\b|cachier|pysnooper"
)
"""Words of a module that may look at its own text, or at where it stands: then all of it counts."""
_DIGITS = 32
"""Of the hash of a file's bytes; what is said of one that cannot be read is shorter."""
_known: dict[str, str] = {}


def source_form(path: str) -> str:
    """A hash that changes when what a module does may change; that of its bytes where it looks at its own text."""
    held = content(path)
    if len(held) != _DIGITS:
        return held  # it is not there, or no file
    if held not in _known:
        try:
            with open(path, "rb") as file:
                _known[held] = form_of(file.read()) or held
        except OSError:
            return "unreadable"
    return _known[held]


def looks_at_itself(path: str) -> bool:
    """Whether a module may look at its own text, or at that of those who call it."""
    return not source_form(path).startswith("source ")


def form_of(source: bytes) -> str:
    """The hash for a source; empty where all of it counts."""
    import ast

    from wornpage.store.hashes import hash128

    if _ASKS.search(source):
        return ""
    try:
        tree = ast.parse(source)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return ""
    for node in ast.walk(tree):
        body = node.body if isinstance(node, (ast.Module, ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)) else []
        first = body[0] if body else None
        if isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant) and isinstance(first.value.value, str):
            node.body = body[1:]  # type: ignore[attr-defined]  # a docstring; one that was not there before is no change either
    return "source " + hash128(ast.dump(tree).encode("utf-8", "surrogatepass")).hexdigest()
