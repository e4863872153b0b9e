"""A page from a plain script: comments that stand alone become prose, the code between them chunks."""

from __future__ import annotations

import ast
import re
from dataclasses import dataclass, field

from wornpage.exchange.writing import Draft, escaped, heading_of, prose_of
from wornpage.session.r.tokens import lines_within
from wornpage.source import slug
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

_CELL = re.compile(r"^#\s*%%\s*(?P<kind>\[(?:markdown|md)\])?\s*(?P<title>.*)$", re.IGNORECASE)
"""The mark between cells that many editors know."""
_DEFINITION = re.compile(r"(?:def|class|async def) |@")
_R_DEFINITION = re.compile(r"[\w.]+ *(?:<-|=) *function\b")
_HEADER = re.compile(r"^#(?:!.*|.*coding[:=]\s*[-\w.]+.*)$")


@dataclass
class _Piece:
    """Lines of one kind."""

    lines: list[str] = field(default_factory=list)
    is_code: bool = True
    title: str = ""


def page_of_r_script(text: str, title: str) -> str:
    """A page with the code of a script of R, which is kept as it is."""
    lines = [_plain_comment(line) for line in text.lstrip("\ufeff").replace("\r\n", "\n").split("\n")]
    draft = Draft(title, "r")
    at = 0
    while at < len(lines) and (not lines[at].strip() or _HEADER.match(lines[at])):
        at += 1
    start = _titled(lines, at, draft) if at < len(lines) and lines[at].startswith("#") else at
    return _drafted(draft, _Parting(lines, lines_within("\n".join(lines)), _R_DEFINITION).parted(start))


def _plain_comment(line: str) -> str:
    """A comment that is marked as words, as an ordinary one."""
    return re.sub(r"^#'", "#", line)


def page_of_script(text: str, name: str, title: str) -> str:
    """A page with the code of a script, which is kept as it is. Raises `PageError` if it is no Python."""
    text = text.lstrip("\ufeff").replace("\r\n", "\n")
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        line = text.count("\n", 0, text.find("\0")) + 1 if "\0" in text else getattr(error, "lineno", None) or 1
        at = Span(name, line, getattr(error, "offset", None) or 1)
        raise PageError([Problem(at, f"this is no Python script: {getattr(error, 'msg', error)}.")]) from None
    lines = text.split("\n")
    draft = Draft(title)
    start = _front(lines, tree, draft)
    return _drafted(draft, _Parting(lines, _lines_inside(tree), _DEFINITION).parted(start))


def _drafted(draft: Draft, pieces: list[_Piece]) -> str:
    for piece in pieces:
        if piece.title:
            draft.heading(piece.title)
        if piece.is_code:
            draft.chunk(piece.lines, slug(piece.title) if piece.title else "")
        else:
            draft.prose(piece.lines)
    return draft.text()


def _front(lines: list[str], tree: ast.Module, draft: Draft) -> int:
    """Take the script's own head: the line that says what runs it, and the words at its top. The first line after."""
    at = 0
    while at < len(lines) and _HEADER.match(lines[at]):
        at += 1
    words = ast.get_docstring(tree)
    if (
        words
        and tree.body
        and all(not line.strip() or line.startswith("#") for line in lines[at : tree.body[0].lineno - 1])
    ):
        first, _, rest = words.partition("\n")
        draft.title = first.strip().rstrip(".") or draft.title
        draft.prose(map(escaped, rest.strip("\n").split("\n")))
        return tree.body[0].end_lineno or at
    while at < len(lines) and not lines[at].strip():
        at += 1
    return _titled(lines, at, draft) if at < len(lines) else at


def _titled(lines: list[str], at: int, draft: Draft) -> int:
    """Take a comment that stands alone at the top: its first line is the title, if it looks like one."""
    end = _end_of_comment(lines, at)
    first = lines[at].lstrip("#").strip()
    is_alone = end - at == 1 or not lines[at + 1].lstrip("#").strip() if end > at else False
    if not is_alone or not first or len(first) > 80 or code_follows(lines, at):
        return at
    draft.title = first.rstrip(".")
    draft.prose(prose_of(lines[at + 1 : end], is_markdown=False))
    return end


