"""What TeX says of a source, told in lines of the page."""

from __future__ import annotations

import re
from collections.abc import Iterator

from wornpage.output.tex.sheet import Source
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span

_ERROR = re.compile(r"^(?:\./)?(?P<file>[^\n:]+):(?P<line>\d+): (?P<what>.*)$", re.MULTILINE)
_MISSING_FILE = re.compile(r"File `([^']+)' not found")
_AGAIN = re.compile(
    r"Rerun to get|rerun LaTeX|Label\(s\) may have changed|No file page\.(?:toc|lof|lot|aux)", re.IGNORECASE
)
_WIDE = re.compile(r"^Overfull \\hbox \((?P<by>[\d.]+)pt too wide\)[^\n]*? at lines? (?P<line>\d+)", re.MULTILINE)
_LACKS = re.compile(r"^Missing character: There is no (?P<letter>\S+)", re.MULTILINE)
_UNDEFINED = re.compile(
    r"^(?:LaTeX|Package \w+) Warning: (?P<what>(?:Reference|Citation) [`'].*?undefined).*?on input line (?P<line>\d+)",
    re.MULTILINE,
)
_OURS = re.compile(r"^Package worn Warning: (?P<what>.*?) on input line", re.MULTILINE)
_SLIGHT = 6.0
"""Points that nobody sees."""


def runs_again(log: str) -> bool:
    """Whether numbers may still change."""
    return _AGAIN.search(log) is not None


def errors_in(log: str, source: Source, name: str) -> list[Problem]:
    """Why there are no sheets."""
    found = _ERROR.search(log)
    if found is None:
        last = [line for line in log.strip().split("\n") if line.startswith("!")]
        what = last[0][1:].strip() if last else "the compiler ended without saying why."
        return [Problem(Span(name, 1), f"LaTeX: {what}")]
    what = f"LaTeX: {found['what'].rstrip('.')}."
    shown = re.search(rf"^l\.{found['line']} ?(.*)$", log, re.MULTILINE)
    hint = f"It stopped behind `{shown[1].strip()[-60:]}`." if shown and shown[1].strip() else ""
    lacking = _MISSING_FILE.search(found["what"])
    if lacking:
        hint = f"The TeX of this machine has no {lacking[1]}; install the package that holds it."
    own = re.split(r"[\\/]", found["file"])[-1] in {"page.tex", "page"}
    return [Problem(source.place_of(int(found["line"]), name) if own else Span(name, 1), what, hint)]


def warnings_in(log: str, source: Source, name: str, with_letters: bool = True) -> list[Problem]:
    """What went less well than it should; `with_letters` says whether letters are told of that the font lacks."""
    log = log if with_letters else _LACKS.sub("", log)
    return list(
        dict.fromkeys(Problem(span, what, hint, Severity.WARNING) for span, what, hint in _said(log, source, name))
    )


def _said(log: str, source: Source, name: str) -> Iterator[tuple[Span, str, str]]:
    for found in _WIDE.finditer(log):
        if float(found["by"]) > _SLIGHT:
            by = float(found["by"]) * 2.54 / 72.27
            yield source.place_of(int(found["line"]), name), f"LaTeX: this stands {by:.1f} cm into the margin.", ""
    for found in _UNDEFINED.finditer(log):
        yield source.place_of(int(found["line"]), name), f"LaTeX: {found['what']}.", ""
    for found in _OURS.finditer(log):
        yield Span(name, 1), f"LaTeX: {found['what']}.", ""
    for found in _LACKS.finditer(log):
        hint = "Name a font of your machine that has it: `press: {tex: {font: Noto Serif}}`."
        yield Span(name, 1), f"LaTeX: the font has no letter {found['letter']}.", hint
