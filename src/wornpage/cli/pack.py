"""`worn pack`: a page and all it is made of in one file, for the archive."""

from __future__ import annotations

import datetime
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.handover.gathering import Gathered, Item

_USUAL_MOST = "10 MB"


def pack(
    pages: Annotated[list[Path], typer.Argument(help="The pages.", show_default=False)],
    out: Annotated[
        Path | None,
        typer.Option("--out", metavar="FILE", help="Where it goes.  [default: PAGE.zip]", show_default=False),
    ] = None,
    at_most: Annotated[
        str, typer.Option("--at-most", metavar="SIZE", help="Data of more than this are asked for, each.")
    ] = _USUAL_MOST,
    along: Annotated[
        list[str] | None,
        typer.Option(
            "--along", metavar="FILE", help="Take this file along, whatever speaks against it; again for others."
        ),
    ] = None,
    licence: Annotated[
        str, typer.Option("--licence", metavar="ADDRESS", help="Under which licence it is handed over.")
    ] = "",
) -> None:
    """Put pages, what they insert, read and import, their looks, their outputs and records into one file, with metadata for archives.

    Pages are pressed first. Files outside of the project, secrets and large data go along only where that is asked for. The
    same bytes again. `worn reproduce FILE.zip` unpacks it and proves it.
    """
    from wornpage.cli.writing import save
    from wornpage.handover.locks import releases_of
    from wornpage.handover.packing import packed

    gathered = [_gathered(page, at_most) for page in pages]
    asked = _asked([item for one in gathered for item in one.items if item.doubt], along or [])
    for one in gathered:
        for name in one.missing:
            say(f"{one.page}: {name} was read, and is gone: it does not go along")
    packages = {one.name: one for page in gathered for one in page.needs.packages}
    releases, why = releases_of(packages.values(), gathered[-1].needs.program)
    if why:
        say(f"the lock in it has no hashes: the index of packages does not answer for all of them ({why})")
    day = max((one.date for one in gathered if one.date), default="") or _day_of(pages)
    data, names = packed(gathered, asked, releases, licence, day)
    target = out or pages[0].with_suffix(".zip")
    save(target, data, pages)
    typer.echo(str(target))
    say(f"{len(names)} files, {len(data) / 1e6:,.1f} MB")


def _gathered(page: Path, at_most: str) -> Gathered:
    """A page, pressed to what it was last pressed to, with all that belongs to it."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.handover.gathering import gather
    from wornpage.plan import manifest
    from wornpage.press import Order, press_order, proof_of
    from wornpage.tree.hosts import usual_output

    last = manifest.last(page)
    kinds = [kind for kind, _ in last.outputs] if last else [usual_output(page.suffix)]
    pressing = press_order(Order(page, str(page), kinds), TerminalReporter())
    return gather(proof_of(Order(page, str(page))), pressing, _size(at_most))


def _size(words: str) -> int:
    from wornpage.tree.kinds import read_size

    try:
        return read_size(words)
    except ValueError as error:
        raise UsageError(f"--at-most {words!r}: {error}") from None


def _asked(doubted: list[Item], along: list[str]) -> frozenset[str]:
    """The doubted files that go along: those that were named, and those that are said yes to. Raises `UsageError`."""
    from wornpage.tree.problem import near_miss

    known = {item.name for item in doubted}
    for name in along:
        if name not in known:
            raise UsageError(
                f"--along {name}: this is no file that would be left out. {near_miss(name, known)}".rstrip()
            )
    taken = set(along)
    for item in doubted:
        if item.name in taken:
            continue
        outside = item.name.startswith("..")
        if (
            not outside
            and sys.stdin.isatty()
            and sys.stderr.isatty()
            and typer.confirm(f"{item.name}: {item.doubt}. Take it along?", err=True)
        ):
            taken.add(item.name)
        else:
            hint = "copy it into the project" if outside else f"--along {item.name} takes it along"
            say(f"left out: {item.name}, since {item.doubt}; {hint}")
    return frozenset(taken)


def _day_of(pages: list[Path]) -> str:
    """When the pages were last changed."""
    return str(datetime.date.fromtimestamp(max(page.stat().st_mtime for page in pages)))