class _Parting:
    """Cuts a script into pieces: at marks between cells, at comments that stand alone, at gaps of two lines and more."""

    def __init__(self, lines: list[str], inside: set[int], definition: re.Pattern[str]) -> None:
        """`inside` are lines, counted from 1, that go on with the one before; `definition` is how one begins."""
        self.lines, self.inside, self.definition = lines, inside, definition
        self.pieces: list[_Piece] = []
        self.code: list[str] = []
        self.title = ""
        """Of the cell that has begun, until something of it is told."""

    def parted(self, start: int) -> list[_Piece]:
        """The pieces from the line `start` on, counted from 0."""
        at = start
        while at < len(self.lines):
            at = self._taken(at)
        self._end_of_code()
        return _joined([piece for piece in self.pieces if piece.lines or piece.title], self.definition)

    def _taken(self, at: int) -> int:
        """Take what begins in a line; the first line after it."""
        line, is_free = self.lines[at], at + 1 not in self.inside
        if is_free and (cell := _CELL.match(line)):
            return self._cell(at, cell)
        if is_free and line.startswith("#") and not code_follows(self.lines, at):
            end = _end_of_comment(self.lines, at)
            self._end_of_code()
            self._heading()
            self.pieces += _of_comment(self.lines[at:end])
            return end
        if is_free and _is_gap(self.lines, at):
            self._end_of_code()
        self.code.append(line)
        return at + 1

    def _cell(self, at: int, cell: re.Match[str]) -> int:
        self._end_of_code()
        self._heading()
        self.title = heading_of(cell["title"])
        if not cell["kind"]:
            return at + 1
        end = _end_of_comment(self.lines, at + 1)
        self.pieces.append(_Piece(prose_of(self.lines[at + 1 : end], is_markdown=True), False, self.title))
        self.title = ""
        return end

    def _end_of_code(self) -> None:
        if code := _trimmed(self.code):
            self.pieces.append(_Piece(code, True, self.title))
            self.title = ""
        self.code = []

    def _heading(self) -> None:
        """A cell that begins with words has its heading above them."""
        if self.title:
            self.pieces.append(_Piece([], False, self.title))
            self.title = ""


def _lines_inside(tree: ast.Module) -> set[int]:
    """Lines within statements of several lines, such as texts in which anything may stand."""
    return {
        number
        for statement in tree.body
        for number in range(statement.lineno + 1, (statement.end_lineno or statement.lineno) + 1)
    }


def code_follows(lines: list[str], at: int) -> bool:
    """Whether a comment belongs to the code right under it."""
    end = _end_of_comment(lines, at)
    return end < len(lines) and bool(lines[end].strip())


def _end_of_comment(lines: list[str], at: int) -> int:
    while at < len(lines) and lines[at].startswith("#") and not _CELL.match(lines[at]):
        at += 1
    return at


def _of_comment(lines: list[str]) -> list[_Piece]:
    words = prose_of(lines, is_markdown=False)
    shown = [line for line in words if line.strip()]
    if len(shown) == 1 and (title := heading_of(shown[0], lines)):
        return [_Piece([], False, title)]
    return [_Piece(words, False)]


def _is_gap(lines: list[str], at: int) -> bool:
    """Whether a statement begins after two empty lines."""
    return at >= 2 and bool(lines[at].strip()) and not lines[at - 1].strip() and not lines[at - 2].strip()


def _trimmed(lines: list[str]) -> list[str]:
    while lines and not lines[0].strip():
        lines = lines[1:]
    while lines and not lines[-1].strip():
        lines = lines[:-1]
    return lines


def _joined(pieces: list[_Piece], definition: re.Pattern[str]) -> list[_Piece]:
    """Definitions that follow each other stay in one chunk; two empty lines between them say nothing."""
    made: list[_Piece] = []
    for piece in pieces:
        if (
            made
            and piece.is_code
            and made[-1].is_code
            and not piece.title
            and _is_definition(piece.lines, definition)
            and _is_definition(made[-1].lines, definition)
        ):
            made[-1].lines += ["", "", *piece.lines]
        else:
            made.append(piece)
    return made


def _is_definition(lines: list[str], definition: re.Pattern[str]) -> bool:
    first = next((line for line in lines if line.strip() and not line.startswith("#")), "")
    return bool(definition.match(first))
