"""What is delivered: the outputs of pages, pressed where they are stale, by their names there."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path

from wornpage.plan import manifest
from wornpage.plan.record import Reporter
from wornpage.press import Order, press_order
from wornpage.press.crew import Watching
from wornpage.settings.models import Delivery
from wornpage.tree.hosts import usual_output
from wornpage.tree.problem import UsageError, near_miss, stop_on_errors
from wornpage.tree.project import VOLUME_FILE
from wornpage.volume.binding import SITE, Wish, bind, folder_of
from wornpage.volume.reading import Entry, Volume
from wornpage.volume.standing import kept_as
from wornpage.volume.work import DraftReport


def pages_of(delivery: Delivery, folder: Path, name: str) -> list[Path]:
    """The pages that a delivery names, in its order; patterns stand for what they fit. Raises `UsageError`."""
    found: dict[Path, None] = {}
    for asked in delivery.pages:
        _check_inside(asked, folder, name)
        fits = sorted(folder.glob(asked)) if any(sign in asked for sign in "*?[") else [folder / asked]
        missing = [one for one in fits if not one.is_file()]
        if missing or not fits:
            known = [one.relative_to(folder).as_posix() for one in folder.rglob("*.md")]
            raise UsageError(f"deliver: {name}: there is no page {asked!r}. {near_miss(asked, known)}".rstrip())
        found |= dict.fromkeys(fits)
    if not found and not delivery.volumes:
        raise UsageError(f"deliver: {name}: it names no pages.")
    return list(found)


def volumes_of(delivery: Delivery, folder: Path, name: str) -> list[Wish]:
    """What the volumes that a delivery names are to be bound to. Raises `UsageError`."""
    found = []
    for asked in delivery.volumes:
        _check_inside(asked, folder, name)
        path = folder / asked
        path = path / VOLUME_FILE if path.is_dir() else path
        if not path.is_file():
            raise UsageError(f"deliver: {name}: there is no volume {asked!r}.")
        found.append(Wish(path, tuple(delivery.outputs) or (SITE,)))
    return found


def _check_inside(asked: str, folder: Path, name: str) -> None:
    if not (folder / asked).resolve().is_relative_to(folder.resolve()):
        raise UsageError(f"deliver: {name}: {asked!r} lies outside of {folder.resolve()}.")


def bound(
    volume: Volume, wish: Wish, watching: Watching, told: Callable[[Entry, DraftReport], None]
) -> dict[str, bytes]:
    """What a volume is bound to, by paths from its folder. Raises `PageError` where a page of it fails: then nothing is delivered."""
    made = bind(volume, wish, watching, told)
    stop_on_errors([*made.problems, *(one for _, report in made.reports for one in report.problems)])
    top = folder_of(wish).resolve()
    kept = manifest.files_of(wish.file, kept_as(folder_of(wish)))
    return {os.path.relpath(path, top): Path(path).read_bytes() for kind, path, _ in kept if kind in wish.outputs}


def together(several: Iterable[Mapping[str, bytes]]) -> dict[str, bytes]:
    """All files by name. Raises `UsageError` where two differ and have one name."""
    found: dict[str, bytes] = {}
    for files in several:
        for name, data in files.items():
            if found.setdefault(name, data) != data:
                raise UsageError(
                    f"two files of what is delivered are called {name!r}; deliver them to places of their own."
                )
    return dict(sorted(found.items()))


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
