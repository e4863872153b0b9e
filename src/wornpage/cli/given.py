"""`--given` on the command line, and `worn given`: what a page can be given."""

from __future__ import annotations

import json
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.settings import Settings
    from wornpage.source import Page


def given_from(pairs: Iterable[str], file: Path | None = None) -> dict[str, object]:
    """Values by name from a YAML file and from `name=value`, which is nearer; a name that comes again makes a list."""
    found: dict[str, object] = {}
    for pair in pairs:
        name, sign, value = pair.partition("=")
        if not sign or not name.strip():
            raise UsageError(f"--given wants `name=value`, and not {pair!r}.")
        name = name.strip()
        if name in found:
            before = found[name]
            found[name] = [*(before if isinstance(before, list) else [before]), value]
        else:
            found[name] = value
    return (_file(file) if file is not None else {}) | found


def given_for(page: Path, pairs: Iterable[str] | None, edition: str) -> dict[str, object]:
    """Values by name for a page or for one of its editions. Raises `UsageError` if there is no such edition."""
    given = given_from(pairs or ())
    if not edition:
        return given
    from wornpage.editions.pressing import Choice, counted
    from wornpage.tree.problem import near_miss

    editions = {one.name: one.given for one in counted(Choice(page, given=given)).editions}
    if edition not in editions:
        raise UsageError(f"there is no edition {edition!r}. {near_miss(edition, editions)}")
    return {**given, **editions[edition]}


def _file(path: Path) -> dict[str, object]:
    from wornpage.settings.yaml_text import read_yaml
    from wornpage.tree.problem import PageError

    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise UsageError(f"{path} cannot be read: {getattr(error, 'strerror', None) or error}.") from None
    yaml = read_yaml("given:\n" + "".join(f"  {line}\n" for line in text.splitlines()), str(path), 0)
    if yaml.problems:
        raise PageError(yaml.problems)
    values = (yaml.data or {}).get("given") if isinstance(yaml.data, dict) else None
    if not isinstance(values, dict):
        raise UsageError(f"{path} holds no mapping of given values. Write lines such as `branch: Quayside`.")
    return {name: _written(raw) for name, raw in values.items()}


def _written(raw: object) -> object:
    if isinstance(raw, list):
        return [_written(item) for item in raw]
    return raw["raw"] if isinstance(raw, dict) and "raw" in raw else str(raw)


def prepared(page: Path, pairs: list[str] | None = None, edition: str = "") -> tuple[Page, Settings]:
    """A page and its settings for given values or an edition; raises `PageError` if they are at fault."""
    from wornpage.press import prepare
    from wornpage.source import read_page

    source = read_page(page, str(page))
    settings, _, _ = prepare(source, None, given_for(page, pairs, edition))
    return source, settings


def print_givens(page: Path, as_json: bool) -> None:
    """The givens of a page as a table, or as JSON Schema."""
    _, settings = prepared(page)
    declared = settings.declared
    if as_json:
        required = [name for name, one in declared.items() if one.required and one.default is None]
        schema = {"$schema": "https://json-schema.org/draft/2020-12/schema", "type": "object", "additionalProperties": False,
                  "properties": {name: one.schema() for name, one in declared.items()}, "required": required}  # fmt: skip
        print(json.dumps(schema, ensure_ascii=False, indent=2))
        return
    if not declared:
        print("this page takes no given values")
        return
    from rich import box
    from rich.table import Table
    from rich.text import Text

    from wornpage.cli.console import console

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    for head in ("given", "type", "value", "from", "allowed", "meaning"):
        table.add_column(head)
    for name, one in declared.items():
        value = settings.given[name]
        shown = said(value) + (f" {one.unit}" if one.unit and value is not None else "")
        table.add_row(
            *map(Text, (name, one.kind, shown, settings.given_levels[name], _allowed(one), one.title or one.help))
        )
    console().print(table)


def said(value: object) -> str:
    """A given value for people; nothing for none."""
    if isinstance(value, list):
        return ", ".join(map(said, value))
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else str(value)


def _allowed(one: Any) -> str:
    if one.one_of:
        shown = [said(item) for item in one.one_of]
        return ", ".join(shown[:6]) + (f" … ({len(shown)})" if len(shown) > 6 else "")
    parts = [f"from {said(one.least)}" if one.least is not None else "", f"to {said(one.most)}" if one.most is not None else "",
             f"in steps of {said(one.step)}" if one.step else ""]  # fmt: skip
    return " ".join(filter(None, parts))
