"""A composed page, or a whole volume, as one EPUB 3.3: its files, what is in them and in which order, and what is said of it all."""

from __future__ import annotations

import io
import uuid
import zipfile
from collections.abc import Iterator
from html import escape
from importlib.resources import files
from pathlib import Path

from msgspec import Struct

from wornpage.output.audience import for_output
from wornpage.output.epub.cover import drawn_cover
from wornpage.output.epub.options import EpubPress
from wornpage.output.epub.writer import EpubWriter, place_name
from wornpage.output.epub.xhtml import as_xhtml
from wornpage.output.kind import Job, Written
from wornpage.output.outputs import options_in
from wornpage.tree import nodes as n
from wornpage.tree.files import file_bytes, file_text
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

_TYPES = {"svg": "image/svg+xml", "png": "image/png", "jpg": "image/jpeg", "jpeg": "image/jpeg", "gif": "image/gif", "webp": "image/webp"}  # fmt: skip
_NAMES = 'xmlns="http://www.w3.org/1999/xhtml" xmlns:epub="http://www.idpf.org/2007/ops"'
_ALWAYS = "2000-01-01T00:00:00Z"
"""When a book without a date was changed last: the standard wants to know, and the same source is to give the same bytes."""


class File(Struct):
    """One file of the text."""

    name: str
    title: str
    blocks: list[n.Block]
    kind: str = "chapter"


def write_epub(page: n.Composed, job: Job) -> Written:
    """The book. Raises `PageError` for a cover that cannot be read."""
    options: EpubPress = options_in(job.settings, "epub")
    page = for_output(page, "epub")
    book = _Book(page, job, options)
    return Written(book.packed(), tuple(book.problems), read=tuple(book.read))


