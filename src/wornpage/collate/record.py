"""What a document held when it went out: the source it was made from, and its paragraphs as they were."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from wornpage.collate.letters import Document
from wornpage.collate.parts import Parts
from wornpage.collate.reading import read
from wornpage.output.docx.carrying import NAMESPACE, last_of, unfolded
from wornpage.store.blocks import keep_in
from wornpage.store.hashes import hash128
from wornpage.store.place import store_of


class Record(Struct, frozen=True):
    """What went out."""

    page: str
    """What the page was called."""
    source: str
    """Its text."""
    document: Document


def record_in(parts: Parts) -> Record | None:
    """The record that a document carries; None where it carries none, or one that is damaged.

    Of several, such as where the template was made from a page, too, the last is its own.
    """
    for name in sorted(parts.names(), key=lambda name: (len(name), name), reverse=True):
        if name.startswith("customXml/item") and NAMESPACE.encode() in parts.raw(name):
            found = _record(parts, name)
            if found is not None:
                return found
    return None


def record_of(page: Path) -> Record | None:
    """The record of what last went out of a page, as its store has it; None where it has none."""
    keep_in(store_of(page))
    part = last_of(page)
    return _record(Parts(str(page), {_ITEM: part}), _ITEM) if part else None


_ITEM = "customXml/item1.xml"


def _record(parts: Parts, name: str) -> Record | None:
    root = parts.root(name)
    if root is None or root.tag != f"{{{NAMESPACE}}}page":
        return None
    try:
        source = unfolded(root.findtext(f"{{{NAMESPACE}}}source") or "").decode("utf-8", "surrogatepass")
        held = {str(one.get("name")): unfolded(one.text or "") for one in root.iter(f"{{{NAMESPACE}}}part")}
    except ValueError:
        return None
    if hash128(source.encode("utf-8", "surrogatepass")).hexdigest() != root.get("hash") or "_rels/.rels" not in held:
        return None
    return Record(str(root.get("name", "")), source, read(Parts(parts.name, held)))
