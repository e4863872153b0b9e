"""Given values tried in a proof, and written into the source as defaults."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from wornpage.output.atomic import write_file
from wornpage.output.html.fields import fields
from wornpage.press import Proof, examine
from wornpage.settings.givens import GivenFault, as_written
from wornpage.settings.rewriting import with_default
from wornpage.source import Page
from wornpage.source.editing import write_page
from wornpage.source.reader import parse_page
from wornpage.tree.problem import Severity, UsageError


def fields_of(proof: Proof) -> str:
    """A field for each given of a page, with the values that it shows."""
    settings = proof.settings
    return fields(settings.declared, settings.given)


def checked(proof: Proof, written: Mapping[str, object]) -> dict[str, object]:
    """Values as written that the page takes. Raises `UsageError` for others."""
    found: dict[str, object] = {}
    for name, value in written.items():
        if name not in proof.settings.declared:
            raise UsageError(f"this page has no given {name!r}.")
        try:
            found[name] = as_written(proof.settings.declared[name].value(as_written(value)))
        except GivenFault as fault:
            raise UsageError(f"{fault.what} {fault.hint}".strip()) from None
    return found


def write_defaults(path: Path, proof: Proof, given: Mapping[str, object]) -> list[str]:
    """Write values into the page as defaults; the names of those that were other before.

    Raises `UsageError` where the page is no longer what is shown, or where that cannot be written without touching anything else.
    """
    source, changed = proof.source, []
    for name, value in given.items():
        one = proof.settings.declared[name]
        if one.default is not None and as_written(one.default) == as_written(value):
            continue
        before = source
        source = _reread(path, with_default(before, name, value, one.kind))
        _check(before, source, name, value)
        changed.append(name)
    if changed:
        write_page(path, proof.source.text, source.text, write_file)
    return changed


def _reread(path: Path, text: str) -> Page:
    """The page as it would be read with another text."""
    return parse_page(text, path, path.name)


def _check(before: Page, after: Page, name: str, value: object) -> None:
    """Raise `UsageError` unless the one default, and nothing else, is another now."""
    old, _, _ = examine(before)
    new, _, problems = examine(after)
    is_sound = not any(problem.severity == Severity.ERROR for problem in problems)
    others = {other: one.default for other, one in new.declared.items() if other != name}
    was = {other: one.default for other, one in old.declared.items() if other != name}
    declared = new.declared.get(name)
    if not is_sound or others != was or declared is None or as_written(declared.default) != as_written(value):
        raise UsageError(f"the default of {name} cannot be written without changing something else: change it by hand.")
