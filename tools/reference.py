"""Write `docs/reference.md` from the code, so that it cannot drift. `--check` only compares."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import typer.main
from msgspec import Struct

from wornpage.cli.app import app
from wornpage.settings.checking import model_of
from wornpage.settings.models import Check, ChunkOptions, Editions, PageSettings, ProjectSettings
from wornpage.settings.outputs import names as outputs
from wornpage.settings.outputs import options_of
from wornpage.source.attributes import TAKES
from wornpage.source.marks.see import POINTER_FORMS
from wornpage.source.marks.value import VALUE_FORMS
from wornpage.source.marks.verbs import COMMANDS

TARGET = Path(__file__).parent.parent / "docs/reference.md"


def attributes() -> str:
    """What each kind of thing takes."""
    return "\n".join(f"- {kind.capitalize()}: {', '.join(f'`{key}`' for key in keys)}." for kind, keys in TAKES.items())


def keys(kind: type[Struct]) -> str:
    """A table of the keys of a kind of settings."""
    rows = ["| key | default | meaning |", "|---|---|---|"]
    for name, field in model_of(kind).model_fields.items():
        rows.append(f"| `{field.alias or name}` | {_default(field.default)} | {field.description or ''} |")
    return "\n".join(rows)


def _default(value: Any) -> str:
    if isinstance(value, bool):
        return "`yes`" if value else "`no`"
    return f"`{value}`" if isinstance(value, str | int | float) and value != "" else ""


def commands() -> str:
    """Every command with its arguments and options."""
    parts = []
    group: Any = typer.main.get_command(app)
    for name, command in _flat(group, ""):
        parts.append(f"### `worn {name}`\n\n{(command.help or '').strip()}\n")
        for parameter in command.params:
            shown = (
                ", ".join(f"`{option}`" for option in parameter.opts)
                if parameter.param_type_name == "option"
                else f"`{parameter.name.upper()}`"
            )
            parts.append(f"- {shown}: {getattr(parameter, 'help', '') or ''}")
        parts.append("")
    return "\n".join(parts)


def _flat(group: Any, before: str) -> Iterator[tuple[str, Any]]:
    """Commands of a group and of the groups in it, with their whole names."""
    for name, command in group.commands.items():
        if hasattr(command, "commands"):
            yield from _flat(command, f"{before}{name} ")
        else:
            yield before + name, command


def presses() -> str:
    """What may be set for each output."""
    return "\n\n".join(f"### `press: {{{name}: …}}`\n\n{keys(options_of(name))}" for name in outputs())


def reference() -> str:
    """The whole text."""
    return f"""# Reference

Made from the code by `tools/reference.py`.

## Commands

{commands()}
## Front matter

{keys(PageSettings)}

`authors` is a name, or a list of names or of mappings with `name`, `affiliation` (one or a list) and `email`.

### `editions:`

{keys(Editions)}

### `check:`

Each kind of finding is an `error`, a `warning` or `off`.

{keys(Check)}

{presses()}

## `worn.yaml`

Settings for all pages in its folder and below; a page's own front matter is nearer. Files are named from where it lies.
It takes {", ".join(f"`{field.alias}`" for field in model_of(ProjectSettings).model_fields.values())}, with `all:` alone under `chunks:`.

## Options of chunks

In the header as `key=value`, or in the front matter under `chunks:`. Lengths are written `16cm`, `80mm`, `4in` or `12pt`; times `90s`, `5min` or `2h`.

{keys(ChunkOptions)}

## Marks

- `{{= expression}}`, `{{= expression as form}}`: forms {", ".join(f"`{form}`" for form in VALUE_FORMS)}, `2 decimals`, or a quoted format specification.
- `{{see label}}`, `{{see a, b}}`, `{{see label as form}}`: forms {", ".join(f"`{form}`" for form in POINTER_FORMS)}.
- Alone in a paragraph: {", ".join(f"`{{{command}}}`" for command in COMMANDS if command not in {"cite", "insert"})}.
- `{{cite key p. 4; "see also" key2}}`, `{{cite key as form}}`: forms `sentence`, `author`, `year`.
- Alone in a paragraph: `{{insert file name=value}}`, `{{insert file for name in list}}`, both with `deeper=1`; `{{insert code file.py part="name" run #label}}`.

## Lines under things

- `Caption: words` under a chunk, a table, an image or a listing; `Caption (table):` and `Caption (figure):` say which.
- `Label: name` under a displayed formula or a hand-written table.
- `\\Caption:` is ordinary text.
- `{{steps=yes}}` under a list, a table, a box or a paragraph: on slides it comes step by step.

## Attribute lists

`{{#label .class key=value}}` after a heading, an image, the first line of a box, or the words of `{{new slide key=value}}`.

{attributes()}

## Boxes

`::: KIND words` to `:::`. Any kind is a box, with the words as its title; these are something else: `side-by-side` (each block a column), `column` (one block of several), `in OUTPUT, OUTPUT` and `not in OUTPUT` (for some outputs alone;
`slides` speaks of all that are slides), `step` and `steps` (on slides: comes with a step, block by block), `speaker` (on slides: seen by the speaker alone).

## Exit status

0: done. 1: the page or its code is at fault. 2: the command line is.
"""


if __name__ == "__main__":
    if "--check" in sys.argv:
        sys.exit(
            0
            if TARGET.read_text(encoding="utf-8") == reference()
            else "docs/reference.md is behind the code: run tools/reference.py"
        )
    TARGET.write_text(reference(), encoding="utf-8")
