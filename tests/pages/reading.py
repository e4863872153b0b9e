"""Press a page that is kept here, and hold what came out against what it must show.

`NAME.shows` beside `NAME.md` has a line for each thing: a word for what is looked at, then what must be found.

    words A | B      these texts in this order, in every output; spaces and line ends count for one space
    html A | B       as `words`, in the HTML alone; so `pdf` and `docx`
    source A | B     these in this order in the HTML as it is written
    not A            nowhere
    figures 3        so many pictures; so `tables`, of data or of words
    drawn 8 x 5      pictures of this size in centimetres, in this order among the others
    warns A          a warning that has these words; a page without such a line warns of nothing
    fonts            warnings of letters that no font of the machine has are no fault
    fails A          an error that has these words
"""

from __future__ import annotations

import html
import re
import shutil
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct

from tests.output.rst.reader import read as read_rst
from wornpage.press import press
from wornpage.tree.problem import PageError

HERE = Path(__file__).parent
OUTPUTS = ("html", "pdf", "docx", "slides", "pptx", "tex", "xlsx", "rst")
SUFFIXES = {"slides": ".slides.html"}


class Seen(Struct):
    """What a page came to: its outputs as text, and what was said."""

    texts: dict[str, str] = {}
    html: str = ""
    problems: list[str] = []
    failed: bool = False


def names() -> list[str]:
    """All pages, by their paths without the ending; what lies in `files` is for them to use."""
    found = (path.relative_to(HERE).with_suffix("") for path in HERE.rglob("*.md"))
    return sorted(str(path) for path in found if path.parts[0] != "files")


def pressed(name: str, keep: Path | None = None) -> Seen:
    """Press a page, in a folder of its own, to every output; `keep` is where the outputs are to be looked at."""
    with tempfile.TemporaryDirectory(prefix="worn page ") as place:
        folder = Path(place)
        page = folder / f"{Path(name).name}.md"
        shutil.copy(HERE / f"{name}.md", page)
        if (HERE / "files").is_dir():
            shutil.copytree(HERE / "files", folder, dirs_exist_ok=True)
        seen = Seen()
        try:
            told = [str(problem) for problem in press(page, OUTPUTS).warnings]
            seen.problems = [
                one for one in told if not re.search(r"this slide is \d+ % too|of the presentation|LaTeX", one)
            ]
        except PageError as error:
            seen.problems, seen.failed = [str(problem) for problem in error.problems], True
            return seen
        if keep is not None:
            for kind in OUTPUTS:
                suffix = SUFFIXES.get(kind, f".{kind}")
                shutil.copy(page.with_suffix(suffix), keep / f"{name.replace('/', '-')}{suffix}")
        seen.html = page.with_suffix(".html").read_text(encoding="utf-8")
        readers = {
            "html": _text_of_html, "pdf": _text_of_pdf, "docx": _text_of_docx, "slides": _text_of_html, "pptx": _text_of_pptx,
            "tex": _text_of_tex, "rst": text_of_rst,
        }  # fmt: skip
        seen.texts = {kind: read(page.with_suffix(SUFFIXES.get(kind, f".{kind}"))) for kind, read in readers.items()}
        return seen


def _text_of_html(path: Path) -> str:
    source = path.read_text(encoding="utf-8")
    source = re.sub(r"(?s)<(style|script|nav)\b.*?</\1>", " ", source.partition("<body")[2])
    source = re.sub(r"</?(a|b|i|em|strong|code|data|span|sub|sup|s)\b[^>]*>", "", source)
    return _plain(html.unescape(re.sub(r"<[^>]+>", " ", source)))


def _text_of_pdf(path: Path) -> str:
    made = subprocess.run(["pdftotext", "-raw", str(path), "-"], capture_output=True, text=True, check=True)
    return _plain(made.stdout)


def _text_of_docx(path: Path) -> str:
    """What a word processor shows: the body, then the notes."""
    with zipfile.ZipFile(path) as archive:
        parts = [f"word/{name}.xml" for name in ("document", "footnotes", "endnotes")]
        source = " ".join(archive.read(part).decode() for part in parts if part in archive.namelist())
    source = re.sub(r"<w:instrText.*?</w:instrText>", "", source)
    source = re.sub(r'<w:(?:foot|end)noteReference w:id="(\d+)"/>', r"\1", source)
    return _plain(html.unescape(re.sub(r"<[^>]+>", "", re.sub(r"</w:p>|<w:(br|tab)/>", " ", source))))


def _text_of_pptx(path: Path) -> str:
    """What stands on the slides, as a program shows it that knows no formulas."""
    with zipfile.ZipFile(path) as archive:
        count = sum(bool(re.fullmatch(r"ppt/slides/slide\d+\.xml", part)) for part in archive.namelist())
        source = " ".join(archive.read(f"ppt/slides/slide{at}.xml").decode() for at in range(1, count + 1))
    source = re.sub(r"(?s)<mc:Choice.*?</mc:Choice>", "", source)
    return _plain(html.unescape(re.sub(r"<[^>]+>", "", re.sub(r"</a:p>|<a:br/>", " ", source))))


