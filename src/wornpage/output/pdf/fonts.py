"""Which letters the typesetter's fonts have, and where to find a font for those they lack."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator
from functools import cache
from importlib.resources import files
from pathlib import Path

from msgspec import Struct

SYSTEM_FOLDERS = (
    "/usr/share/fonts", "/usr/local/share/fonts", "~/.local/share/fonts", "~/.fonts", "/Library/Fonts",
    "/System/Library/Fonts", "~/Library/Fonts", "C:/Windows/Fonts",
)  # fmt: skip
_FACES = re.compile(r"bold|black|heavy|light|thin|medium|italic|oblique|condensed|narrow|mono", re.IGNORECASE)
_SUFFIXES = (".ttf", ".otf", ".ttc", ".otc")
_INVISIBLE = {0x09, 0x0A, 0x0D, 0x20, 0xA0, 0xAD, *range(0x2000, 0x2010), *range(0x2028, 0x2030), *range(0x2060, 0x2065),
              *range(0xFE00, 0xFE10), 0xFEFF}  # fmt: skip


class Fonts(Struct, frozen=True):
    """What a text needs beside the bundled fonts."""

    files: tuple[Path, ...]
    families: tuple[str, ...]
    missing: frozenset[str]
    """Letters that no font has."""
    of_system: tuple[Path, ...]
    """Those of the files that do not lie in the page's own folders."""

    @property
    def read(self) -> tuple[Path, ...]:
        """What the choice hangs on: the files, and the system's folders where they have been looked through in vain."""
        return (*self.files, *(_system_folders() if self.missing else ()))


def fonts_for(text: Iterable[str], folders: Iterable[Path], has: Callable[[str], bool] | None = None) -> Fonts:
    """Fonts for the letters of `text` that the bundled ones lack, or those that are known by `has`: first from `folders`, then from the system."""
    lacking = {letter for part in text for letter in set(part)}
    lacking = {letter for letter in lacking if not (has(letter) if has is not None else _bundled(ord(letter)))}
    found: list[Path] = []
    families: list[str] = []
    own = tuple(folders)
    for path in _candidates(own) if lacking else ():
        family, letters = _letters_of(path)
        if lacking & letters:
            found.append(path)
            families.append(family)
            lacking -= letters
        if not lacking:
            break
    of_system = tuple(path for path in found if not any(path.is_relative_to(folder) for folder in own))
    return Fonts(tuple(found), tuple(dict.fromkeys(families)), frozenset(lacking), of_system)


def _bundled(code: int) -> bool:
    if code in _INVISIBLE:
        return True
    starts, ends = _ranges()
    place = bisect_right(starts, code) - 1
    return place >= 0 and code <= ends[place]


@cache
def _ranges() -> tuple[list[int], list[int]]:
    text = (files("wornpage.output.pdf") / "letters.txt").read_text(encoding="ascii")
    pairs = [line.split("-") for line in text.splitlines() if not line.startswith("#")]
    return [int(first, 16) for first, _ in pairs], [int(last, 16) for _, last in pairs]


def _candidates(folders: Iterable[Path]) -> Iterator[Path]:
    """Font files in a fixed order; regular faces before others, as they are wanted most."""
    for folder in [*folders, *_system_folders()]:
        paths = [path for path in folder.rglob("*") if path.suffix.lower() in _SUFFIXES] if folder.is_dir() else []
        yield from sorted(
            paths, key=lambda path: (_is_special(path), "regular" not in path.stem.lower(), path.name, str(path))
        )


def _is_special(path: Path) -> bool:
    """Whether a font is a bold or slanted face, or the like, by its name."""
    return _FACES.search(path.stem) is not None


def _system_folders() -> list[Path]:
    return [Path(name).expanduser() for name in SYSTEM_FOLDERS]


def _letters_of(path: Path) -> tuple[str, frozenset[str]]:
    """A font file's family and letters; none if it cannot be read, or has not all the names that the typesetter asks for."""
    from fontTools.ttLib import TTFont, TTLibError

    try:
        with path.open("rb") as file, TTFont(file, fontNumber=0, lazy=True) as font:
            names = font["name"]
            family = names.getDebugName(16) or names.getDebugName(1)
            if not (family and names.getDebugName(4) and names.getDebugName(6)):
                return path.stem, frozenset()
            return str(family), frozenset(map(chr, font.getBestCmap() or {}))
    except (TTLibError, OSError, KeyError, AssertionError):
        return path.stem, frozenset()
