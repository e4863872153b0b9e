"""Templates that somebody brings, as parts and what leads from one to another: read whole, and nothing outside of them is asked for."""

from __future__ import annotations

import posixpath
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from lxml import etree

from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

Element = Any
"""An element of lxml, whose types it does not tell."""
RELATIONSHIP = "{http://schemas.openxmlformats.org/package/2006/relationships}Relationship"
TYPES = "{http://schemas.openxmlformats.org/package/2006/content-types}"
_MOST_BYTES = 300_000_000


def parsed(data: bytes) -> Element:
    """An XML part. Raises `etree.XMLSyntaxError`."""
    return etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True))


def serialized(root: Element) -> bytes:
    """A part as bytes."""
    made: bytes = etree.tostring(root, xml_declaration=True, encoding="UTF-8", standalone=True)
    return made


def leads_in(relations: Element, part: str) -> Iterator[tuple[str, str, str]]:
    """Where `part` leads within the package, by its relations: kind, part, id."""
    folder = posixpath.join("/", posixpath.dirname(part))
    for one in relations.iter(RELATIONSHIP):
        if one.get("TargetMode") != "External":
            target = posixpath.normpath(posixpath.join(folder, one.get("Target", ""))).lstrip("/")
            yield str(one.get("Type", "")), target, str(one.get("Id", ""))


def template_fault(name: str, page: str, what: str, hint: str = "") -> PageError:
    """What is told of a template of `page` that cannot be used."""
    return PageError([Problem(Span(page, 1), f"the template {name} {what}", hint)])


def template_parts(path: Path, page: str, hint: str) -> dict[str, bytes]:
    """All parts of a template by name. Raises `PageError`; `hint` says how it should have been saved."""
    name = path.name
    try:
        with zipfile.ZipFile(path) as archive:
            if sum(one.file_size for one in archive.infolist()) > _MOST_BYTES:
                raise template_fault(name, page, "is too large.", "300 megabytes are read.")
            return {one: archive.read(one) for one in archive.namelist() if not one.endswith("/")}
    except FileNotFoundError:
        raise template_fault(name, page, "is not there.", f"Looked for {path}.") from None
    except (OSError, zipfile.BadZipFile, RuntimeError, NotImplementedError) as error:
        raise template_fault(name, page, f"cannot be read: {error}.", hint) from None
