"""The looks of a page: a folder with a manifest, a style sheet, a frame and a typesetting template.

A stationery may rest on another (`base:` in its manifest): its style sheet is added to that of the base, its `sheet.typ`
imports the base's as `base.typ` and defines anew what it wants otherwise, and a frame of its own takes the base's place.
"""

from __future__ import annotations

from functools import cache
from importlib.resources import files
from pathlib import Path

from msgspec import Struct

from wornpage.tree.problem import UsageError, near_miss
from wornpage.tree.project import project_of

MANIFEST = "manifest.yaml"
FILES = ("page.css", "page.html.j2", "sheet.typ")


class Stationery(Struct, frozen=True):
    """One stationery, with what its base adds."""

    name: str
    about: str
    style: str
    """The whole style sheet for HTML."""
    frame: str
    """The template of the HTML page."""
    sheets: tuple[tuple[str, str], ...]
    """Typesetting files by name; `sheet.typ` is the one that pages import."""
    text_width: float = 16.0
    """Centimetres between the margins."""
    column_width: float = 16.0
    """Centimetres of one column."""
    files: tuple[Path, ...] = ()
    """Files beside the page that it was read from; none for one that is built in."""


class StationeryFault(Exception):
    """A stationery that cannot be used: what is wrong, and a hint."""

    def __init__(self, what: str, hint: str = "") -> None:
        super().__init__(what)
        self.what, self.hint = what, hint


def _built_in() -> Path:
    return Path(str(files("wornpage.stationery")))


@cache
def names() -> tuple[str, ...]:
    """The stationeries that are built in."""
    return tuple(sorted(entry.name for entry in _built_in().iterdir() if (entry / MANIFEST).is_file()))


def find_stationery(name: str, page: Path) -> Stationery:
    """A built-in stationery by its name, or one in a folder beside the page or in its project. Raises `StationeryFault`."""
    if name in names():
        return _read(_built_in() / name, name, ())
    for folder in (page.parent / name, project_of(page) / name):
        if (folder / MANIFEST).is_file():
            return _read(folder, name, tuple(sorted(path.resolve() for path in folder.iterdir() if path.is_file())))
        if folder.is_dir():
            raise StationeryFault(
                f"the folder {name!r} has no {MANIFEST}.", "`worn stationery copy` makes a whole one."
            )
    hint = near_miss(name, names()) or f"Built in: {', '.join(names())}; or a folder made with `worn stationery copy`."
    raise StationeryFault(f"there is no stationery {name!r}.", hint)


def _read(folder: Path, name: str, found: tuple[Path, ...]) -> Stationery:
    manifest = _manifest(folder)
    base_name = manifest.get("base", "")
    if base_name and base_name not in names():
        raise StationeryFault(
            f"the stationery {name!r} rests on {base_name!r}, which there is not.", near_miss(base_name, names())
        )
    base = _read(_built_in() / base_name, base_name, ()) if base_name else None
    own = {file: _text(folder / file) for file in FILES if (folder / file).is_file()}
    sheets = [("base.typ", dict(base.sheets)["sheet.typ"])] if base else []
    sheets.append(("sheet.typ", own.get("sheet.typ") or (dict(base.sheets)["sheet.typ"] if base else "")))
    return Stationery(
        name=name,
        about=manifest.get("about", ""),
        style="\n".join(filter(None, (base.style if base else "", own.get("page.css", "").strip()))),
        frame=own.get("page.html.j2") or (base.frame if base else ""),
        sheets=tuple(sheets),
        text_width=_length(manifest, "text-width", base.text_width if base else 16.0, name),
        column_width=_length(manifest, "column-width", base.column_width if base else 16.0, name),
        files=found,
    )


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise StationeryFault(f"{path.name} of the stationery cannot be read: {error}.") from None


_KEYS = ("name", "about", "base", "text-width", "column-width")


def _manifest(folder: Path) -> dict[str, str]:
    """The lines `key: value` of a manifest."""
    made = {}
    for number, line in enumerate(_text(folder / MANIFEST).splitlines(), 1):
        key, colon, value = line.partition(":")
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        if not colon or key.strip() not in _KEYS:
            where = f"{folder.name}/{MANIFEST}:{number}:1"
            hint = near_miss(key.strip(), _KEYS) or f"Known: {', '.join(_KEYS)}."
            raise StationeryFault(f"{where}: a manifest has no {key.strip()!r}.", hint)
        made[key.strip()] = value.strip().strip("\"'")
    return made


def _length(manifest: dict[str, str], key: str, default: float, name: str) -> float:
    text = manifest.get(key, "")
    if not text:
        return default
    try:
        return float(text.removesuffix("cm"))
    except ValueError:
        raise StationeryFault(f"the {key} of the stationery {name!r} is no length in cm: {text!r}.") from None


def copy_stationery(name: str, target: Path) -> list[Path]:
    """Write a built-in stationery into a folder, to be changed. Raises `UsageError`."""
    if name not in names():
        raise UsageError(
            f"there is no stationery {name!r}. {near_miss(name, names()) or 'Built in: ' + ', '.join(names())}"
        )
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise UsageError(f"{target} is there already and stays as it is. Choose another folder.")
    target.mkdir(parents=True, exist_ok=True)
    written = []
    for path in sorted((_built_in() / name).iterdir()):
        if path.is_file():
            (target / path.name).write_bytes(path.read_bytes())
            written.append(target / path.name)
    return written
