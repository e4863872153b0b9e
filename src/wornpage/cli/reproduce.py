"""`worn reproduce`: a run from nothing, compared with the record."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from msgspec.structs import replace

from wornpage.cli.arguments import EditionName
from wornpage.cli.say import say
from wornpage.tree.problem import UsageError

if TYPE_CHECKING:
    from wornpage.handover.needs import Needs


def reproduce(
    page: Annotated[Path, typer.Argument(help="The page, or a pack of pages (`worn pack`).", show_default=False)],
    record: Annotated[
        Path | None,
        typer.Argument(metavar="[FILE]", help="The record to compare with; that of the last pressing otherwise."),
    ] = None,
    edition: EditionName = "",
    rebuild: Annotated[
        bool,
        typer.Option("--rebuild", help="In a new environment, with the packages that the page uses and nothing else."),
    ] = False,
) -> None:
    """Run a page from nothing in a store of its own, and compare all it shows with the record of a pressing.

    It is run for the given values of the record. Exit status 1 if anything differs; what differs is told chunk by chunk.
    A pack is unpacked in a folder of its own first; the code in it is run.
    """
    with tempfile.TemporaryDirectory(prefix="worn-") as place:
        if page.suffix.lower() == ".zip":
            if record is not None or edition:
                raise UsageError("a pack has its records within.")
            found = _of_pack(page, Path(place), rebuild)
        else:
            found = _of_page(page, record, edition, Path(place), rebuild)
    for line in found:
        typer.echo(line)
    if found:
        say(f"{len(found)} differences")
        raise typer.Exit(1)
    say("everything is the same")


def _of_pack(pack: Path, place: Path, rebuild: bool) -> list[str]:
    """What differs when the pages of a pack are run from nothing."""
    from wornpage.handover.packing import LOCK, unpack

    inside = place / "pack"
    found = []
    for number, name in enumerate(unpack(pack, inside)):
        say(name)
        own = place / str(number)
        own.mkdir()
        record = inside / "records" / f"{name}.json"
        made = {kind: path for kind, path in _outputs_beside(inside / name) if path.exists()}
        found += [
            f"{name}: {line}"
            for line in _against(inside / name, _read(record, False), made, own, rebuild, inside / LOCK)
        ]
    return found


def _outputs_beside(page: Path) -> list[tuple[str, Path]]:
    """The outputs that a page may have beside it."""
    from wornpage.output.outputs import names, output_of
    from wornpage.press.writing import apart_from

    return [(kind, page.with_name(f"{apart_from(page, page.stem, kind)}{output_of(kind).suffix}")) for kind in names()]


def _of_page(page: Path, record: Path | None, edition: str, place: Path, rebuild: bool) -> list[str]:
    """What differs when a page is run from nothing."""
    from wornpage.plan import manifest

    before = _read(record or manifest.colophon_file(page, edition), record is None)
    last = manifest.last(page, edition)
    made = {kind: Path(path) for kind, path in last.outputs if Path(path).exists()} if last and not record else {}
    return _against(page, before, made, place, rebuild)


def _against(
    page: Path, before: dict[str, Any], made: dict[str, Path], place: Path, rebuild: bool, lock: Path | None = None
) -> list[str]:
    """What a run from nothing in `place` shows otherwise than a record has it, and outputs that come out otherwise."""
    from wornpage.cli.progress import TerminalReporter
    from wornpage.colophon import differences
    from wornpage.handover.packing import LOCK
    from wornpage.press import Order, press_order

    given = before.get("given", {})
    python = _rebuilt(page, given, place, lock or page.with_name(LOCK)) if rebuild else ""
    order = Order(
        page, str(page), list(made) or ["html"], place / "outputs", afresh=True, store=place / "store", given=given, python=python
    )  # fmt: skip
    pressing = press_order(order, TerminalReporter())
    found = differences(before, json.loads(json.dumps(pressing.colophon.to_data())))
    for output in pressing.outputs:
        here = made.get(output.kind)
        if here is not None and here.read_bytes() != output.path.read_bytes():
            found.append(f"output {here.name}: the bytes differ")
    return found


def _rebuilt(page: Path, given: dict[str, Any], place: Path, lock: Path) -> str:
    """A new environment for a page; its Python. What is another than the lock file says is told."""
    from wornpage.handover.locks import releases_of
    from wornpage.handover.needs import needs_of_page
    from wornpage.handover.rebuilding import build
    from wornpage.press import Order, proof_of

    needs = needs_of_page(proof_of(Order(page, str(page), given=given)).record)
    releases, why = releases_of(needs.packages, needs.program)
    if why:
        say(f"what is installed cannot be held against hashes: {why}")
    say(f"a new environment: Python {needs.python} with {len(needs.packages)} packages")
    if needs.r:
        say(f"R and its packages are those of this machine: {', '.join(one.name for one in needs.r)}")
    program = str(build(needs, releases, place))
    _tell_surroundings(replace(needs, program=program), lock)
    return program


def _tell_surroundings(needs: Needs, lock: Path) -> None:
    """Say what of Python, R and the system's libraries is another here than where the lock file was made."""
    from wornpage.handover.locks import surroundings_in, surroundings_of
    from wornpage.handover.system import different, libraries_of

    try:
        before = surroundings_in(lock.read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return
    now = surroundings_of(replace(needs, libraries=libraries_of(needs)))
    for line in different(before, now) if before else ():
        say(f"here: {line}")


def _read(path: Path, is_ours: bool) -> dict[str, Any]:
    """The record in a file, as plain data. Raises `UsageError` for what is none."""
    from wornpage.colophon import read_record

    try:
        return read_record(path.read_bytes())
    except (FileNotFoundError, NotADirectoryError):
        hint = "Press the page first." if is_ours else "Write one with `worn press --write-colophon FILE`."
        raise UsageError(f"there is no record {path}. {hint}") from None
    except OSError as error:
        raise UsageError(f"{path} cannot be read: {error.strerror}.") from None
    except ValueError as error:
        raise UsageError(f"{path} is no record of a pressing: {error}.") from None
