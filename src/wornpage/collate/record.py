"""What a document held when it went out: the source it was made from, and its paragraphs as they were."""

from __future__ import annotations

from msgspec import Struct

from wornpage.collate.letters import Document
from wornpage.collate.parts import Parts
from wornpage.collate.reading import read
from wornpage.output.docx.carrying import NAMESPACE, unfolded
from wornpage.store.hashes import hash128


class Record(Struct, frozen=True):
    """What went out."""

    page: str
    """What the page was called."""
    source: str
    """Its text."""
    document: Document


def record_in(parts: Parts) -> Record | None:
    """The record that a document carries; None where it carries none, or one that is damaged."""
    for name in parts.names():
        if not (name.startswith("customXml/item") and NAMESPACE.encode() in parts.raw(name)):
            continue
        root = parts.root(name)
        if root is None or root.tag != f"{{{NAMESPACE}}}page":
            continue
        try:
            source = unfolded(root.findtext(f"{{{NAMESPACE}}}source") or "").decode("utf-8", "surrogatepass")
            held = {str(one.get("name")): unfolded(one.text or "") for one in root.iter(f"{{{NAMESPACE}}}part")}
        except ValueError:
            continue
        if (
            hash128(source.encode("utf-8", "surrogatepass")).hexdigest() != root.get("hash")
            or "_rels/.rels" not in held
        ):
            continue
        return Record(str(root.get("name", "")), source, read(Parts(parts.name, held)))
    return None
