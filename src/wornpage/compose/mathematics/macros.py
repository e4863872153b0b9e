"""Commands of the author's own: written out before a formula is read, each letter knowing where it came from."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

_COMMAND = re.compile(r"\\([A-Za-z]+|.)", re.DOTALL)
_PARAMETER = re.compile(r"#([1-9])")
NAME = re.compile(r"\\?[A-Za-z]+$")
_MOST = 40_000
"""Letters of a formula once it is written out: more is a macro that feeds itself."""


_MOST_TIMES = 2_000
"""Macros that are written out in one formula."""


class MacroFault(Exception):
    """A macro that cannot be written out: what is wrong, a hint, and the offset in the formula, from 0."""

    def __init__(self, what: str, offset: int, hint: str = "") -> None:
        super().__init__(what)
        self.what, self.offset, self.hint = what, offset, hint


def written_out(latex: str, macros: Mapping[str, str]) -> tuple[str, Sequence[int]]:
    """`latex` without macros, and for each letter of it, and its end, the offset in `latex` that it comes from.

    Raises `MacroFault` for a missing argument and for a macro that uses itself.
    """
    bodies = {name.removeprefix("\\"): body for name, body in macros.items()}
    places: Sequence[int] = range(len(latex) + 1)
    if not bodies:
        return latex, places
    text, at, count = latex, 0, 0
    while match := _COMMAND.search(text, at):
        name = match[1]
        if name not in bodies:
            at = match.end()
            continue
        count += 1
        if count > _MOST_TIMES or len(text) > _MOST or len(text) > 2000 * (len(latex) + 1):
            raise MacroFault(f"the macro '\\{name}' uses itself.", places[match.start()])
        text, places = _replaced(text, places, match, bodies[name])
        at = match.start()
    return text, places


def _replaced(text: str, places: Sequence[int], match: re.Match[str], body: str) -> tuple[str, Sequence[int]]:
    """One macro written out where it stands."""
    here = places[match.start()]
    count = max((int(number) for number in _PARAMETER.findall(body)), default=0)
    arguments: list[tuple[int, int]] = []
    end = match.end()
    for number in range(count):
        begin, stop, end = _argument(text, end)
        if begin < 0:
            what = f"the macro '\\{match[1]}' wants {count} argument{'s' if count > 1 else ''}, and has {number}."
            raise MacroFault(what, here, "Put each into braces.")
        arguments.append((begin, stop))
    made: list[str] = []
    sources: list[int] = []
    done = 0
    for parameter in _PARAMETER.finditer(body):
        begin, stop = arguments[int(parameter[1]) - 1]
        made += [body[done : parameter.start()], text[begin:stop]]
        sources += [here] * (parameter.start() - done) + list(places[begin:stop])
        done = parameter.end()
    made.append(body[done:])
    sources += [here] * (len(body) - done)
    gap = " " if re.search(r"\\[A-Za-z]+$", body) and text[end : end + 1].isalpha() else ""
    return (
        text[: match.start()] + "".join(made) + gap + text[end:],
        [*places[: match.start()], *sources, *([here] if gap else []), *places[end:]],
    )


def _argument(text: str, at: int) -> tuple[int, int, int]:
    """Where the argument after `at` begins and ends, and where to go on; begins at -1 if there is none."""
    while at < len(text) and text[at].isspace():
        at += 1
    if at >= len(text) or text[at] in "}&":
        return -1, -1, at
    if text[at] == "\\":
        command = _COMMAND.match(text, at)
        stop = command.end() if command else at + 1
        return at, stop, stop
    if text[at] != "{":
        return at, at + 1, at + 1
    depth = 0
    for place in range(at, len(text)):
        if text[place] in "{}" and text[place - 1] != "\\":
            depth += 1 if text[place] == "{" else -1
            if depth == 0:
                return at + 1, place, place + 1
    return -1, -1, at
