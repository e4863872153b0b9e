"""Sets of values that somebody keeps under a name, in a file beside the page that people can read."""

from __future__ import annotations

from io import StringIO
from pathlib import Path

from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from wornpage.output.atomic import write_file

_MOST = 200
_LONGEST = 80
"""Letters of a name."""


class NotKept(Exception):
    """Why a set cannot be kept; the text is for the reader."""


def file_of(page: Path) -> Path:
    """Where the sets of a page are."""
    return page.with_name(f"{page.stem}.values.yaml")


def kept_sets(page: Path) -> dict[str, dict[str, object]]:
    """The sets of a page by name, values as written; none where the file cannot be read."""
    try:
        return _read(page)
    except NotKept:
        return {}


def keep(page: Path, name: str, given: dict[str, object]) -> None:
    """Keep a set; one of that name is another from now on. Raises `NotKept`."""
    name = " ".join(name.split())
    if not name or len(name) > _LONGEST:
        raise NotKept(f"a name has from 1 to {_LONGEST} letters.")
    sets = _read(page)
    if name not in sets and len(sets) >= _MOST:
        raise NotKept(f"{_MOST} sets are kept already. Take one away first.")
    _write(page, sets | {name: given})


def take_away(page: Path, name: str) -> None:
    """Keep a set no longer. Raises `NotKept`."""
    sets = _read(page)
    sets.pop(name, None)
    _write(page, sets)


def _yaml() -> YAML:
    yaml = YAML(typ="safe", pure=True)
    yaml.default_flow_style = False
    yaml.allow_unicode = True
    yaml.sort_base_mapping_type_on_output = False
    return yaml


def _read(page: Path) -> dict[str, dict[str, object]]:
    try:
        text = file_of(page).read_text(encoding="utf-8")
    except FileNotFoundError:
        return {}
    except (OSError, UnicodeDecodeError):
        raise NotKept("the file with the sets cannot be read.") from None
    try:
        data = _yaml().load(text) or {}
        return {str(name): {str(one): _written(value) for one, value in given.items()} for name, given in data.items()}
    except (YAMLError, AttributeError, ValueError):
        raise NotKept("the file with the sets holds something else.") from None


def _written(value: object) -> object:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return [str(item) for item in value] if isinstance(value, list) else str(value)


def _write(page: Path, sets: dict[str, dict[str, object]]) -> None:
    text = StringIO()
    _yaml().dump(sets, text)
    head = "# Sets of values that readers of the desk keep under a name.\n"
    try:
        write_file(file_of(page), (head + text.getvalue()).encode())
    except OSError as error:
        raise NotKept(f"nothing can be kept here: {error.strerror}.") from None
