"""LaTeX counts by itself: where a page's numbers run otherwise, its counters are set."""

from __future__ import annotations

import re

SECTIONS = ("section", "subsection", "subsubsection", "paragraph", "subparagraph")
_NUMBER = re.compile(r"(.*?)(\d+)$")


class Counting:
    """What LaTeX would count next, and what makes it count as the page does."""

    def __init__(self) -> None:
        self._sections = [0] * len(SECTIONS)
        self._is_appendix = False
        self._captioned: dict[str, tuple[str, int]] = {}

    def appendix(self) -> None:
        """Sections have letters from here on."""
        self._sections, self._is_appendix = [0] * len(SECTIONS), True

    def section(self, level: int, number: str) -> str:
        """What stands before a heading so that its number is `number`; nothing where it would be that anyway."""
        level = min(level, len(SECTIONS))
        wanted = self._read(number)
        if wanted is None or len(wanted) != level:
            return ""
        would = [*self._sections[: level - 1], self._sections[level - 1] + 1]
        self._sections = [*wanted, *[0] * (len(SECTIONS) - level)]
        if wanted == would:
            return ""
        before = [*wanted[:-1], wanted[-1] - 1]
        return "".join(rf"\\setcounter{{{SECTIONS[at]}}}{{{count}}}"[1:] for at, count in enumerate(before)) + "\n"

    def _read(self, number: str) -> list[int] | None:
        parts = number.rstrip(".").split(".")
        first = parts[0]
        if self._is_appendix and len(first) == 1 and first.isalpha():
            parts[0] = str(ord(first.upper()) - ord("A") + 1)
        return [int(part) for part in parts] if all(part.isdigit() for part in parts) else None

    def captioned(self, counter: str, number: str) -> str:
        """The same for a figure, a table, a listing or an equation."""
        found = _NUMBER.fullmatch(number)
        if found is None:
            return ""
        prefix, at = found[1], int(found[2])
        before, count = self._captioned.get(counter, ("", 0))
        self._captioned[counter] = (prefix, at)
        made = rf"\renewcommand{{\the{counter}}}{{{prefix}\arabic{{{counter}}}}}" if prefix != before else ""
        made += rf"\setcounter{{{counter}}}{{{at - 1}}}" if at != count + 1 else ""
        return made + "\n" if made else ""
