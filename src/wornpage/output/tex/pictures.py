"""Pictures beside the source: drawings as PDF, photographs as they are."""

from __future__ import annotations

import tempfile
from pathlib import Path

from wornpage.output.picture_files import PictureFiles
from wornpage.store.blocks import FileCache
from wornpage.tree import nodes as n

_READABLE = {"png": "png", "jpeg": "jpg"}
_drawn = FileCache("tex-pictures")


def pictures(folder: str) -> PictureFiles:
    """The files of one source, in `folder`."""
    return PictureFiles(folder, _as_file)


def _as_file(picture: n.Picture) -> tuple[bytes, str]:
    if picture.format in _READABLE:
        return picture.data, _READABLE[picture.format]
    return _as_pdf(picture), "pdf"


def _as_pdf(picture: n.Picture) -> bytes:
    """A drawing, or a picture of a kind that LaTeX cannot read, on a sheet of its own size."""
    import typst

    width, height = picture.width or 12.0, picture.height
    about = f"{picture.format} {width:.4f} {height:.4f}"
    kept = _drawn.get(picture.data, about)
    if kept is not None:
        return kept
    down = f"{height:.4f}cm" if height else "auto"
    size = f'width: {width:.4f}cm, height: {down}, fit: "stretch"' if height else f"width: {width:.4f}cm"
    with tempfile.TemporaryDirectory(prefix="worn-") as place:
        root = Path(place)
        (root / f"picture.{picture.format}").write_bytes(picture.data)
        sheet = (
            f'#set page(width: {width:.4f}cm, height: {down}, margin: 0pt)\n#image("picture.{picture.format}", {size})'
        )
        (root / "page.typ").write_text(sheet, encoding="utf-8")
        made = typst.compile(root / "page.typ", root=root, format="pdf", timestamp=0)
    assert isinstance(made, bytes)
    _drawn.put(made, picture.data, about)
    return made
