"""Pages in reStructuredText: the directive `.. chunk:: python` with options such as `:label: load` and code below it, the role
`` :worn:`expression as form` ``, settings in comments at the head that begin with `worn:`. What stands in literal text is none of it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from wornpage.source.attributes import unquoted
from wornpage.source.hosts.filling import Filling
from wornpage.source.hosts.hosted import Hosted
from wornpage.source.page import FrontMatter
from wornpage.tree import nodes as n
from wornpage.tree.brackets import split_form

_DIRECTIVE = re.compile(r"(?P<indent>[ ]*)\.\.[ ]+(?P<name>[A-Za-z][\w.+:-]*?)[ ]?::(?:[ ]+(?P<rest>.*))?[ ]*$")
_COMMENT = re.compile(r"[ ]*\.\.(?:[ ]+(?![\[|_]).*)?$")
_OPTION = re.compile(r"[ ]*:(?P<key>[A-Za-z][\w-]*):(?:[ ]+(?P<value>.*))?[ ]*$")
MARK = re.compile(r"``.*?``|\\.|(?P<mark>:worn:`(?P<expression>(?:\\.|[^`\\])*)`)|(?P<open>:worn:`)", re.DOTALL)
_LITERAL = {"code", "code-block", "sourcecode", "raw", "math", "literalinclude"}
"""Directives whose text is taken as it stands."""
_SETTINGS = re.compile(r"\.\.[ ]+worn:[ ]?(.*)")
_WIDTH = len(".. worn: ")


def read(text: str, name: str) -> Hosted:
    """The text with all that is to be filled in."""
    return _Reader(text, name).read()


class _Reader:
    def __init__(self, text: str, name: str) -> None:
        self.text, self.filling = text, Filling(text, name)
        self.lines = text.split("\n")
        self.starts = [0]
        for line in self.lines:
            self.starts.append(self.starts[-1] + len(line) + 1)

    def read(self) -> Hosted:
        at = 0
        while at < len(self.lines):
            at = self._block(at)
        return self.filling.hosted(self._front())

    def _block(self, at: int) -> int:
        """Read what begins with a line; the line where the text goes on."""
        line = self.lines[at].rstrip()
        directive = _DIRECTIVE.match(line)
        if directive and directive["name"] == "chunk":
            return self._chunk(at, directive)
        if directive:
            if directive["name"] in _LITERAL:
                return self._behind(at)
            self._marks(self.starts[at], self.starts[at + 1] - 1)
            return at + 1
        if _COMMENT.match(line):
            return self._behind(at)
        if not line.strip():
            return at + 1
        return self._words(at)

    def _words(self, at: int) -> int:
        """Read the lines of a paragraph with its marks, and pass over the literal text that it announces."""
        ends = at
        while ends < len(self.lines) and self.lines[ends].strip() and not _DIRECTIVE.match(self.lines[ends].rstrip()):
            ends += 1
        self._marks(self.starts[at], self.starts[ends] - 1)
        last = ends - 1
        return self._behind(last) if self.lines[last].rstrip().endswith("::") else ends

    def _behind(self, at: int) -> int:
        """The line behind all that stands further in than a line, below it."""
        depth, ends = _indent(self.lines[at]), at + 1
        while ends < len(self.lines) and (not self.lines[ends].strip() or _indent(self.lines[ends]) > depth):
            ends += 1
        return ends

    # --- chunks -------------------------------------------------------------------------------

    def _chunk(self, at: int, head: re.Match[str]) -> int:
        ends, complain = self._behind(at), self.filling.complain
        language = (head["rest"] or "").strip().lower()
        if not language:
            complain(self.starts[at], "this chunk names no language.", "Write `.. chunk:: python`.")
        label, options, first = self._options(at + 1, ends)
        last = ends
        while last > first and not self.lines[last - 1].strip():
            last -= 1
        stop = self.starts[last] - 1
        while first < last and not self.lines[first].strip():
            first += 1
        depth = min((_indent(line) for line in self.lines[first:last] if line.strip()), default=0)
        code = "".join(f"{line[depth:]}\n" for line in self.lines[first:last])
        begins, place = self.starts[at] + len(head["indent"]), min(self.starts[first], len(self.text))
        self.filling.chunk(begins, stop, code, place, language or "python", label, options, head[0].strip(), depth)
        return ends

    def _options(self, at: int, ends: int) -> tuple[str, tuple[n.RawOption, ...], int]:
        """The label and the options of a chunk, and the line behind them."""
        label, options, complain = "", dict[str, n.RawOption](), self.filling.complain
        while at < ends and (found := _OPTION.match(self.lines[at].rstrip())):
            key, value = found["key"], unquoted((found["value"] or "yes").strip())
            place = self.starts[at] + found.start("key")
            if key == "label":
                label = self.filling.label(value, place)
            elif key in options:
                complain(place, f"the option {key!r} stands here twice.", "Keep one of them.")
            else:
                options[key] = n.RawOption(key, value, self.filling.span(place, self.starts[at + 1] - 1))
            at += 1
        if at < ends and self.lines[at].strip():
            hint = "Put an empty line before it; options are written `:label: load`."
            complain(self.starts[at], "code cannot begin right below a chunk's first line or its options.", hint)
        return label, tuple(options.values()), at

    # --- marks --------------------------------------------------------------------------------

    def _marks(self, begins: int, ends: int) -> None:
        for found in MARK.finditer(self.text, begins, ends):
            if found["open"]:
                hint = r"Put a backquote behind it; one that belongs to the expression is written as \`."
                self.filling.complain(found.start(), "the backquote of this value is never closed.", hint)
            elif found["mark"]:
                words = " ".join(re.sub(r"\\(`)", r"\1", found["expression"]).split("\n"))
                expression, form = split_form(words.strip())
                self.filling.value(found.start(), found.end(), expression, form)

    # --- settings -----------------------------------------------------------------------------

    def _front(self) -> FrontMatter:
        """The settings in comments at the head, each in its own line and column."""
        return FrontMatter("\n".join(self._settings()).rstrip() + "\n", 1)

    def _settings(self) -> Iterator[str]:
        within = ours = False
        for line in self.lines:
            found, comment = _SETTINGS.match(line), line.startswith("..")
            if found:
                within = ours = True
                yield " " * _WIDTH + found[1] if found[1].strip() else ""
            elif comment:
                within, ours = True, False
                yield ""
            elif not line.strip() or (within and line.startswith(" ")):
                yield line if ours else ""
            else:
                return


def _indent(line: str) -> int:
    return len(line) - len(line.lstrip(" "))
