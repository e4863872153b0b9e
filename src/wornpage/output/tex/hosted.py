"""A LaTeX source with its results in place: all that its author wrote stays, letter by letter."""

from __future__ import annotations

import re
from importlib.resources import files

from msgspec.structs import replace

from wornpage.output.hosted import Write, results_of
from wornpage.output.kind import Job
from wornpage.output.tex.sheet import Source
from wornpage.source.hosts import tex
from wornpage.source.hosts.hosted import Literal
from wornpage.tree import nodes as n
from wornpage.tree.span import Span

PACKAGE = "wornpage"
_ASKED = re.compile(r"^([^%\n]*\\usepackage(?:\[[^\]\n]*\])?)\{wornpage\}", re.MULTILINE)
_BEGINS = re.compile(r"^[^%\n]*\\begin\{document\}", re.MULTILINE)


def filled_source(page: n.Composed, job: Job, folder: str, write: Write) -> Source:
    """The source of `job` with what `write` makes of each of the page's blocks; the package lies in `folder`."""
    made = results_of(page, write)
    text, places = "", list[tuple[int, Span]]()
    line = 1
    for piece in tex.read(job.source, job.name).pieces:
        part = piece.text if isinstance(piece, Literal) else made.get(piece, "")
        first = piece.line
        for more in range(part.count("\n") + 1 if isinstance(piece, Literal) else 1):
            places.append((line + more, Span(job.name, first + more)))
        text += part
        line += part.count("\n")
    return _with_package(Source(text, tuple(places), folder))


def _with_package(source: Source) -> Source:
    """The source with the package that its results need, from where it lies."""
    place = f"{{{source.folder}/{PACKAGE}}}"
    if _ASKED.search(source.text):
        return replace(source, text=_ASKED.sub(lambda found: found[1] + place, source.text, count=1))
    begins = _BEGINS.search(source.text)
    if begins is None:
        return source  # a part of a source, which is read into another
    text = f"{source.text[: begins.start()]}\\usepackage{place}\n{source.text[begins.start() :]}"
    line = source.text.count("\n", 0, begins.start()) + 1
    return replace(source, text=text, places=tuple((at + (at >= line), span) for at, span in source.places))


def package_file() -> str:
    """`wornpage.sty`: with it a source compiles as it is, with code shown and values as boxes, and so do results."""
    here = files(__package__)
    parts = [(here / name).read_text(encoding="utf-8").strip() for name in ("package.tex", "preamble.tex")]
    return "\n".join([parts[0].partition("%%%")[0], parts[1], parts[0].partition("%%%")[2].lstrip("\n")]) + "\n"
