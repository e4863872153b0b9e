"""What is delivered: the outputs of pages, pressed where they are stale, by their names there."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

from wornpage.plan.record import Reporter
from wornpage.press import Order, press_order
from wornpage.settings.models import Delivery
from wornpage.tree.hosts import usual_output
from wornpage.tree.problem import UsageError, near_miss


def pages_of(delivery: Delivery, folder: Path, name: str) -> list[Path]:
    """The pages that a delivery names, in its order; patterns stand for what they fit. Raises `UsageError`."""
    found: dict[Path, None] = {}
    for asked in delivery.pages:
        if not (folder / asked).resolve().is_relative_to(folder.resolve()):
            raise UsageError(f"deliver: {name}: {asked!r} lies outside of {folder.resolve()}.")
        fits = sorted(folder.glob(asked)) if any(sign in asked for sign in "*?[") else [folder / asked]
        missing = [one for one in fits if not one.is_file()]
        if missing or not fits:
            known = [one.relative_to(folder).as_posix() for one in folder.rglob("*.md")]
            raise UsageError(f"deliver: {name}: there is no page {asked!r}. {near_miss(asked, known)}".rstrip())
        found |= dict.fromkeys(fits)
    if not found:
        raise UsageError(f"deliver: {name}: it names no pages.")
    return list(found)


def staged(pages: Sequence[Path], delivery: Delivery, folder: Path, reporter: Reporter) -> dict[str, bytes]:
    """The outputs, by their paths from `folder`. Raises `PageError` where one cannot be made: then nothing is delivered."""
    files: dict[str, bytes] = {}
    for page in pages:
        kinds = list(delivery.outputs) or [usual_output(page.suffix)]
        pressing = press_order(Order(page, str(page), kinds), reporter)
        for output in pressing.outputs:
            for path in (output.path, *output.beside):
                files[os.path.relpath(path.absolute(), folder.absolute())] = path.read_bytes()
    return dict(sorted(files.items()))
