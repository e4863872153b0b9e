"""Writing a page piece by piece."""

from __future__ import annotations

import re
from collections.abc import Iterable

_RULES = re.compile(r"^[\s\-=*#~_]+|[\s\-=*#~_]+$")
_SPECIAL = re.compile(r"([\\$<*_`\[\]])|\{(?=[=a-z])")
_CLAIMED = re.compile(r"^\s*(?:Caption|Label)(?: \([a-z]+\))?:")
_IMPORT = re.compile(r"^(?:import\s|from\s|library\(|suppressPackageStartupMessages\()")
_WIDEST_TITLE = 70


class Draft:
    """A page being written."""

    def __init__(self, title: str, language: str = "python") -> None:
        self.title, self.language = title, language
        self._parts: list[str] = []
        self._is_set_up = False
        self._labels: set[str] = set()

    def heading(self, words: str, level: int = 1) -> None:
        """A heading; its words are Markdown."""
        self._parts.append(f"{'#' * level} {words}")

    def prose(self, lines: Iterable[str]) -> None:
        """Paragraphs."""
        text = "\n".join(lines).strip("\n")
        if text.strip():
            self._parts.append(text)

    def chunk(self, lines: list[str], label: str = "") -> None:
        """Code that runs; the first, if it imports, is the set-up."""
        while lines and not lines[0].strip():
            lines = lines[1:]
        while lines and not lines[-1].strip():
            lines = lines[:-1]
        if not lines:
            return
        if not self._is_set_up and any(map(_IMPORT.match, lines)):
            label = label or "set-up"
            self._is_set_up = True
        self.fenced(lines, f"{self.language} run", self._own(label))

    def listing(self, lines: list[str], language: str) -> None:
        """Code that is shown and does not run."""
        self.fenced(lines, language, "")

    def fenced(self, lines: list[str], opening: str, header: str) -> None:
        """A fence that nothing in the code can end."""
        ticks = max((len(run) for line in lines for run in re.findall(r"^\s*(`{3,})", line)), default=2) + 1
        fence = "`" * max(3, ticks)
        self._parts.append("\n".join([f"{fence}{opening}{' ' + header if header else ''}".rstrip(), *lines, fence]))

    def _own(self, label: str) -> str:
        """A label that no other chunk has, with its sign."""
        if not label:
            return ""
        number, own = 1, label
        while own in self._labels:
            number += 1
            own = f"{label}-{number}"
        self._labels.add(own)
        return f"#{own}"

    def text(self) -> str:
        """The page."""
        title = self.title.replace("\\", "\\\\").replace('"', '\\"')
        return "\n\n".join([f'---\ntitle: "{title}"\n---', *self._parts]) + "\n"


def heading_of(words: str, comment: Iterable[str] = ("---",)) -> str:
    """The heading that a line of a comment is, such as `---- Load the data ----`; empty if it is a sentence."""
    bare = _RULES.sub("", words)
    is_ruled = any(re.search(r"[-=*#~]{3,}", line) for line in comment) or bare != words.strip()
    is_sentence = bare.endswith((".", "?", "!", ":", ";", ","))
    return escaped(bare) if bare and is_ruled and not is_sentence and len(bare) <= _WIDEST_TITLE else ""


def prose_of(lines: list[str], is_markdown: bool) -> list[str]:
    """The words of comment lines; signs that Markdown would take for its own are made plain unless it is Markdown."""
    bare = [re.sub(r"^#\s?", "", line) for line in lines]
    if is_markdown:
        return [claimed(line) for line in bare]
    return [escaped(line) for line in bare if not re.fullmatch(r"[\s\-=*#~_]{3,}", line)]


def escaped(line: str) -> str:
    """A line whose signs stand for themselves."""
    return claimed(_SPECIAL.sub(lambda sign: "\\" + sign[0], line))


def claimed(line: str) -> str:
    """A line that is not taken for a caption."""
    return _CLAIMED.sub(lambda start: "\\" + start[0].lstrip(), line)