def _text_of_tex(path: Path) -> str:
    """What LaTeX sets; its reason where it does not. Letters that its own fonts lack are told when the page is pressed."""
    engine = "lualatex" if "\\RequireLuaTeX" in path.read_text(encoding="utf-8") else "pdflatex"
    command = [engine, "-interaction=nonstopmode", "-halt-on-error", "-file-line-error", "-jobname=of-latex", path.name]
    for _ in range(2):
        done = subprocess.run(command, cwd=path.parent, capture_output=True, check=False, stdin=subprocess.DEVNULL)
        if done.returncode:
            log = path.with_name("of-latex.log").read_text(encoding="utf-8", errors="replace")
            return f"LaTeX stops: {log[-1500:]}"
    return re.sub(r"(?<=\w)- (?=\w)", "", _text_of_pdf(path.with_name("of-latex.pdf")))


def text_of_rst(path: Path) -> str:
    """What a source in reStructuredText says; all that is wrong with it where something is."""
    found = read_rst(path.read_text(encoding="utf-8"))
    told = f"a reader complains: {'; '.join(found.wrong)} " if found.wrong else ""
    return _plain(told + " ".join(found.words))


def _plain(text: str) -> str:
    """Text without what a layout does to it: one space each, no soft hyphens, no ligatures."""
    return " ".join(text.replace("\u00ad", "").replace("ﬁ", "fi").replace("ﬂ", "fl").split())


def faults(name: str, seen: Seen) -> Iterator[str]:
    """What is not as it must be."""
    wanted = [line.partition(" ") for line in (HERE / f"{name}.shows").read_text(encoding="utf-8").splitlines() if line]
    kinds = {kind for kind, _, _ in wanted}
    said = "\n".join(one for one in seen.problems if "fonts" not in kinds or "no font has the letter" not in one)
    if seen.failed != ("fails" in kinds):
        yield f"it {'failed' if seen.failed else 'did not fail'}: {said}"
    elif said and not kinds & {"fails", "warns"}:
        yield f"it warned: {said}"
    for kind, _, rest in wanted:
        parts = [part.strip() for part in rest.split(" | ")]
        if kind in {"warns", "fails"}:
            yield from (f"nothing says {part!r}: {said}" for part in parts if part not in said)
        elif not seen.failed and kind != "fonts":
            yield from _shown(kind, parts, seen)


def _shown(kind: str, parts: list[str], seen: Seen) -> Iterator[str]:
    match kind:
        case "words":
            for output, text in seen.texts.items():
                if output == "tex":  # figures and tables float
                    spelled = [re.sub(r"(?<=\w)- ?(?=\w)", "", _plain(part)) for part in parts]
                    there = text.replace("-", "")
                    yield from (
                        f"{one!r} is not in the tex: {text[:1500] if 'LaTeX stops' in text else ''}"
                        for one in spelled
                        if one.isascii() and one.replace("-", "") not in there
                    )
                elif output not in {"slides", "pptx", "rst"}:
                    yield from _in_order(parts, text, output)
                else:  # each slide has its notes; summaries and keywords are for readers
                    summary = re.search(
                        r'(?s)<section class="abstract".*?</section>|<p class="keywords">.*?</p>', seen.html
                    )
                    held = _plain(html.unescape(re.sub(r"<[^>]+>", "", summary[0]))) if summary else ""
                    yield from (f"{part!r} is not in the {output}" for part in parts if _plain(part) not in text + held)
        case "html" | "pdf" | "docx":
            yield from _in_order(parts, seen.texts[kind], kind)
        case "source":
            yield from _in_order(parts, _plain(seen.html), "source")
        case "not":
            yield from (
                f"{part!r} stands in the {o}" for part in parts for o, text in seen.texts.items() if part in text
            )
        case "figures" | "tables":
            found = len(re.findall(r'<figure class="table ' if kind == "tables" else _PICTURES, seen.html))
            if found != int(parts[0]):
                yield f"{found} {kind}, not {parts[0]}"
        case "drawn":
            found_sizes = (
                (float(width), float(across), float(down)) for across, down, width in re.findall(_SIZE, seen.html)
            )
            sizes = [f"{width:.3g} x {width * down / across:.3g}" for width, across, down in found_sizes]
            yield from _in_order(parts, " ".join(sizes), "list of sizes")
        case _:
            yield f"{kind!r} is nothing that a page can be asked for"


_PICTURES = r'<figure class="(?!table|listing)'
_SIZE = r'<svg[^>]*viewBox="0 0 ([\d.]+) ([\d.]+)"[^>]*style="width:([\d.]+)cm'


def _in_order(parts: list[str], text: str, output: str) -> Iterator[str]:
    at = 0
    for part in parts:
        found = text.find(_plain(part), at)
        if found < 0:
            yield f"{part!r} is not in the {output}" + (", or not in its order" if _plain(part) in text else "")
        else:
            at = found + len(_plain(part))
