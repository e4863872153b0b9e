"""The package: parts, what they are, what leads from one to another; written as the same bytes each time."""

from __future__ import annotations

import io
import posixpath
import zipfile
from collections.abc import Mapping
from urllib.parse import quote

from msgspec import Struct

from wornpage.output.ooxml.xml import HEAD, R, escaped

_OFFICE = "application/vnd.openxmlformats-officedocument.wordprocessingml."
_RELATIONSHIPS = "http://schemas.openxmlformats.org/package/2006/relationships"
_STORED = (".png", ".jpeg", ".jpg", ".gif")
"""What is packed already."""
EXTENSIONS = {
    "rels": "application/vnd.openxmlformats-package.relationships+xml", "xml": "application/xml", "png": "image/png",
    "jpeg": "image/jpeg", "gif": "image/gif", "svg": "image/svg+xml",
}  # fmt: skip
_ADDRESS = "/:?#[]@!$&'()*+,;=%~-._"


class Leading(Struct, frozen=True):
    """A relationship."""

    id: str
    kind: str
    target: str
    outside: bool = False

    def xml(self) -> str:
        """As it stands in a `.rels` part."""
        kind = self.kind if "://" in self.kind else f"{R}/{self.kind}"
        mode = ' TargetMode="External"' if self.outside else ""
        return f'<Relationship Id="{self.id}" Type="{kind}" Target="{escaped(self.target)}"{mode}/>'


class Relations:
    """What leads from one part to others; the same target is named once."""

    def __init__(self, prefix: str = "rIdW") -> None:
        self._prefix = prefix
        self._made: dict[tuple[str, str], Leading] = {}

    def to(self, kind: str, target: str, outside: bool = False) -> str:
        """The id of a relationship."""
        found = self._made.get((kind, target))
        if found is None:
            found = Leading(f"{self._prefix}{len(self._made) + 1}", kind, target, outside)
            self._made[(kind, target)] = found
        return found.id

    def address(self, address: str) -> str:
        """The id of one that leads out of the document."""
        return self.to("hyperlink", quote(address, safe=_ADDRESS), outside=True)

    def xml(self) -> str:
        """All of them, without what stands around them."""
        return "".join(one.xml() for one in self._made.values())

    def __bool__(self) -> bool:
        return bool(self._made)


def relations_of(part: str) -> str:
    """The part that says where another leads; where the package does, for no name."""
    folder, name = posixpath.split(part)
    return posixpath.join(folder, "_rels", f"{name}.rels")


def relations_part(inner: str) -> str:
    """A `.rels` part."""
    return f'{HEAD}<Relationships xmlns="{_RELATIONSHIPS}">{inner}</Relationships>'


def types_part(overrides: Mapping[str, str]) -> str:
    """What each part is: those named, and the usual ones by their ends."""
    usual = "".join(f'<Default Extension="{end}" ContentType="{kind}"/>' for end, kind in EXTENSIONS.items())
    own = "".join(f'<Override PartName="/{name}" ContentType="{kind}"/>' for name, kind in overrides.items())
    return f'{HEAD}<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">{usual}{own}</Types>'


def office(kind: str) -> str:
    """The content type of a part of a document."""
    return f"{_OFFICE}{kind}+xml"


def packed(parts: Mapping[str, bytes | str]) -> bytes:
    """The file: the same parts give the same bytes, whenever and wherever it is made."""
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        for name, data in parts.items():
            about = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
            about.create_system = 0
            about.compress_type = zipfile.ZIP_STORED if name.endswith(_STORED) else zipfile.ZIP_DEFLATED
            archive.writestr(about, data.encode("utf-8") if isinstance(data, str) else data, compresslevel=6)
    return held.getvalue()
