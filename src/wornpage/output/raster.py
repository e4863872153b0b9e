"""Drawings as dots, for programs that show no vectors: drawn once, and kept by what they hold."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Sequence
from pathlib import Path

from wornpage.store.blocks import FileCache

DOTS = 200
"""Dots an inch."""
_AT_ONCE = 60
"""Drawings that are drawn in one go: going through fonts and starting takes as long as drawing several."""
_kept = FileCache("dots")


def as_png(drawings: Iterable[tuple[str, bytes, float]]) -> list[bytes]:
    """PNG of each drawing: its format, its bytes, its width in centimetres. Empty for one that cannot be drawn."""
    wanted = list(drawings)
    found = {
        (kind, data, width): _kept.get(data, f"{kind} {width:.4g} {DOTS}")
        for kind, data, width in dict.fromkeys(wanted)
    }
    missing = [one for one, made in found.items() if made is None]
    for start in range(0, len(missing), _AT_ONCE):
        some = missing[start : start + _AT_ONCE]
        for one, made in zip(some, _drawn(some), strict=True):
            found[one] = made
            _kept.put(made, one[1], f"{one[0]} {one[2]:.4g} {DOTS}")
    return [found[one] or b"" for one in wanted]


def _drawn(drawings: Sequence[tuple[str, bytes, float]]) -> list[bytes]:
    """All at once; each by itself where one of them is at fault."""
    import typst

    with tempfile.TemporaryDirectory(prefix="worn-") as folder:
        root = Path(folder)
        lines = ["#set page(width: auto, height: auto, margin: 0pt, fill: none)"]
        for number, (kind, data, width) in enumerate(drawings):
            (root / f"{number}.{kind}").write_bytes(data)
            lines.append(f'#page(image("{number}.{kind}", width: {width:.4g}cm))')
        (root / "drawings.typ").write_text("\n".join(lines), encoding="utf-8")
        try:
            fonts = typst.Fonts(include_system_fonts=True, font_paths=[])
            made = typst.compile(root / "drawings.typ", root=root, font_paths=fonts, format="png", ppi=DOTS)
        except typst.TypstError:
            return [_drawn([one])[0] for one in drawings] if len(drawings) > 1 else [b""]
    return list(made) if isinstance(made, list) else [made]