class _Book:
    """One book while it is made."""

    def __init__(self, page: n.Composed, job: Job, options: EpubPress) -> None:
        self.page, self.job, self.options = page, job, options
        self.problems: list[Problem] = []
        self.read: list[Path] = []
        self.pictures: dict[str, bytes] = {}
        self.files = list(_parted(page))
        self.places = {label: file.name for file in self.files for label in _labels(file.blocks)}

    # --- the package --------------------------------------------------------------------------

    def packed(self) -> bytes:
        """All of it, the same whenever it is made."""
        texts = {file.name: self.text(file) for file in self.files}
        cover, cover_data = self.cover()
        title = self.title_page()
        parts: dict[str, bytes] = {
            "META-INF/container.xml": _CONTAINER.encode(),
            "book/book.css": self.style().encode("utf-8", "replace"),
            f"book/{cover}": cover_data,
            "book/cover.xhtml": self.frame(self.page.plain_title, f'<div class="cover"><img src="{cover}" alt="{escape(self.page.plain_title)}"/></div>', "cover").encode(),
            "book/title.xhtml": title.encode("utf-8", "replace"),
            "book/contents.xhtml": self.contents().encode("utf-8", "replace"),
            **{f"book/{name}": text.encode("utf-8", "replace") for name, text in texts.items()},
            **{f"book/{name}": data for name, data in sorted(self.pictures.items())},
        }  # fmt: skip
        parts["book/book.opf"] = self.manifest(cover, {**texts, "title.xhtml": title}).encode("utf-8", "replace")
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w") as archive:
            archive.writestr(_about("mimetype"), b"application/epub+zip", zipfile.ZIP_STORED)
            for name, data in parts.items():
                archive.writestr(_about(name), data, zipfile.ZIP_DEFLATED)
        return held.getvalue()

    def frame(self, title: str, body: str, kind: str) -> str:
        """A file of the book around what it shows."""
        page = self.page
        direction = ' dir="rtl"' if page.terms.right_to_left else ""
        return (
            f'<?xml version="1.0" encoding="UTF-8"?>\n<!DOCTYPE html>\n<html {_NAMES} lang="{escape(page.language)}" xml:lang="{escape(page.language)}"{direction}>\n'
            f'<head><title>{escape(title or page.plain_title, quote=False)}</title><link rel="stylesheet" type="text/css" href="book.css"/></head>\n'
            f'<body epub:type="{kind}">\n{body}\n</body>\n</html>\n'
        )

    def style(self) -> str:
        """Our style sheet and those of the page."""
        own = (files("wornpage.output.epub") / "book.css").read_text(encoding="utf-8")
        return "\n".join([own, *(file_text(self.job.folder / name) for name in self.options.stylesheets)])

    # --- the text -----------------------------------------------------------------------------

    def text(self, file: File) -> str:
        writer = EpubWriter(self.page.terms, file.name, self.places, self.pictures)
        body = writer.xhtml(tuple(file.blocks))
        self.problems += writer.problems
        kind = {"chapter": "bodymatter chapter", "appendix": "backmatter appendix", "part": "bodymatter part"}[
            file.kind
        ]
        return self.frame(file.title, f'<section epub:type="{kind.split()[1]}">\n{body}\n</section>', kind.split()[0])

    def title_page(self) -> str:
        """Title, authors, abstract."""
        head, page = self.page.head, self.page
        writer = EpubWriter(page.terms, "title.xhtml", self.places, self.pictures)
        people = "".join(
            f"<p>{escape(one.name)}{''.join(f'<br><small>{escape(place)}</small>' for place in one.affiliations)}</p>"
            for one in head.authors
        )
        body = f"<h1>{writer.inlines(head.title) or escape(page.plain_title)}</h1>"
        body += f"<p><em>{writer.inlines(head.subtitle)}</em></p>" if head.subtitle else ""
        body += people + (f"<p>{escape(head.date)}</p>" if head.date else "")
        made = f'<div class="title-page">{body}</div>'
        if head.abstract:
            made += f"<h2>{escape(page.terms.abstract)}</h2>{writer.blocks(head.abstract)}"
        return self.frame(page.plain_title, as_xhtml(made) + as_xhtml(writer.notes()), "frontmatter")

    # --- contents -----------------------------------------------------------------------------

    def contents(self) -> str:
        """The ways through the book, for people and for programs."""
        terms = self.page.terms
        entries = [one for one in self.page.contents if one.label in self.places]
        inner = (
            "".join(_nested(self, entries))
            or f'<li><a href="{self.files[0].name}">{escape(self.page.plain_title, quote=False)}</a></li>'
        )
        start = self.files[0].name
        landmarks = (
            f'<nav epub:type="landmarks" hidden="hidden" id="landmarks"><ol><li><a epub:type="toc" href="#toc">{escape(terms.contents)}</a></li>'
            f'<li><a epub:type="bodymatter" href="{start}">{escape(self.page.plain_title, quote=False)}</a></li></ol></nav>'
        )
        body = f'<nav epub:type="toc" role="doc-toc" id="toc"><h1>{escape(terms.contents)}</h1><ol>{inner}</ol></nav>\n{landmarks}'
        return self.frame(terms.contents, body, "frontmatter")

    def entry(self, one: n.ContentsEntry) -> str:
        """A link to a heading."""
        words = escape(f"{one.number} {words_of(one.children)}".strip() or "…", quote=False)
        return f'<a href="{self.places[one.label]}#{place_name(one.label)}">{words}</a>'

    # --- what is said of it -------------------------------------------------------------------

    def manifest(self, cover: str, texts: dict[str, str]) -> str:
        """What is in the book, and in which order."""
        items = [("contents", "contents.xhtml", "application/xhtml+xml", "nav"), ("style", "book.css", "text/css", ""),
                 ("cover-picture", cover, _TYPES[cover.rpartition(".")[2]], "cover-image"), ("cover", "cover.xhtml", "application/xhtml+xml", ""),
                 ("title", "title.xhtml", "application/xhtml+xml", "mathml" if "<math " in texts["title.xhtml"] else "")]  # fmt: skip
        items += [
            (file.name.removesuffix(".xhtml"), file.name, "application/xhtml+xml", "mathml" if "<math " in texts[file.name] else "")
            for file in self.files
        ]  # fmt: skip
        items += [
            (f"picture-{at}", name, _TYPES[name.rpartition(".")[2]], "")
            for at, name in enumerate(sorted(self.pictures), 1)
        ]
        listed = "\n".join(
            f'<item id="{key}" href="{name}" media-type="{kind}"{f" properties={chr(34)}{told}{chr(34)}" if told else ""}/>'
            for key, name, kind, told in items
        )
        order = ["cover", "title", "contents", *(file.name.removesuffix(".xhtml") for file in self.files)]
        spine = "\n".join(f'<itemref idref="{key}"/>' for key in order)
        direction = ' page-progression-direction="rtl"' if self.page.terms.right_to_left else ""
        return (
            '<?xml version="1.0" encoding="UTF-8"?>\n<package xmlns="http://www.idpf.org/2007/opf" version="3.0" unique-identifier="id" '
            f'xml:lang="{escape(self.page.language)}" prefix="schema: http://schema.org/">\n'
            f'<metadata xmlns:dc="http://purl.org/dc/elements/1.1/">\n{"".join(self.said(texts))}</metadata>\n'
            f"<manifest>\n{listed}\n</manifest>\n<spine{direction}>\n{spine}\n</spine>\n</package>\n"
        )

    def said(self, texts: dict[str, str]) -> Iterator[str]:
        """Title, authors, language; and what a reader with a disability wants to know beforehand."""
        page, options = self.page, self.options
        title = page.plain_title
        own = f"{title}\n{'; '.join(one.name for one in page.head.authors)}"
        identifier = options.identifier or f"urn:uuid:{uuid.uuid5(uuid.NAMESPACE_URL, 'wornpage:' + own)}"
        date = self.job.settings.date
        is_day = len(date) == 10 and date[4] == date[7] == "-"
        yield f'<dc:identifier id="id">{escape(identifier)}</dc:identifier>\n<dc:title>{escape(title)}</dc:title>\n'
        yield f"<dc:language>{escape(page.language)}</dc:language>\n"
        for person in page.head.authors:
            yield f"<dc:creator>{escape(person.name)}</dc:creator>\n"
        for keyword in page.head.keywords:
            yield f"<dc:subject>{escape(words_of(keyword))}</dc:subject>\n"
        if options.publisher:
            yield f"<dc:publisher>{escape(options.publisher)}</dc:publisher>\n"
        if is_day:
            yield f"<dc:date>{date}</dc:date>\n"
        yield f'<meta property="dcterms:modified">{f"{date}T00:00:00Z" if is_day else _ALWAYS}</meta>\n'
        has_math = any("<math " in text for text in texts.values())
        modes = ["textual", *(["visual"] if self.pictures else [])]
        features = ["structuralNavigation", "tableOfContents", "readingOrder", "displayTransformability"]
        features += ["alternativeText"] if self.pictures else []
        features += ["MathML"] if has_math else []
        yield from (f'<meta property="schema:accessMode">{mode}</meta>\n' for mode in modes)
        yield '<meta property="schema:accessModeSufficient">textual</meta>\n'
        yield from (f'<meta property="schema:accessibilityFeature">{one}</meta>\n' for one in features)
        yield '<meta property="schema:accessibilityHazard">none</meta>\n'

    def cover(self) -> tuple[str, bytes]:
        """Name and bytes of the picture on the cover."""
        if not self.options.cover:
            return "cover.svg", drawn_cover(self.page)
        path = self.job.folder / self.options.cover
        suffix = path.suffix.lstrip(".").lower()
        try:
            if suffix not in _TYPES:
                raise PageError(
                    [
                        Problem(
                            Span(self.job.name, 1),
                            f"{self.options.cover!r} can be no cover.",
                            "A cover is SVG, PNG or JPEG.",
                        )
                    ]
                )
            return f"cover.{suffix}", file_bytes(path)
        except OSError as error:
            what = f"the cover {self.options.cover!r} cannot be read: {error.strerror}."
            raise PageError([Problem(Span(self.job.name, 1), what)]) from None


