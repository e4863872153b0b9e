"""The looks of a page: a folder with a manifest, and the files that each output looks for in it.

A stationery may rest on another (`base` in its manifest). Each output says what that means for its files: a style sheet is
added to that of the base, a frame takes its place, a `sheet.typ` imports the base's and defines anew what it wants otherwise.
"""

from __future__ import annotations

import re
import tomllib
from functools import cache
from importlib.resources import files
from pathlib import Path

from msgspec import Struct

from wornpage.output.kind import Sayable
from wornpage.output.outputs import names as outputs
from wornpage.output.outputs import output_of
from wornpage.settings.outputs import TABLE
from wornpage.tree.problem import UsageError, near_miss
from wornpage.tree.project import project_of

MANIFEST = "stationery.toml"


class Stationery(Struct, frozen=True):
    """One stationery, with what its base adds."""

    name: str
    about: str
    looks: dict[str, tuple[str, ...]]
    """By name of a file (`Output.looks`): its text in the base, and its own, as far as there are."""
    text_width: float = 16.0
    """Centimetres between the margins."""
    column_width: float = 16.0
    """Centimetres of one column."""
    files: tuple[Path, ...] = ()
    """Files beside the page that it was read from, pictures and fonts among them; none for one that is built in."""
    folder: Path | None = None
    """Where it lies, if it is not built in."""
    said: dict[str, str] = {}
    """What its manifest says for single outputs, such as what its template calls a layout."""

    @property
    def assets(self) -> dict[str, Path]:
        """Its pictures, fonts and whatever else its files may name, by their names within its folder."""
        if self.folder is None:
            return {}
        own = {MANIFEST, *self.looks}
        named = {path.relative_to(self.folder).as_posix(): path for path in self.files}
        return {name: path for name, path in named.items() if name not in own}


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
            return _read(folder.resolve(), name, _files_in(folder.resolve()))
        if folder.is_dir():
            raise StationeryFault(
                f"the folder {name!r} has no {MANIFEST}.", "`worn stationery copy` makes a whole one."
            )
    hint = near_miss(name, names()) or f"Built in: {', '.join(names())}; or a folder made with `worn stationery copy`."
    raise StationeryFault(f"there is no stationery {name!r}.", hint)


_MOST_FILES = 2_000


def _files_in(folder: Path) -> tuple[Path, ...]:
    """Every file of a stationery's folder but hidden ones."""
    found = (path for path in folder.rglob("*") if path.is_file())
    own = [path for path in found if not any(part.startswith(".") for part in path.relative_to(folder).parts)]
    if len(own) > _MOST_FILES:
        raise StationeryFault(f"the folder {folder.name!r} holds {len(own):,} files, and is hardly a stationery.")
    return tuple(sorted(own))


def _read(folder: Path, name: str, found: tuple[Path, ...]) -> Stationery:
    manifest = _manifest(folder)
    base_name = manifest.get("base", "")
    if base_name and base_name not in names():
        raise StationeryFault(
            f"the stationery {name!r} rests on {base_name!r}, which there is not.", near_miss(base_name, names())
        )
    base = _read(_built_in() / base_name, base_name, ()) if base_name else None
    looks = dict(base.looks) if base else {}
    for output in outputs():
        for file in output_of(output).looks:
            if (folder / file).is_file():
                looks[file] = (*looks.get(file, ()), _text(folder / file))
    if base is None and (lacking := [file for file in _ours() if file not in looks]):
        what = f"the stationery {name!r} has no {', '.join(lacking)}, and rests on no other."
        raise StationeryFault(what, f'Say `base = "report"` in its {MANIFEST}.')
    return Stationery(
        name,
        manifest.get("about", ""),
        looks,
        _length(manifest, "text-width", base.text_width if base else 16.0, name),
        _length(manifest, "column-width", base.column_width if base else 16.0, name),
        found,
        folder if found else None,
        {key: value for key, value in manifest.items() if key not in _KEYS},
    )


def _ours() -> list[str]:
    """Every file that the outputs of this package look for."""
    return [file for output in TABLE for file in output_of(output).looks]


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise StationeryFault(f"{path.name} of the stationery cannot be read: {error}.") from None


_KEYS = ("name", "about", "base", "text-width", "column-width")


def _sayable() -> dict[str, Sayable]:
    """What a manifest may say: for all outputs, and for single ones."""
    said = dict.fromkeys(_KEYS, Sayable())
    for output in outputs():
        said |= getattr(output_of(output), "manifest", {})
    return said


def _manifest(folder: Path) -> dict[str, str]:
    """What a manifest says. Raises `StationeryFault`."""
    where = f"{folder.name}/{MANIFEST}"
    text = _text(folder / MANIFEST)
    try:
        made = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise StationeryFault(f"{where}: it is no TOML: {error}.", 'A line is such as `base = "report"`.') from None
    sayable = _sayable()
    for key, value in made.items():
        at = next((number for number, line in enumerate(text.splitlines(), 1) if line.strip().startswith(key)), 1)
        if key not in sayable:
            hint = near_miss(key, sayable) or f"Known: {', '.join(sayable)}."
            raise StationeryFault(f"{where}:{at}:1: a manifest has no {key!r}.", hint)
        if not isinstance(value, str | int | float):
            raise StationeryFault(f"{where}:{at}:1: {key} is one text or one number.")
        if not re.fullmatch(sayable[key].pattern, str(value)):
            raise StationeryFault(f"{where}:{at}:1: {key} is {sayable[key].words}, not {str(value)!r}.")
    return {key: str(value) for key, value in made.items()}


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
