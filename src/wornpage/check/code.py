"""What code tells of itself: that it is none, names nobody has written, packages that are not there, paths, chance."""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from importlib.machinery import PathFinder
from importlib.util import find_spec
from pathlib import Path

from msgspec.structs import replace

from wornpage.check.names import Reading
from wornpage.plan.languages import main_of
from wornpage.session.languages import language_of, means
from wornpage.session.python.environments import current
from wornpage.settings import Settings
from wornpage.source import Page, all_chunks
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_ABSOLUTE = re.compile(r"^(?:/(?:home|Users|mnt|media|data|srv|tmp|var|Volumes|opt|root)/\S|[A-Za-z]:[\\/]\S|~/\S)")
_READERS = frozenset({"loadtxt", "genfromtxt", "imread", "load_workbook", "scan_csv", "scan_parquet"})
_PLAIN_FILE = re.compile(r"[^/\\:*?\[\]<>|][^\\:*?\[\]<>|\n]*\.\w{1,8}")
_CHANCE = {
    "SystemRandom": "draws from the machine",
    "urandom": "draws from the machine",
    "uuid1": "is another each time",
    "uuid4": "is another each time",
    "token_hex": "is another each time",
    "token_bytes": "is another each time",
    "token_urlsafe": "is another each time",
}
PYTHON = "python"
_DISTRIBUTIONS = {"sklearn": "scikit-learn", "cv2": "opencv-python", "PIL": "pillow", "yaml": "PyYAML", "bs4": "beautifulsoup4", "skimage": "scikit-image", "dateutil": "python-dateutil", "docx": "python-docx"}  # fmt: skip
"""What is to be installed, where that is called otherwise than what is imported."""


def parsed(chunk: n.Chunk) -> ast.Module | None:
    """The syntax of a Python chunk; None if it is none."""
    if not means(chunk.language, PYTHON):
        return None
    try:
        return ast.parse(chunk.code)
    except (SyntaxError, ValueError, RecursionError):
        return None


def at(chunk: n.Chunk, line: int, column: int = 1) -> Span:
    """A place in a chunk's code, as the page counts."""
    return chunk.span.at(chunk.code_line + line - 1, column + chunk.indent)


def at_offset(chunk: n.Chunk, line: int, offset: int) -> Span:
    """The same for a place as syntax trees have it: bytes of UTF-8 before it."""
    text = chunk.code.split("\n")[line - 1].encode("utf-8", "surrogatepass")
    return at(chunk, line, len(text[:offset].decode("utf-8", "ignore")) + 1)


def move_up(writer: n.Chunk) -> str:
    """What helps where a name is used above the chunk that defines it."""
    return f"The chunk `{writer.label}` in line {writer.span.line} of {writer.span.file} defines it: move that up."


# --- code that is none ------------------------------------------------------------------------


def faulty(page: Page) -> Iterator[Problem]:
    """Chunks that Python does not understand."""
    for chunk in all_chunks(page):
        if not means(chunk.language, PYTHON):
            continue
        try:
            ast.parse(chunk.code)
        except SyntaxError as error:
            yield Problem(at(chunk, error.lineno or 1, error.offset or 1), f"in chunk `{chunk.label}`: {error.msg}")
        except (ValueError, RecursionError) as error:
            yield Problem(at(chunk, 1), f"in chunk `{chunk.label}`: {error}")


def other_languages(page: Page) -> dict[str, list[Problem]]:
    """By rule: what other languages say of their chunks themselves."""
    chunks = {chunk.label: chunk for chunk in all_chunks(page)}
    codes: dict[str, list[tuple[str, str]]] = {}
    for chunk in chunks.values():
        codes.setdefault(chunk.language, []).append((chunk.label, chunk.code))
    by_language: dict[str, list[tuple[str, str]]] = {}
    for word, several in codes.items():
        language = language_of(word)
        if language is not None and not language.trouble:
            by_language.setdefault(language.name, []).extend(several)
    found: dict[str, list[Problem]] = {}
    for name, several in by_language.items():
        language = language_of(name)
        for fault in language.faults(several) if language is not None else ():
            chunk, hint = chunks[fault.label], fault.hint
            if fault.later:
                hint = move_up(chunks[fault.later])
            what = f"in chunk `{chunk.label}`: {fault.what}" if fault.rule == "code" else fault.what
            found.setdefault(fault.rule, []).append(Problem(at(chunk, fault.line, fault.column), what, hint))
    return found


# --- names ------------------------------------------------------------------------------------


