"""What folders hold at a place of the page: as the disk has it now, but for what the chunks above have made or taken away.

The disk is as the whole page has left it, which need not be as it was in the middle.
"""

from __future__ import annotations

from wornpage.store.files import FOLDER, names_in

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterator

    from wornpage.plan.reads.here import Here


def names_at(folder: str, here: Here) -> list[str] | None:
    """The names in a folder as `store.files.names_in` gives them; None if there is no folder."""
    on_disk = names_in(here.full(folder))
    found = {name.rstrip("/"): name for name in on_disk or ()}
    for path, held in _below(folder, here):
        first, _, deeper = path.partition("/")
        if deeper and held != "absent" and ":" not in held:
            found[first] = f"{first}/"
        elif held == "absent" and not deeper:
            found.pop(first, None)
        elif not deeper and ":" not in held:  # or it is not known yet
            found[first] = first + "/" * (held == FOLDER)
    is_gone = here.files.get(folder, ("", 0))[0] == "absent" if here.files else False
    return None if is_gone or (on_disk is None and not found) else sorted(found.values())


def _below(folder: str, here: Here) -> Iterator[tuple[str, str]]:
    """Files and folders that the chunks above have made or taken away in a folder, by their paths within it."""
    lead = "" if folder == "." else f"{folder.rstrip('/')}/"
    for path, (held, _) in here.files.items():
        if path.startswith(lead) and path != folder and (lead or not path.startswith(("/", "../"))):
            yield path[len(lead) :], held
