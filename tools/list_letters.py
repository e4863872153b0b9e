"""Write down which letters the typesetter's bundled fonts have: run it when the pinned `typst` changes.

The fonts lie whole inside the compiled module; each is read with fontTools and its character map added.
"""

from __future__ import annotations

import io
import re
import struct
from itertools import pairwise
from pathlib import Path

import typst
from fontTools.ttLib import TTFont, TTLibError

TARGET = Path(__file__).parent.parent / "src/wornpage/output/pdf/letters.txt"


def letters_in(data: bytes) -> set[int]:
    """Every code point that a font inside `data` has a glyph for."""
    found: set[int] = set()
    for match in re.finditer(rb"OTTO\x00|\x00\x01\x00\x00\x00", data):
        start = match.start()
        count = struct.unpack(">H", data[start + 4 : start + 6])[0]
        if not 5 < count < 40:
            continue
        entries = [struct.unpack(">4sIII", data[start + 12 + 16 * i : start + 28 + 16 * i]) for i in range(count)]
        if not {b"cmap", b"name"} <= {entry[0] for entry in entries}:
            continue
        end = max(entry[2] + entry[3] for entry in entries)
        try:
            found |= set(TTFont(io.BytesIO(data[start : start + end])).getBestCmap())
        except (TTLibError, TypeError, AssertionError):
            continue
    return found


def ranges_of(letters: set[int]) -> list[tuple[int, int]]:
    """Runs of neighbouring code points, both ends included."""
    ordered = sorted(letters)
    cuts = [0, *(i + 1 for i, (a, b) in enumerate(pairwise(ordered)) if b > a + 1), len(ordered)]
    return [(ordered[a], ordered[b - 1]) for a, b in pairwise(cuts)]


if __name__ == "__main__":
    module = next(Path(typst.__file__).parent.glob("_typst*"))
    lines = [f"{first:x}-{last:x}" for first, last in ranges_of(letters_in(module.read_bytes()))]
    TARGET.write_text(f"# letters of the fonts in typst {typst.__version__}\n" + "\n".join(lines) + "\n")
    print(f"{TARGET}: {len(lines)} ranges")
