"""`worn deliver`: outputs put where readers find them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from wornpage.cli.say import say
from wornpage.tree.problem import PageError, Severity, UsageError, near_miss, stop_on_errors
from wornpage.tree.project import PROJECT_FILE

if TYPE_CHECKING:
    from wornpage.deliver.places import Change, Place
    from wornpage.settings.models import Delivery
    from wornpage.volume.binding import Wish


def deliver(
    name: Annotated[
        str | None,
        typer.Argument(help="Which of the places under `deliver:`; all of them otherwise.", show_default=False),
    ] = None,
    dry: Annotated[bool, typer.Option("--dry", help="Say what would change there, and change nothing.")] = False,
    project: Annotated[Path, typer.Option("--project", metavar="DIR", help="The folder of the `worn.yaml`.")] = Path(),
) -> None:
    """Press what is stale, check it, and put it where `deliver:` in `worn.yaml` says: whole or not at all.

    A place is a folder, a folder of a server, or a branch of the repository's own remote. What others have put there stays.
    """
    places = _places(project / PROJECT_FILE)
    if name is not None and name not in places:
        raise UsageError(f"there is no place {name!r} under `deliver:`. {near_miss(name, places)}".rstrip())
    for one in [name] if name is not None else list(places):
        _one(one, places[one], project, dry)


def _places(path: Path) -> dict[str, Delivery]:
    """What `worn.yaml` says. Raises `UsageError`, `PageError`."""
    import msgspec

    from wornpage.settings.models import ProjectSettings
    from wornpage.settings.texts import check_yaml
    from wornpage.tree.files import file_text

    try:
        text = file_text(path)
    except (OSError, UnicodeDecodeError):
        raise UsageError(f"there is no {path}. It says where to deliver what, under `deliver:`.") from None
    checked = check_yaml(ProjectSettings, text, str(path), 1, PROJECT_FILE, None)
    if checked.problems:
        raise PageError(checked.problems)
    places = msgspec.convert(checked.values, ProjectSettings).deliver
    if not places:
        raise UsageError(
            f"{path} has nothing under `deliver:`. Write `deliver: {{site: {{pages: [paper.md], folder: public}}}}`."
        )
    return places


def _one(name: str, delivery: Delivery, project: Path, dry: bool) -> None:
    from wornpage.cli.progress import TerminalReporter
    from wornpage.deliver.staging import pages_of, staged, together, volumes_of

    pages, wishes = pages_of(delivery, project, name), volumes_of(delivery, project, name)
    called = [*(page.name for page in pages), *(wish.file.absolute().parent.name for wish in wishes)]
    place = _place(name, delivery, project, called)
    _check(pages)
    files = together([staged(pages, delivery, project, TerminalReporter()), *map(_bound, wishes)])
    _tell_keys(files)
    change = place.change(files)
    if not dry and not change.is_empty:
        place.put(files)
    _tell(name, change, dry)


def _bound(wish: Wish) -> dict[str, bytes]:
    """A volume, bound before the eyes of who is at the terminal."""
    from wornpage.cli.binding import called
    from wornpage.cli.edition_progress import Progress
    from wornpage.deliver.staging import bound
    from wornpage.volume.binding import volume_of

    volume = volume_of(wish)
    with Progress(len(volume.entries), silent=False, noun="page") as progress:
        return bound(volume, wish, progress.at, lambda entry, report: progress.done(called(entry), report))


def _place(name: str, delivery: Delivery, project: Path, pages: list[str]) -> Place:
    from wornpage.deliver.branch import Branch
    from wornpage.deliver.folder import Folder

    if sum(map(bool, (delivery.folder, delivery.branch, delivery.server))) != 1:
        raise UsageError(f"deliver: {name}: it wants a `folder:`, a `branch:` or a `server:`, and one of them alone.")
    if delivery.server:
        from wornpage.deliver.server import Server

        return Server(delivery.server)
    if delivery.folder:
        return Folder(project / Path(delivery.folder).expanduser())
    return Branch(project, delivery.remote, delivery.branch, f"Deliver {', '.join(pages)}")


def _check(pages: list[Path]) -> None:
    """Raise `PageError` for what `worn check` finds to be wrong."""
    from wornpage.check import check_page

    found = [one.problem for page in pages for one in check_page(page, str(page))]
    stop_on_errors(problem for problem in found if problem.severity is Severity.ERROR)


def _tell_keys(files: dict[str, bytes]) -> None:
    """Tell what looks like a key or a password in what is about to be read by others."""
    from wornpage.check.sharing import keys_in_output

    for name, data in files.items():
        for one in keys_in_output(name, data):
            say(str(one))


def _tell(name: str, change: Change, dry: bool) -> None:
    for sign, names in (("+", change.came), ("~", change.changed), ("-", change.went)):
        for one in names:
            typer.echo(f"{sign} {one}")
    done = "would change" if dry else "delivered"
    total = len(change.came) + len(change.changed) + len(change.went)
    say(f"{name}: {f'{done}: {total}' if total else 'nothing to do'}, {change.same} as they were")
