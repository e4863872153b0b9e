"""A page as a script, and back: what is no code becomes comments, so nothing is lost and the code stays as it is.

# The rooms were **damp**.
#
# ```python run #load
import pandas as pd
# ```
"""

from __future__ import annotations

import re

from wornpage.plan.languages import main_of
from wornpage.session.languages import known, means
from wornpage.settings import Settings
from wornpage.source import Page
from wornpage.tree.nodes import Chunk

_FIRST = "# A page as a script, written by `worn code`; `worn import` makes the page again."
_GIVEN_ENDS = "# (here ends what the page gives to its code)"
_NOT_RUN = "# (not run in the script)"
_FENCE = re.compile(r"^# (?P<before>[^`~]*?)(?P<fence>`{3,}|~{3,})(?P<header>.*)$")
_RUNS = re.compile(r"^\s*\w+\s(?:.*\s)?run(?:\s|$)")


def script_of(page: Page, settings: Settings) -> str:
    """The page's code as a script that runs by itself; everything else is in its comments."""
    chunks = [chunk for chunk in page.chunks if chunk.span.file == page.name and not chunk.span.within and chunk.fence]
    lines = page.text.rstrip("\n").split("\n")
    main = main_of(page, settings)
    made: list[str] = [_FIRST, *_given_to(main, chunks, settings), ""]
    at = 0
    for chunk in chunks:
        code = chunk.code.splitlines()
        made += map(_comment, lines[at : chunk.code_line - 2])
        opening, closing = lines[chunk.code_line - 2], lines[chunk.code_line - 1 + len(code) :][:1]
        longer = _more_ticks(opening, code)
        made.append(_comment(_lengthened(opening, longer)))
        runs = means(chunk.language, main) and settings.of(chunk).options.on_error == "stop"
        made += code if runs else [_NOT_RUN, *map(_comment, code)]
        made += [_comment(_lengthened(line, longer)) for line in closing]
        at = chunk.code_line + len(code)
    made += map(_comment, lines[at:])
    return "\n".join(made) + "\n"


def _comment(line: str) -> str:
    return f"# {line}" if line.strip() else ""


def _more_ticks(opening: str, code: list[str]) -> int:
    """How much longer a fence must be so that no line of the code looks like its end."""
    match = _FENCE.match(f"# {opening}")
    fence = match["fence"] if match else "```"
    looks = [len(found["fence"]) for line in code if (found := _FENCE.match(line)) and found["fence"][0] == fence[0]]
    return max(0, max(looks, default=0) + 1 - len(fence)) if looks else 0


def _lengthened(line: str, by: int) -> str:
    return re.sub(r"(`{3,}|~{3,})", lambda fence: fence[0] + fence[0][0] * by, line, count=1) if by else line


def _given_to(main: str, chunks: list[Chunk], settings: Settings) -> list[str]:
    """What stands for `given` and `page` outside a page."""
    given = {name.replace("-", "_"): value for name, value in settings.given.items()}
    made = known(main).code.alone("\n".join(chunk.code for chunk in chunks), given)
    return [*made, _GIVEN_ENDS] if made else []


# --- back -------------------------------------------------------------------------------------


def is_from_page(text: str) -> bool:
    """Whether a script was made by `script_of`."""
    return text.lstrip("\ufeff").startswith(_FIRST)


def page_again(text: str) -> str:
    """The page that a script was made from, with whatever was changed in its code and comments since.

    Code that was added outside every chunk becomes a chunk of its own.
    """
    lines = text.lstrip("\ufeff").replace("\r\n", "\n").rstrip("\n").split("\n")[1:]
    if _GIVEN_ENDS in lines:
        lines = lines[lines.index(_GIVEN_ENDS) + 1 :]
    made: list[str] = []
    loose: list[str] = []
    at = 1 if lines and not lines[0].strip() else 0
    while at < len(lines):
        line = lines[at]
        match = _FENCE.match(line)
        if match and _RUNS.match(match["header"]):
            made += _chunk(loose)
            at = _fenced(lines, at, match, made)
            continue
        if line.startswith("#") or not line.strip():
            if not (loose and not line.strip()):
                made += _chunk(loose)
                made.append(line[2:] if line.startswith("# ") else line[1:] if line.startswith("#") else "")
            else:
                loose.append(line)
        else:
            loose.append(line)
        at += 1
    made += _chunk(loose)
    return "\n".join(made).rstrip("\n") + "\n"


def _fenced(lines: list[str], at: int, opening: re.Match[str], made: list[str]) -> int:
    """Take over a chunk; returns the line after it."""
    before = re.sub(r"[^>\s]", " ", opening["before"])
    made.append(lines[at][2:])
    at += 1
    commented = at < len(lines) and lines[at] == _NOT_RUN
    at += commented
    while at < len(lines):
        line = lines[at]
        close = _FENCE.match(line)
        if close and close["fence"].startswith(opening["fence"]) and not close["header"].strip():
            made.append(line[2:])
            return at + 1
        code = line[2:] if commented and line.startswith("# ") else line
        made.append((before + code).rstrip() if not code.strip() else before + code)
        at += 1
    made.append(before + opening["fence"])
    return at


def _chunk(loose: list[str]) -> list[str]:
    """Code that stands outside every chunk, as one; empties `loose`."""
    while loose and not loose[-1].strip():
        loose.pop()
    if not loose:
        return []
    made = ["```python run", *loose, "```", ""]
    loose.clear()
    return made
