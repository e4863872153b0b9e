r"""LaTeX sources: `\begin{chunk}{python}[label=load, show=nothing]` … `\end{chunk}`, `\worn{expression}[form]`, settings in
lines that begin with `% worn:` at the head. What is commented out, or stands in verbatim text, is none of it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from wornpage.source.attributes import unquoted
from wornpage.source.hosts.filling import Filling
from wornpage.source.hosts.hosted import Hosted
from wornpage.source.page import FrontMatter
from wornpage.tree import nodes as n

_SETTING = re.compile(r"%[ \t]*worn:[ \t]?(.*)")
_WIDTH = len("% worn: ")
_PLACE = re.compile(
    r"(?P<sign>\\[^A-Za-z])"
    r"|(?P<comment>%[^\n]*)"
    r"|(?P<verbatim>\\begin\{(?P<kind>verbatim\*?|Verbatim|lstlisting|comment|filecontents\*?)\}.*?\\end\{(?P=kind)\})"
    r"|(?P<verb>\\verb\*?(?P<fence>[^A-Za-z\s*]).*?(?P=fence))"
    r"|(?P<end>\\end\{document\})"
    r"|(?P<chunk>\\begin\{chunk\})"
    r"|(?P<mark>\\worn(?![A-Za-z@])\s*)",
    re.DOTALL,
)
_HEAD = re.compile(
    r"\\begin\{chunk\}[ \t]*(?:\{(?P<language>[^{}\n]*)\})?[ \t]*(?:\[(?P<options>[^\n]*)\])?[ \t]*(?P<rest>[^\n]*)\n?"
)
_FOOT = re.compile(r"^[ \t]*\\end\{chunk\}", re.MULTILINE)
_OPTION = re.compile(r"""[ \t]*((?:"[^"]*"|'[^']*'|[^,"'])*)(?:,|$)""")
_ESCAPED = re.compile(r"\\([%#&])")


def read(text: str, name: str) -> Hosted:
    """The text with all that is to be filled in."""
    return _Reader(text, name).read()


class _Reader:
    def __init__(self, text: str, name: str) -> None:
        self.text, self.filling = text, Filling(text, name)

    def read(self) -> Hosted:
        at = 0
        while found := _PLACE.search(self.text, at):
            at = found.end()
            if found["end"]:
                break
            if found["chunk"]:
                at = self._chunk(found.start())
            elif found["mark"]:
                at = self._mark(found)
        return self.filling.hosted(self._front())

    # --- chunks -------------------------------------------------------------------------------

    def _chunk(self, begins: int) -> int:
        """Read a chunk; where the text goes on."""
        head, complain = _HEAD.match(self.text, begins), self.filling.complain
        assert head is not None
        foot = _FOOT.search(self.text, head.end())
        closing = r"Put a line with `\end{chunk}` after its last line."
        if foot is None:
            complain(begins, "the chunk that begins here never ends.", closing)
            return head.end()
        another = self.text.find("\\begin{chunk}", head.end(), foot.start())
        if another >= 0:
            line = self.filling.line(another)
            complain(begins, f"the chunk that begins here does not end before the one in line {line} begins.", closing)
            return another
        if not (head["language"] or "").strip():
            complain(begins, "this chunk names no language.", r"Write `\begin{chunk}{python}`.")
        if head["rest"].strip() and not head["rest"].strip().startswith("%"):
            complain(
                head.start("rest"), "nothing stands behind a chunk's options.", "Its code begins in the next line."
            )
        label, options = self._options(head)
        code, language = self.text[head.end() : foot.start()], (head["language"] or "python").strip().lower()
        self.filling.chunk(begins, foot.end(), code, head.end(), language, label, options, head[0])
        return foot.end()

    def _options(self, head: re.Match[str]) -> tuple[str, tuple[n.RawOption, ...]]:
        """The label and the options in a chunk's brackets."""
        label, options, complain = "", dict[str, n.RawOption](), self.filling.complain
        for found in _OPTION.finditer(head["options"] or ""):
            word = found[1].strip()
            at = head.start("options") + found.start(1)
            key, sign, value = (part.strip() for part in word.partition("="))
            if not word:
                continue
            if not sign:
                hint = f"Write `{word}=…`, or `label={word}` for a label."
                complain(at, f"{word!r} has no place among a chunk's options.", hint)
            elif key == "label":
                label = self.filling.label(value, at)
            elif key in options:
                complain(at, f"the option {key!r} stands here twice.", "Keep one of them.")
            else:
                options[key] = n.RawOption(key, unquoted(value), self.filling.span(at, at + len(word)))
        return label, tuple(options.values())

    # --- marks --------------------------------------------------------------------------------

    def _mark(self, found: re.Match[str]) -> int:
        """Read a mark; where the text goes on."""
        begins, at = found.start(), found.end()
        is_open = self.text[at : at + 1] == "{"
        ends = self._closing(at) if is_open else -1
        if ends < 0:
            what = "the brace of this value is never closed." if is_open else "this value has no expression."
            self.filling.complain(begins, what, r"Write `\worn{name}`.")
            return at
        expression, form = self.text[at + 1 : ends - 1], ""
        if self.text[ends : ends + 1] == "[" and (stop := self.text.find("]", ends)) > 0:
            form, ends = self.text[ends + 1 : stop].strip(), stop + 1
        self.filling.value(begins, ends, _ESCAPED.sub(r"\1", expression), form)
        return ends

    def _closing(self, at: int) -> int:
        """Behind the brace that closes the one at `at`; -1 for none."""
        depth = 0
        for place in range(at, len(self.text)):
            if self.text[place - 1] == "\\" and self.text[place] in "{}":
                continue
            depth += {"{": 1, "}": -1}.get(self.text[place], 0)
            if not depth:
                return place + 1
        return -1

    # --- settings -----------------------------------------------------------------------------

    def _front(self) -> FrontMatter:
        """The settings in comments at the head, each in its own line and column."""
        return FrontMatter("\n".join(self._settings()).rstrip() + "\n", 1)

    def _settings(self) -> Iterator[str]:
        for line in self.text.split("\n"):
            if line.strip() and not line.startswith("%"):
                return
            found = _SETTING.fullmatch(line.rstrip())
            yield " " * _WIDTH + found[1] if found else ""