class Names:
    """Goes down a page as a pressing does, and knows which names are there at every place."""

    def __init__(self, page: Page, settings: Settings, head: tuple[n.Node, ...]) -> None:
        self.settings = settings
        self.main = main_of(page, settings)
        self.known: set[str] = set()
        self.is_open = False
        self.problems: list[Problem] = []
        self.ever: set[str] = set()
        """Names that were there at any time."""
        self.later: list[tuple[str, Span]] = []
        self.writers: dict[str, n.Chunk] = {}
        for chunk in all_chunks(page):
            if (tree := parsed(chunk)) is not None:
                reading = Reading()
                reading.read(tree)
                for name in reading.known:
                    self.writers.setdefault(name, chunk)
        self.blocks(page.blocks)
        for node in walk(head):
            self.mark(node)
        known = self.known | self.ever
        self.problems += [
            self._fault(name, span) for name, span in self.later if name not in known and not self.is_open
        ]

    def blocks(self, blocks: tuple[n.Node, ...]) -> None:
        """Chunks, marks and inserts in their order."""
        for node in walk(blocks):
            if self.is_open:
                return
            if isinstance(node, n.Chunk):
                self.chunk(node)
            elif isinstance(node, n.Insert):
                self.insert(node)
            else:
                self.mark(node)

    def chunk(self, chunk: n.Chunk) -> None:
        """The code of one chunk."""
        tree = parsed(chunk)
        if tree is None:
            self.is_open = self.is_open or means(chunk.language, PYTHON)
            return
        reading = Reading(self.known | set(self.settings.of(chunk).options.uses))
        reading.read(tree)
        self.known, self.is_open = reading.known, reading.is_open
        self.ever |= reading.known | reading.gone
        if reading.is_open or self.settings.of(chunk).options.on_error == "show":
            return
        self.problems += [
            self._fault(name, at_offset(chunk, line, offset), chunk) for name, line, offset in _once(reading.missing)
        ]
        self.later += [(name, at_offset(chunk, line, offset)) for name, line, offset in _once(reading.later)]

    def insert(self, insert: n.Insert) -> None:
        """The names that an insert wants and gives, and what stands in its file."""
        expressions = [
            *(argument.expression for argument in insert.arguments),
            *([insert.items] if insert.items else []),
        ]
        for expression in expressions if means(self.main, PYTHON) else ():
            self.expression(expression, insert.span)
        names = {argument.name for argument in insert.arguments} | set(re.findall(r"[^\W\d]\w*", insert.target))
        if insert.template is None:
            self.is_open = True
            return
        self.known |= names | set(self.settings.takes.get(insert.template.name, {}))
        self.blocks(insert.template.blocks)

    def mark(self, node: n.Node) -> None:
        """A value mark sees what is there at its place."""
        if isinstance(node, n.ValueMark) and means(node.language or self.main, PYTHON):
            self.expression(node.expression, node.span)

    def expression(self, expression: str, span: Span) -> None:
        """What an expression uses."""
        try:
            tree = ast.parse(expression, mode="eval")
        except (SyntaxError, ValueError):
            return
        reading = Reading(self.known)
        reading.read(tree)
        self.problems += [self._fault(name, span) for name, _, _ in _once(reading.missing)]

    def _fault(self, name: str, span: Span, using: n.Chunk | None = None) -> Problem:
        writer = self.writers.get(name)
        if writer is not None and writer is not using:
            return Problem(span, f"{name!r} is not there yet.", move_up(writer))
        if writer is not None:
            return Problem(span, f"{name!r} is not there yet.", "It is defined further down in this chunk.")
        return Problem(span, f"nothing defines {name!r}.", near_miss(name, self.known))


def _once(uses: list[tuple[str, int, int]]) -> list[tuple[str, int, int]]:
    """The first use of each name."""
    first: dict[str, tuple[str, int, int]] = {}
    for use in uses:
        first.setdefault(use[0], use)
    return list(first.values())


# --- packages, paths, chance ------------------------------------------------------------------


def packages(page: Page) -> Iterator[Problem]:
    """What chunks import and is not there."""
    folder = page.path.parent
    for chunk, node in _nodes(page):
        if isinstance(node, ast.Import):
            names = [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom) and not node.level:
            names = [node.module or ""]
        else:
            continue
        for name in {name.partition(".")[0] for name in names} - {""}:
            if not _is_there(name, folder):
                hint = near_miss(name, _installed(), 1, 0.7) or f"Install {_DISTRIBUTIONS.get(name, name)}."
                yield Problem(
                    at_offset(chunk, node.lineno, node.col_offset), f"the package {name!r} is not installed.", hint
                )


def _is_there(name: str, folder: Path) -> bool:
    if (folder / f"{name}.py").is_file() or (folder / name).is_dir():
        return True
    try:
        if folders := current().folders:  # the page's own environment
            return name in sys.stdlib_module_names or PathFinder.find_spec(name, list(folders)) is not None
        return find_spec(name) is not None
    except (ImportError, ValueError):
        return False