def _parted(page: n.Composed) -> Iterator[File]:
    """The text in files: a chapter each in a volume; of a page by itself a file each of its first sections."""
    is_volume = any(isinstance(one, n.Heading) and one.is_chapter for one in page.blocks)
    file = File("text-001.xhtml", page.plain_title, [])
    count, in_appendix = 1, False
    for block in page.blocks:
        if isinstance(block, n.AppendixBreak):
            in_appendix = True
        begins = isinstance(block, n.PartTitle) or (
            isinstance(block, n.Heading) and (block.is_chapter if is_volume else block.level == 1)
        )
        if begins and isinstance(block, n.PartTitle | n.Heading):
            if any(not isinstance(one, n.SheetBreak | n.AppendixBreak) for one in file.blocks):
                yield file
                count += 1
            kind = "part" if isinstance(block, n.PartTitle) else "appendix" if in_appendix else "chapter"
            file = File(f"text-{count:03}.xhtml", words_of(block.children), [], kind)
        file.blocks.append(block)
    yield file


def _labels(blocks: list[n.Block]) -> Iterator[str]:
    """Every place in some blocks that can be led to."""
    for node in walk(tuple(blocks)):
        match node:
            case n.Citation(anchor=label) | n.Anchor(label=label) | n.PartTitle(label=label) | n.Heading(label=label):
                yield label
            case (
                n.Figure(label=label) | n.TableBlock(label=label) | n.CodeBlock(label=label) | n.MathBlock(label=label)
            ):
                yield label
            case n.Container(attributes=attributes):
                yield attributes.label
            case n.ReferenceList(entries=entries):
                yield from (entry.anchor for entry in entries)


def _nested(book: _Book, entries: list[n.ContentsEntry]) -> Iterator[str]:
    """Entries in lists within lists."""
    depth = 0
    for one in entries:
        level = min(one.level, depth + 1)
        yield "<ol>" if level > depth > 0 else "</li>" + "</ol></li>" * (depth - level) if depth else ""
        depth = level
        yield f"<li>{book.entry(one)}"
    yield "</li>" + "</ol></li>" * (depth - 1) if depth else ""


def _about(name: str) -> zipfile.ZipInfo:
    about = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
    about.external_attr = 0o644 << 16
    return about


_CONTAINER = """<?xml version="1.0" encoding="UTF-8"?>
<container version="1.0" xmlns="urn:oasis:names:tc:opendocument:xmlns:container">
<rootfiles><rootfile full-path="book/book.opf" media-type="application/oebps-package+xml"/></rootfiles>
</container>
"""
