"""What the source of a module of the project does: comments and docstrings of it are no input."""

from __future__ import annotations

from wornpage.plan.reads.file import FileRead
from wornpage.store.files import content
from wornpage.store.sources import source_form

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class SourceRead(FileRead):
    """A module of the project, as far as its source tells what it does."""

    name = "source"

    def now(self, name: str, here: Here) -> str:
        path = here.full(name)
        if here.sight is not None and here.sight.lines:
            return content(path)  # code of the page looks at lines, and sees comments too
        if name in here.files and here.files[name][0] != content(path):
            return here.files[name][0]  # a chunk writes it, and it is another now
        return source_form(path)


KIND = SourceRead()