def _installed() -> set[str]:
    from importlib.metadata import packages_distributions

    return {*sys.stdlib_module_names, *packages_distributions()}


def _nodes(page: Page) -> Iterator[tuple[n.Chunk, ast.AST]]:
    """Every piece of code that is not there for the case that another fails."""
    for chunk in all_chunks(page):
        todo: list[ast.AST] = [tree] if (tree := parsed(chunk)) is not None else []
        while todo:
            node = todo.pop(0)
            yield chunk, node
            tried = isinstance(node, ast.Try) and any(
                "ImportError" in ast.unparse(h.type) for h in node.handlers if h.type
            )
            todo += [inner for inner in ast.iter_child_nodes(node) if not (tried and inner in node.body)]  # type: ignore[attr-defined]


def missing_files(page: Page) -> Iterator[Problem]:
    """Files that are read by their plain names, are not there, and are written by nobody."""
    calls = [(chunk, node) for chunk, node in _nodes(page) if isinstance(node, ast.Call) and node.args]
    written = {name for _, call in calls if not _reads(call) for name in _texts(call)}
    for chunk, call in calls:
        name = call.args[0].value if isinstance(call.args[0], ast.Constant) else None
        if not isinstance(name, str) or not _reads(call) or not _PLAIN_FILE.fullmatch(name) or name in written:
            continue
        path = page.path.parent / name
        if not path.exists():
            beside = [other.name for other in path.parent.iterdir()] if path.parent.is_dir() else []
            hint = near_miss(path.name, beside) or (
                "" if path.parent.is_dir() else f"There is no folder {path.parent.name!r}."
            )
            yield Problem(
                at_offset(chunk, call.args[0].lineno, call.args[0].col_offset), f"the file {name!r} is not there.", hint
            )


def _reads(call: ast.Call) -> bool:
    """Whether a call reads the file that its first argument names, as far as its own name tells."""
    name = call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")
    if name == "open":
        mode = call.args[1] if len(call.args) > 1 else next((k.value for k in call.keywords if k.arg == "mode"), None)
        return mode is None or (isinstance(mode, ast.Constant) and str(mode.value).startswith("r"))
    return name.startswith("read_") or name in _READERS


def _texts(call: ast.Call) -> Iterator[str]:
    for node in (*call.args, *(keyword.value for keyword in call.keywords)):
        if isinstance(node, ast.Constant) and isinstance(node.value, str):
            yield node.value


def absolute_paths(page: Page) -> Iterator[Problem]:
    """Paths that other machines do not have."""
    hint = "Write it from the page's folder, as `data/…`."
    for chunk, node in _nodes(page):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and _ABSOLUTE.match(node.value):
            yield Problem(
                at_offset(chunk, node.lineno, node.col_offset), f"the path {node.value!r} is this machine's.", hint
            )
    for image in walk(page.blocks):
        if isinstance(image, n.Image) and _ABSOLUTE.match(image.source):
            yield Problem(image.span, f"the path {image.source!r} is this machine's.", hint)


def chance(page: Page, settings: Settings) -> Iterator[Problem]:
    """What comes out otherwise each time, though nothing was changed."""
    for chunk in all_chunks(page):
        if settings.of(chunk).options.rerun == "always":
            continue
        language = language_of(chunk.language)
        if language and (called := language.code.clock(chunk.code)):
            hint = "Say `rerun=always`, or take the day from a given value."
            yield Problem(at(chunk, _line_of(chunk, called)), f"`{called}` gives another value each time.", hint)
    for chunk, node in _nodes(page):
        if isinstance(node, ast.Call):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            if name in _CHANCE:
                hint = "`page.rng()` gives a generator that is seeded."
                yield Problem(
                    at_offset(chunk, node.lineno, node.col_offset),
                    f"`{ast.unparse(node.func)}` {_CHANCE[name]}, whatever the seed.",
                    hint,
                )


def _line_of(chunk: n.Chunk, called: str) -> int:
    last = called.removesuffix("()").rpartition(".")[2]
    return next((place for place, line in enumerate(chunk.code.splitlines(), 1) if last in line), 1)


def unused_givens(page: Page, settings: Settings) -> Iterator[Problem]:
    """Givens that neither code nor text asks for."""
    texts = [page.text, *(chunk.code for chunk in all_chunks(page))]
    texts += [str(node) for node in walk(page.blocks) if isinstance(node, n.ValueMark | n.Insert)]
    whole = "\n".join(texts)
    for name, one in settings.declared.items():
        word = re.escape(name.replace("-", "_"))
        if not re.search(rf"\bgiven[.$]{word}\b|GIVEN_{word.upper()}\b", whole):
            yield Problem(replace(one.span or Span(page.name, 1)), f"nothing uses the given {name!r}.")
