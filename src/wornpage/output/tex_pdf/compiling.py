"""Compile the source: no program may be called from within it, and every fault is told with its line of the page."""

from __future__ import annotations

import datetime
import os
import re
import shutil
import subprocess
import tempfile
from pathlib import Path

from msgspec import Struct

from wornpage.output.kind import Job, Written
from wornpage.output.outputs import options_in
from wornpage.output.pdf.fonts import Fonts, fonts_for
from wornpage.output.pdf.writer import missing_letters, texts_of
from wornpage.output.stationery import find_stationery
from wornpage.output.tex.letters import lacking
from wornpage.output.tex.sheet import Source
from wornpage.output.tex.writer import source_of
from wornpage.output.tex_pdf.log import errors_in, runs_again, warnings_in
from wornpage.output.tex_pdf.options import TexPdfPress
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

_ENGINES = ("lualatex", "xelatex", "pdflatex")
_SAME_BYTES = {
    "lualatex": r"\pdfvariable suppressoptionalinfo 608\relax",
    "pdflatex": r"\pdfsuppressptexinfo15\pdfinfoomitdate1\pdftrailerid{}",
    "xelatex": "",
}
"""What keeps times and paths out of the PDF."""
_BY_NAME = re.compile(r"\{[^}]*(?:fontspec|unicode-math|luacode|polyglossia)[^}]*\}|bidi=basic")
"""What asks for fonts of the machine."""
_PATIENCE = 180
"""Seconds for one run."""
_MOST_RUNS = 4


def write_tex_pdf(page: n.Composed, job: Job) -> Written:
    """The sheets. Raises `PageError` where there is no TeX, or it cannot compile the page."""
    options: TexPdfPress = options_in(job.settings, "tex-pdf")
    engine = _engine(options, job, page.host)
    fonts = _fonts(page, job) if Path(engine).stem == "lualatex" and not page.host else None
    source, beside, problems = source_of(
        page, job, "tex-pdf", tuple(path.name for path in fonts.files) if fonts else ()
    )
    problems = (*problems, *(missing_letters(page, fonts, job.name) if fonts else ()))
    stationery = find_stationery(job.settings.stationery, job.folder / job.name)
    with tempfile.TemporaryDirectory(prefix="worn-") as place:
        folder = Path(place)
        (folder / "page.tex").write_text(source.text, encoding="utf-8")
        for name, data in beside.items():
            (folder / source.folder).mkdir(exist_ok=True)
            (folder / source.folder / name).write_bytes(data)
        for name, path in stationery.assets.items():
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(path, folder / name)
        for path in fonts.files if fonts else ():
            shutil.copyfile(path, folder / path.name)
        log = _Compiling(engine, folder, source, job, _moment(source, page.host)).run()
        data = (folder / "page.pdf").read_bytes()
    told = warnings_in(log, source, job.name, with_letters=fonts is None)
    return Written(
        data,
        (*problems, *told),
        read=(Path(engine), *(fonts.read if fonts else ())),
        fonts=fonts.of_system if fonts else (),
    )


def _fonts(page: n.Composed, job: Job) -> Fonts | None:
    """Fonts of this machine for letters that LaTeX's own do not have; None if it has them all."""
    if options_in(job.settings, "tex").font or not set().union(*map(lacking, texts_of(page, formulas=False))):
        return None
    return fonts_for(texts_of(page, formulas=False), [], lambda letter: not lacking(letter))


def _engine(options: TexPdfPress, job: Job, host: str) -> str:
    """The compiler: for somebody's own source the oldest that will do, unless it asks for fonts by name."""
    wanted: tuple[str, ...] = _ENGINES if options.engine == "any" else (options.engine,)
    if host and options.engine == "any" and not _BY_NAME.search(job.source):
        wanted = tuple(reversed(_ENGINES))
    for name in wanted:
        found = shutil.which(name)
        if found:
            return found
    named = wanted[0] if len(wanted) == 1 else f"{', '.join(wanted[:-1])} or {wanted[-1]}"
    what = f"there is no {named} on this machine to make a PDF of the LaTeX source."
    hint = "Install TeX Live, or press to `tex` for the source alone, or to `pdf`, which needs no TeX."
    raise PageError([Problem(Span(job.name, 1), what, hint)])


def _moment(source: Source, host: str) -> int:
    """The time that the compiler is told: none, so that sheets are the same again, or today's where it is written on them."""
    today = datetime.datetime.now().replace(hour=12, minute=0, second=0, microsecond=0)
    return int(today.timestamp()) if host or "\\today" in source.text else 0


class _Compiling(Struct, frozen=True):
    """One source in a folder of its own."""

    engine: str
    folder: Path
    source: Source
    job: Job
    moment: int
    """Seconds since 1970 that programs take for now."""

    def run(self) -> str:
        """Run the compiler until its references stand still; the log of the last run."""
        log, cited = "", False
        for _ in range(_MOST_RUNS):
            log = self.once()
            if not cited and (program := _bibliography(self.folder)):
                cited = True
                self.call([program, "page"])
            elif not runs_again(log):
                break
        return log

    def once(self) -> str:
        """One run. Raises `PageError` where there are no sheets then."""
        start = rf"{_SAME_BYTES[Path(self.engine).stem]}\input{{page.tex}}"
        options = [
            "-interaction=nonstopmode",
            "-halt-on-error",
            "-file-line-error",
            "-no-shell-escape",
            "-jobname=page",
        ]
        status = self.call([self.engine, *options, start])
        path = self.folder / "page.log"
        log = path.read_text(encoding="utf-8", errors="replace") if path.is_file() else ""
        if status or not (self.folder / "page.pdf").is_file():
            raise PageError(errors_in(log, self.source, self.job.name))
        return log

    def call(self, command: list[str]) -> int:
        """Run a program in the folder; its exit status."""
        places = os.pathsep.join((str(self.folder), str(self.job.folder.resolve()), ""))
        surroundings = {
            **os.environ, "SOURCE_DATE_EPOCH": str(self.moment), "FORCE_SOURCE_DATE": "1", "max_print_line": "1000", "openout_any": "p",
            **dict.fromkeys(("TEXINPUTS", "BIBINPUTS", "BSTINPUTS"), places),
        }  # fmt: skip
        try:
            done = subprocess.run(
                command, cwd=self.folder, env=surroundings, capture_output=True, timeout=_PATIENCE, check=False, stdin=subprocess.DEVNULL
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            what = f"{Path(command[0]).name} took longer than {_PATIENCE} seconds."
            raise PageError([Problem(Span(self.job.name, 1), what)]) from None
        return done.returncode


def _bibliography(folder: Path) -> str:
    """The program that makes the list of works; empty where there is none to make."""
    if (folder / "page.bcf").is_file():
        return shutil.which("biber") or ""
    aux = folder / "page.aux"
    cites = aux.is_file() and "\\bibdata" in aux.read_text(encoding="utf-8", errors="replace")
    return (shutil.which("bibtex") or "") if cites else ""
