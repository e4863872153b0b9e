"""Python's code as it can be read without running it."""

from __future__ import annotations

import ast
import datetime
import hashlib
import re
from collections.abc import Mapping, Sequence
from functools import lru_cache

from wornpage.session.bindings import names_written

_LINES = re.compile(
    r"_getframe|\binspect\b|currentframe|lineno|\btraceback\b|\blinecache\b|getsource|findsource|stack_info|\bco_\w+|"
    r"extract_stack|walk_tb|f_back|exc_info|settrace|setprofile|_current_frames|faulthandler|funcName|stacklevel|"
    r"__doc__|\bhelp\(|getdoc|pydoc|docopt|doctest|\bfire\b|loguru|icecream|RichHandler|structlog|\bsnoop|[cl]?[pP]rofile|"
    r"tracemalloc|\bpdb\b|\bdis\b|\bjoblib\b|cachier|pysnooper"
)
_TIMES = re.compile(r"st_[amc]time|get[amc]time|copy2|copystat|\bls -l|newer")
_RIGHTS = re.compile(r"st_mode|st_uid|st_gid|\baccess\b|chmod|chown|copymode|copystat|\bls -l|owner\(|group\(|[RWX]_OK")
_IDENTITY = re.compile(r"\bid\b|\bintern\b|\bis_(?:not)?\b|shares_memory|getrefcount|Weak\w+|assertIs|\bmemo\b")
_LISTINGS = re.compile(r"glob|listdir|scandir|iterdir|walk\b|\bls\b|\bfind\b")
_WORDS = {"identity": _IDENTITY, "lines": _LINES, "times": _TIMES, "rights": _RIGHTS, "listings": _LISTINGS}
_IMPORTS = re.compile(r"^\s*(?:import|from)\s+(\w+)", re.MULTILINE)
_CLOCK = {"now", "today", "time", "time_ns", "utcnow", "perf_counter", "monotonic", "localtime"}
_CLOCK_OWNERS = {"datetime", "date", "time", "dt", "Timestamp", "pd"}


class PythonCode:
    """Reads Python (`session.language.CodeReader`)."""

    def normal_form(self, code: str) -> str:
        """A hash of the code's syntax tree; of the text where it has none."""
        return _normal_form(code)

    def mentioned(self, code: str) -> frozenset[str]:
        """Every name that code mentions anywhere, also in functions it defines and in short strings."""
        return _mentioned(code)

    def bound(self, code: str) -> set[str]:
        """Names that it binds at its top level."""
        return names_written(code)

    def definitions(self, code: str) -> dict[str, set[str]]:
        """For each function or class that it defines: the names mentioned there."""
        try:
            tree = ast.parse(code)
        except (SyntaxError, ValueError, RecursionError):
            return {}
        found: dict[str, set[str]] = {}
        for node in tree.body:
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
                names = {inner.id for inner in ast.walk(node) if isinstance(inner, ast.Name)}
                found.setdefault(node.name, set()).update(names)
        return found

    def asks_for(self, code: str) -> frozenset[str]:
        """Which of identity, lines, times, rights and listings it has words for."""
        return _asks_for(code)

    def imported(self, code: str) -> frozenset[str]:
        """Modules that it imports, by their first names."""
        return frozenset(_IMPORTS.findall(code))

    def clock(self, code: str) -> str:
        """A call that asks for the time, as written; empty for none."""
        try:
            tree = ast.parse(code)
        except (SyntaxError, ValueError, RecursionError):
            return ""
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in _CLOCK:
                owner = ast.unparse(node.func.value).rpartition(".")[2]
                if owner in _CLOCK_OWNERS:
                    return ast.unparse(node.func) + "()"
        return ""

    def labels(self, code: str) -> tuple[frozenset[str], bool]:
        """Labels that its calls of `page` give; and whether there are others."""
        try:
            tree = ast.parse(code)
        except (SyntaxError, ValueError, RecursionError):
            return frozenset(), False
        given = [
            keyword.value
            for node in ast.walk(tree)
            if isinstance(node, ast.Call) and _may_label(node)
            for keyword in node.keywords
            if keyword.arg == "label"
        ]
        texts = {one.value for one in given if isinstance(one, ast.Constant) and isinstance(one.value, str)}
        return frozenset(texts), any(not isinstance(one, ast.Constant) for one in given)

    def alone(self, code: str, given: Mapping[str, object]) -> list[str]:
        """A namespace of given values, and our own `page`."""
        made: list[str] = []
        if given and re.search(r"\bgiven\b", code):
            if any(isinstance(value, datetime.date) for value in given.values()):
                made.append("import datetime")
            shown = ", ".join(f"{name}={value!r}" for name, value in given.items())  # dates read as `datetime.date(…)`
            made += ["from types import SimpleNamespace", "", f"given = SimpleNamespace({shown})"]
        return [*made, "from wornpage import page"] if re.search(r"\bpage\.", code) else made

    def literal(self, value: object) -> str:
        """A value as Python writes it."""
        if isinstance(value, datetime.date):
            return f"__import__('datetime').date({value.year}, {value.month}, {value.day})"
        return repr(value)

    def binding(self, values: Mapping[str, str], file: str | None, told: Sequence[str]) -> str:
        """Code that binds names, and has the file's name and what it is told as its value."""
        bound = "; ".join(f"{name} = {value}" for name, value in values.items())
        words = "None" if file is None else f"f{file!r}"
        return f"{bound}{'; ' if bound else ''}({words}, ({''.join(f'{name}, ' for name in told)}))"


_LABELLED = frozenset({"table", "summary", "crosstab", "model", "figure", "heading"})


def _may_label(call: ast.Call) -> bool:
    """Whether it calls what gives a label to something shown, such as `page.table`."""
    return (call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")) in _LABELLED


@lru_cache(maxsize=4_096)
def _normal_form(code: str) -> str:
    """A hash of the code's syntax tree; of the text where it has none."""
    try:
        form = ast.dump(ast.parse(code))
    except (SyntaxError, ValueError, RecursionError):
        form = "text:" + code
    return hashlib.blake2b(form.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


@lru_cache(maxsize=4_096)
def _asks_for(code: str) -> frozenset[str]:
    found = {what for what, words in _WORDS.items() if words.search(code)}
    return frozenset(found | {"identity"} if _compares(code) else found)


def _compares(code: str) -> bool:
    """Whether code asks if two things are one object, beside the usual `is None` and comparisons of types."""
    if " is " not in code:
        return False
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return True
    return any(
        isinstance(node, ast.Compare)
        and any(isinstance(op, ast.Is | ast.IsNot) for op in node.ops)
        and not any(map(_is_single, [node.left, *node.comparators]))
        for node in ast.walk(tree)
    )


def _is_single(node: ast.expr) -> bool:
    """Whether there is but one of what an expression stands for: constants, types."""
    if isinstance(node, ast.Call):
        return ast.unparse(node.func) == "type"
    return isinstance(node, ast.Constant) or (isinstance(node, ast.Attribute) and node.attr == "__class__")


@lru_cache(maxsize=4_096)
def _mentioned(code: str) -> frozenset[str]:
    """Every name that code mentions anywhere, also in functions it defines and in short strings."""
    try:
        tree = ast.parse(code)
    except (SyntaxError, ValueError, RecursionError):
        return frozenset()
    found: set[str] = set()
    for node in ast.walk(tree):
        match node:
            case ast.Name(id=name) | ast.FunctionDef(name=name) | ast.ClassDef(name=name):
                found.add(name)
            case ast.Constant(value=str(text)) if len(text) < 80 and text.isidentifier():
                found.add(text)
    return frozenset(found)
