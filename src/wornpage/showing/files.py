"""What files that we write say, as plain texts by paragraph or line: pages, sheets, documents, books, slides, workbooks, sources."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Callable, Iterator
from io import BytesIO

from lxml import etree

_BREAKS = {"p", "li", "td", "th", "tr", "h1", "h2", "h3", "h4", "h5", "h6", "figcaption", "pre", "div", "section", "br", "dt", "dd", "summary", "title", "caption"}  # fmt: skip
_SILENT = {"script", "style", "nav", "annotation", "template", "title", "desc", "metadata"}
_WORD = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
_MATHEMATICS = "{http://schemas.openxmlformats.org/officeDocument/2006/math}"
_DRAWING = "{http://schemas.openxmlformats.org/drawingml/2006/main}"


def said_in(suffix: str, data: bytes) -> list[str]:
    """The texts of a file whose name ends in `suffix`, one of `READ`. Raises `ValueError` for one that is none of its kind."""
    try:
        return list(_READERS[suffix](data))
    except Exception as error:  # whatever a library finds wrong with a file that anybody may have made
        raise ValueError(str(error) or type(error).__name__) from None


def _html(data: bytes) -> Iterator[str]:
    from lxml import html

    tree = html.fromstring(data.decode("utf-8", "replace"))
    body = tree.find(".//body")
    yield from _blocks(body if body is not None else tree)


def _blocks(root: etree._Element) -> Iterator[str]:
    """The texts of elements that begin lines of their own."""
    text: list[str] = []

    def visit(element: etree._Element) -> Iterator[str]:
        name = etree.QName(element).localname if isinstance(element.tag, str) else ""
        if name not in _SILENT and name:
            if name in _BREAKS:
                yield from _taken(text)
            text.append(element.text or "")
            for inner in element:
                yield from visit(inner)
                text.append(inner.tail or "")
            if name in _BREAKS:
                yield from _taken(text)

    yield from visit(root)
    yield from _taken(text)


def _taken(text: list[str]) -> Iterator[str]:
    said = "".join(text)
    text.clear()
    if said.strip():
        yield said


def _pdf(data: bytes) -> Iterator[str]:
    from pypdf import PdfReader

    for page in PdfReader(BytesIO(data)).pages:
        yield from re.split(r"\n", page.extract_text())


def _docx(data: bytes) -> Iterator[str]:
    with zipfile.ZipFile(BytesIO(data)) as archive:
        for name in ("word/document.xml", "word/footnotes.xml", "word/endnotes.xml"):
            if name in archive.namelist():
                tree = etree.fromstring(archive.read(name), _parser())
                for paragraph in tree.iter(f"{_WORD}p"):
                    yield "".join(_in_word(paragraph))


def _in_word(paragraph: etree._Element) -> Iterator[str]:
    for one in paragraph.iter(f"{_WORD}t", f"{_MATHEMATICS}t", f"{_WORD}tab", f"{_WORD}br"):
        yield one.text or "" if one.tag.endswith("}t") else " "


def _pptx(data: bytes) -> Iterator[str]:
    with zipfile.ZipFile(BytesIO(data)) as archive:
        slides = [
            name
            for name in archive.namelist()
            if re.fullmatch(r"ppt/(?:slides/slide|notesSlides/notesSlide)\d+\.xml", name)
        ]
        for name in sorted(slides, key=lambda one: int(re.sub(r"\D", "", one))):
            for paragraph in etree.fromstring(archive.read(name), _parser()).iter(f"{_DRAWING}p"):
                yield "".join(one.text or "" for one in paragraph.iter(f"{_DRAWING}t", f"{_MATHEMATICS}t"))


def _epub(data: bytes) -> Iterator[str]:
    with zipfile.ZipFile(BytesIO(data)) as archive:
        package = next(name for name in archive.namelist() if name.endswith(".opf"))
        tree = etree.fromstring(archive.read(package), _parser())
        files = {one.get("id"): one.get("href") for one in tree.iter("{*}item")}
        folder = package.rpartition("/")[0]
        for item in tree.iter("{*}itemref"):
            name = "/".join(filter(None, (folder, str(files[item.get("idref")]))))
            root = etree.fromstring(archive.read(name), _parser())
            yield from _blocks(next(root.iter("{*}body")))


def _xlsx(data: bytes) -> Iterator[str]:
    from openpyxl import load_workbook

    for sheet in load_workbook(BytesIO(data), data_only=True):
        for row in sheet.iter_rows(values_only=True):
            yield from (str(cell) for cell in row if cell is not None)


def _text(data: bytes) -> Iterator[str]:
    yield from re.split(r"\n\s*\n", data.decode("utf-8"))


def _parser() -> etree.XMLParser:
    return etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True)


_READERS: dict[str, Callable[[bytes], Iterator[str]]] = {
    ".html": _html, ".htm": _html, ".pdf": _pdf, ".docx": _docx, ".pptx": _pptx, ".epub": _epub, ".xlsx": _xlsx, ".tex": _text,
    ".rst": _text, ".md": _text, ".txt": _text,
}  # fmt: skip
READ = frozenset(_READERS)
"""How names of files end that can be read."""
