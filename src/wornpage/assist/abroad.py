"""What other pages of the same volume have that can be pointed to."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from wornpage.assist.document import Document, Labelled
from wornpage.tree.files import file_text
from wornpage.tree.problem import PageError
from wornpage.tree.span import Span
from wornpage.volume.checking import volume_over


class Foreign(Struct, frozen=True):
    """Something with a label on another page."""

    path: Path
    at: Labelled
    page: str
    """What the page is called in the volume."""


_labels: dict[Path, tuple[tuple[int, int], dict[str, Labelled]]] = {}
"""Of pages read before, by their files; with what tells when one was saved."""


def labels_abroad(document: Document) -> dict[str, Foreign]:
    """By label: what another page of the volume has; the pages themselves by their names."""
    volume = volume_over(document.path)
    found: dict[str, Foreign] = {}
    for entry in volume.entries if volume is not None else ():
        if entry.path == document.path.resolve():
            continue
        page = entry.chapter.key
        for label, one in _labels_of(entry.path).items():
            found.setdefault(label, Foreign(entry.path, one, page))
            found[f"{page}/{label}"] = Foreign(entry.path, one, page)
        top = Labelled(page, Span(entry.path.name, 1), "page", entry.path.name)
        found.setdefault(page, Foreign(entry.path, top, page))
    return found


def _labels_of(path: Path) -> dict[str, Labelled]:
    try:
        stat = path.stat()
        stamp = (stat.st_mtime_ns, stat.st_size)
        known = _labels.get(path)
        if known is None or known[0] != stamp:
            known = _labels[path] = (stamp, Document(path, file_text(path)).labels)
    except (OSError, UnicodeDecodeError, PageError):
        return {}
    return known[1]
