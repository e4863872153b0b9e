"""The parts of a document that are read: whichever program has saved it, and with whatever names."""

from __future__ import annotations

import posixpath
import zipfile
from io import BytesIO
from pathlib import Path
from typing import Any

from lxml import etree

from wornpage.tree.problem import UsageError

W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
R = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}"
_MOST = 500_000_000
Element = Any
"""An element of lxml, whose types it does not tell."""


class Parts:
    """The parts of one document by what they are."""

    def __init__(self, name: str, held: dict[str, bytes]) -> None:
        self.name, self._held = name, held
        self.main = self._target("_rels/.rels", "", "/officeDocument") or "word/document.xml"
        self.folder = posixpath.dirname(self.main)

    def names(self) -> list[str]:
        """All parts."""
        return list(self._held)

    def raw(self, name: str) -> bytes:
        """The bytes of a part; none if it is not there."""
        return self._held.get(name, b"")

    def root(self, name: str) -> Element | None:
        """A part, parsed; None if it is not there. Raises `UsageError` for one that is damaged."""
        data = self._held.get(name)
        if data is None:
            return None
        try:
            return etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True))
        except etree.XMLSyntaxError as error:
            raise UsageError(f"{self.name} is damaged: {name}: {error}.") from None

    def kind(self, kind: str) -> str:
        """The name of the part that the main one leads to as a kind; empty for none."""
        return self._target(relations_of(self.main), self.folder, f"/{kind}")

    def links(self, part: str) -> dict[str, str]:
        """Addresses outside that a part leads to, by the ids of their relationships."""
        root = self.root(relations_of(part))
        return {} if root is None else {str(one.get("Id")): str(one.get("Target", "")) for one in root}

    def _target(self, relations: str, folder: str, kind: str) -> str:
        root = self.root(relations)
        for one in root if root is not None else ():
            if str(one.get("Type", "")).endswith(kind) and one.get("TargetMode") != "External":
                return posixpath.normpath(posixpath.join("/", folder, str(one.get("Target", "")))).lstrip("/")
        return ""


def relations_of(part: str) -> str:
    """Where the relationships of a part are."""
    folder, name = posixpath.split(part)
    return posixpath.join(folder, "_rels", f"{name}.rels")


def open_parts(path: Path, data: bytes | None = None) -> Parts:
    """The parts of a document. Raises `UsageError` for a file that is none."""
    hint = "Save it as a document (.docx) without a password."
    try:
        with zipfile.ZipFile(BytesIO(data) if data is not None else path) as archive:
            if sum(one.file_size for one in archive.infolist()) > _MOST:
                raise UsageError(f"{path} is too large: 500 megabytes are read.")
            held = {name: archive.read(name) for name in archive.namelist() if not name.endswith("/")}
    except FileNotFoundError:
        raise UsageError(f"there is no {path}.") from None
    except (OSError, zipfile.BadZipFile, RuntimeError, NotImplementedError) as error:
        raise UsageError(f"{path} cannot be read: {error}. {hint}") from None
    parts = Parts(str(path), held)
    root = parts.root(parts.main)
    if root is None or root.tag != f"{W}document" or root.find(f"{W}body") is None:
        raise UsageError(f"{path} is no document of a word processor. {hint}")
    return parts
