"""The outputs there are; each is imported only when it is asked for."""

from __future__ import annotations

from functools import cache
from typing import Any

from wornpage.output.kind import Input, Output
from wornpage.settings import PageSettings
from wornpage.settings.outputs import ENTRY_POINTS, TABLE, USUAL, names
from wornpage.tree.plugins import brought, load


@cache
def output_of(name: str) -> Output:
    """The output of that name. Raises `LookupError` for none."""
    found: Output = load(f"{TABLE[name]}.kind:OUTPUT" if name in TABLE else brought(ENTRY_POINTS)[name])
    return found


def options_in(settings: PageSettings, name: str) -> Any:
    """What a page sets for an output."""
    return getattr(settings.press, name.replace("-", "_"))


def inputs_of(settings: PageSettings) -> list[Input]:
    """The files that the settings name for any output."""
    return [one for name in names() for one in output_of(name).inputs(options_in(settings, name))]


__all__ = ["USUAL", "inputs_of", "names", "options_in", "output_of"]
