"""What a document carries of the page it was made from, so that anyone's copy of it can be brought back into the source.

Bookmarks say where in the source each paragraph and each mark is written. A part of its own holds that source and what the
document held when it went out; programs keep such parts as they are.
"""

from __future__ import annotations

import base64
import zlib
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path

from wornpage.output.docx.remarks import Threaded
from wornpage.output.ooxml.package import Relations, relations_part
from wornpage.output.ooxml.xml import HEAD, escaped
from wornpage.store.blocks import FileCache
from wornpage.store.hashes import hash128
from wornpage.tree.span import Span

NAMESPACE = "urn:wornpage:source"
LAST = FileCache("went-out")
"""What last went out of each page, by its path: for documents that have lost what they carried."""
_STORE = "http://schemas.openxmlformats.org/officeDocument/2006/customXml"
_ITEM = "{6A1B0F5E-2A57-5B5E-8C7C-0D6D6F6E7061}"
WENT_OUT = ("styles", "numbering", "footnotes", "endnotes")
"""Parts that say what the document held, beside its main one."""
PROPERTIES = "application/vnd.openxmlformats-officedocument.customXmlProperties+xml"


def last_of(page: Path) -> bytes | None:
    """The part that the document carried which was last made of a page; None if that is not known."""
    return LAST.get(_path(page), "")


def remember(page: Path, part: bytes) -> None:
    """Keep what a document carries that is made of a page now."""
    LAST.put(part, _path(page), "")


def _path(page: Path) -> bytes:
    return str(page.resolve()).encode("utf-8", "surrogatepass")


class Carrier:
    """Names bookmarks for places in the source of one page; names none for what comes from elsewhere."""

    def __init__(self, page: str, is_on: bool, remarks: Mapping[str, Sequence[Threaded]]) -> None:
        self._page, self.is_on, self._remarks = page, is_on, remarks
        self.shown: list[Threaded] = []
        """Comments that have found their paragraphs."""

    def remarks(self, span: Span | None) -> list[Threaded]:
        """The comments on a paragraph whose words begin there; each is given once."""
        if span is None or span.file != self._page or span.within:
            return []
        own = [one for one in self._remarks.get(f"{span.line}_{span.column}", ()) if one not in self.shown]
        self.shown += own
        return own

    def block(self, span: Span | None) -> str:
        """For a paragraph whose words begin there."""
        return self._named("b", span)

    def mark(self, span: Span) -> str:
        """For a mark that is written there."""
        return self._named("m", span)

    def _named(self, kind: str, span: Span | None) -> str:
        if not self.is_on or span is None or span.file != self._page or span.within:
            return ""
        return f"_wp_{kind}{span.line}_{span.column}"


def carried(
    name: str, text: str, parts: Mapping[str, bytes | str], went_out: Iterable[str], number: int
) -> dict[str, bytes | str]:
    """The part with the source of a page and the parts that went out, and what belongs to it; `number` is free in the package."""
    went = "".join(f'<part name="{part}">{_folded(parts[part])}</part>' for part in went_out if part in parts)
    told = hash128(text.encode("utf-8", "surrogatepass")).hexdigest()
    body = (
        f'<page xmlns="{NAMESPACE}" name="{escaped(name)}" hash="{told}"><source>{_folded(text)}</source>{went}</page>'
    )
    about = (
        f'{HEAD}<ds:datastoreItem ds:itemID="{_ITEM}" xmlns:ds="{_STORE}"><ds:schemaRefs><ds:schemaRef ds:uri="{NAMESPACE}"/>'
        "</ds:schemaRefs></ds:datastoreItem>"
    )
    leading = Relations("rId")
    leading.to("customXmlProps", f"itemProps{number}.xml")
    return {
        f"customXml/item{number}.xml": HEAD + body,
        f"customXml/itemProps{number}.xml": about,
        f"customXml/_rels/item{number}.xml.rels": relations_part(leading.xml()),
    }


def carried_in(parts: Mapping[str, bytes | str]) -> bytes:
    """The part with the source, of the parts of a document."""
    found = (
        data
        for name, data in parts.items()
        if name.startswith("customXml/item") and isinstance(data, str) and NAMESPACE in data
    )
    return next((data for data in found if "<source>" in data), "").encode("utf-8", "surrogatepass")


def _folded(data: bytes | str) -> str:
    raw = data.encode("utf-8", "surrogatepass") if isinstance(data, str) else data
    return base64.b64encode(zlib.compress(raw, 6)).decode("ascii")


def unfolded(text: str) -> bytes:
    """What `_folded` has folded. Raises `ValueError`."""
    try:
        return zlib.decompress(base64.b64decode(text, validate=True))
    except zlib.error as error:
        raise ValueError(str(error)) from None
