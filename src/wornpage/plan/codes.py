"""What a chunk's code is, without comments and layout; and which names it mentions."""

from __future__ import annotations

import ast
import hashlib
import re
import sys
from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path

from msgspec import Struct

from wornpage.store.traces import digest
from wornpage.tree.nodes import Chunk

ENGINE = "7"
"""Changes whenever running or recording changes its meaning."""


@lru_cache(maxsize=4_096)
def normal_form(code: str) -> str:
    """A hash of the code's syntax tree; of the text where it has none."""
    try:
        form = ast.dump(ast.parse(code))
    except (SyntaxError, ValueError, RecursionError):
        form = "text:" + code
    return hashlib.blake2b(form.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def layout(code: str) -> str:
    """A hash of the code as written."""
    return hashlib.blake2b(code.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


class Sight(Struct, frozen=True):
    """What code of a page asks for beyond what things hold, as far as can be told by reading it: then it is noted for all.

    A chunk that newly asks has changed itself, or reads a function that has; so what was noted without it still holds.
    Identity alone is known only to those who made the things: they must have noted it.
    """

    identity: bool = False
    """Whether two things are one object."""
    lines: bool = False
    """On which line code stands, in which chunk, and how it is written."""
    times: bool = False
    """When files were changed."""
    rights: bool = False
    """Whose files are, and who may do what with them."""


def code_key(chunk: Chunk, options: Iterable[object], threads: int | None) -> str:
    """The address under which a chunk's traces lie: its code, the options that change what it makes, the interpreter."""
    return digest(
        "chunk", ENGINE, normal_form(chunk.code), chunk.binds, list(options), threads, sys.version, sys.platform
    )


_LINES = re.compile(
    r"_getframe|\binspect\b|currentframe|lineno|\btraceback\b|\blinecache\b|getsource|findsource|stack_info|\bco_\w+|"
    r"extract_stack|walk_tb|f_back|exc_info|settrace|setprofile|_current_frames|faulthandler|funcName|stacklevel"
)
_TIMES = re.compile(r"st_[amc]time|get[amc]time|copy2|copystat|\bls -l|newer")
_RIGHTS = re.compile(r"st_mode|st_uid|st_gid|\baccess\b|chmod|chown|copymode|copystat|\bls -l|owner\(|group\(|[RWX]_OK")
_IDENTITY = re.compile(r"\bid\b|\bintern\b|\bis_(?:not)?\b|shares_memory|getrefcount|Weak\w+|assertIs|\bmemo\b")


def sight_of(codes: Iterable[str], folder: Path | None = None) -> Sight:
    """What the code of a page, and of the modules beside it that it imports, asks for."""
    found = [_sight(code) for code in codes]
    if folder is not None:
        found += [_sight(text) for text in _modules_beside({name for _, names in found for name in names}, folder)]
    return Sight(
        *(any(getattr(sight, name) for sight, _ in found) for name in ("identity", "lines", "times", "rights"))
    )


@lru_cache(maxsize=4_096)
def _sight(code: str) -> tuple[Sight, frozenset[str]]:
    """Of one piece of code; and the modules it imports."""
    lines, times, rights = (bool(words.search(code)) for words in (_LINES, _TIMES, _RIGHTS))
    imported = frozenset(re.findall(r"^\s*(?:import|from)\s+(\w+)", code, re.MULTILINE))
    return Sight(_compares(code) or bool(_IDENTITY.search(code)), lines, times, rights), imported


def _modules_beside(names: set[str], folder: Path) -> list[str]:
    texts = []
    for name in sorted(names):
        try:
            texts.append((folder / f"{name}.py").read_text(encoding="utf-8", errors="replace"))
        except OSError:
            continue
    return texts


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
def mentioned(code: str) -> frozenset[str]:
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


def reachable(code: str, definitions: dict[str, set[str]]) -> set[str]:
    """Names mentioned by code, and by every function and class of the page that it reaches through them."""
    found: set[str] = set()
    todo = set(mentioned(code))
    while todo:
        name = todo.pop()
        if name not in found:
            found.add(name)
            todo |= definitions.get(name, set()) - found
    return found


def definitions_in(codes: Iterable[str]) -> dict[str, set[str]]:
    """For each function or class that the codes define: the names it mentions."""
    found: dict[str, set[str]] = {}
    for code in codes:
        try:
            tree = ast.parse(code)
        except (SyntaxError, ValueError, RecursionError):
            continue
        for node in tree.body:
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
                names = {inner.id for inner in ast.walk(node) if isinstance(inner, ast.Name)}
                found.setdefault(node.name, set()).update(names)
    return found
