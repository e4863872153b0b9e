"""What a program that runs beside us does with the files of the project, as the system tells it.

Nothing says with what intent a program opens a file. One that was there before and is another afterwards counts as read as
well as written, unless the code can only have written it (`only_written`), or the system tells that nothing was read of it. One that the code names counts as looked at, whether it
is there or not: of that nothing is told.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import NamedTuple

from wornpage.session.commands import (
    appends,
    asks,
    asks_repository,
    may_be_missing,
    sought_for_modules,
    words_beside,
    words_of,
)
from wornpage.session.eyes import Sight, eyes_on
from wornpage.store.files import ASKED_BESIDE, FOLDER, PAGES, content, listing_of, names_in
from wornpage.store.repositories import repository_of, state_of

_PASSED_OVER = frozenset({"__pycache__", "node_modules", "site-packages"})
_MOST = 50_000
"""Files of a project that are looked after."""
_SYSTEM = ("/proc/", "/dev/", "/sys/", "/usr/", "/lib", "/etc/", "/tmp/Rtmp")
_Stamp = tuple[int, int, int]


class _Tree(NamedTuple):
    """A project at one moment."""

    files: dict[str, _Stamp]
    """What tells each from what it was before."""
    folders: set[str]


class Footprints:
    """Looks after the files of one folder while one program runs at a time."""

    def __init__(self, folder: Path, page: str = "") -> None:
        """`page` is the name of a page that lies there: it, and what is pressed from it, no chunk reads or writes."""
        self._folder = str(folder)
        self._page = Path(page).stem if page else ""
        self._leader = 0
        self._known: dict[int, bool] = {}
        self._eyes = eyes_on(self._folder, self._is_its, with_folders=True)
        self._sights: dict[Sight, None] = {}
        self._strange: set[str] = set()
        """What others have changed meanwhile."""
        self._before = _Tree({}, set())
        self._named: set[str] = set()
        """Folders that were there and that the code names."""
        self._held: dict[str, str] = {}
        self._wanted: dict[str, None] = {}
        self._code, self._looks = "", False
        self._repository, self._stood = "", ""
        """One that the code asks, and where it stood."""

    @property
    def tells_who(self) -> bool:
        """Whether the system tells who did what."""
        return self._eyes.tell_who

    def begin(self, code: str, guess: bool = True) -> None:
        """A program is about to run `code`: this is how things are before.

        `guess` from the code which files it asks for that are not there; not where the program tells of it.
        """
        self._before = _tree(self._folder)
        self._sights, self._strange = {}, set()
        self._known = {}
        words = words_of(code)
        names = {word.rpartition("/")[2] for word in words}
        self._held = {path: content(path) for path in self._before.files if os.path.basename(path) in names}
        self._named = {full for word in words if (full := self._full(word)) in self._before.folders} if guess else set()
        paths = map(self._full, may_be_missing(words, code))
        self._wanted = {path: None for path in paths if guess and path and not os.path.lexists(path)}
        self._code, self._looks = code, asks(code)
        found = repository_of(self._folder) if asks_repository(code) else ""
        self._repository, self._stood = (os.path.relpath(found, self._folder), state_of(found)) if found else ("", "")
        self._eyes.drain()

    def follow(self, leader: int) -> None:
        """The program runs, and leads a session of processes of this number."""
        self._leader = leader

    def look(self) -> None:
        """Take down what has been told so far; to be called now and then, since processes that ended cannot be asked who they were."""
        for sight in self._eyes.drain():
            if sight.ours or not self._eyes.tell_who:
                self._sights[sight] = None
            elif sight.changed:
                self._strange.add(sight.path)

    def end(
        self, only_written: Iterable[str] = (), asked: Iterable[tuple[str, str]] = ()
    ) -> tuple[dict[str, dict[str, str]], tuple[tuple[str, str], ...]]:
        """Looks by kind, path and what was found; and the files and folders that were written, with what they hold now.

        `only_written` are paths, as the code has them, of files that it writes without reading them first. `asked` are looks
        that the program itself has told of, in order: `file`, `listing`, `tree` (a folder with all within), `written`, or
        `named` (to another program, which may look for it or make it), and a path.
        """
        self.look()
        now = _tree(self._folder)
        changed = self._changed(now)
        files, folders, begun = self._asked(list(asked))
        pure = begun | {self._full(path) for path in only_written}
        read, there = self._opened(changed, pure, files)
        read |= {
            self._short(path): "absent" for path in self._wanted if path not in pure and not self._is_output(path, now)
        }
        read |= self._looked_for(files - pure, changed)
        there |= {path: held for path, held in read.items() if held == FOLDER and not self._is_around(path)}
        there |= {self._short(path): FOLDER for path in self._named | (pure & self._before.folders)}
        listed = self._gone_through() | folders
        looks = {
            **self._beside({*read, *there}, listed, changed),
            "file": {path: held for path, held in read.items() if held != FOLDER},
            "entry": dict(sorted(there.items())),
            "listing": {self._name(path): self._listed(path, changed) for path in listed},
            "repository": {self._repository: self._stood} if self._repository else {},
        }
        return looks, tuple((self._short(path), content(path)) for path in sorted(changed))

    def _changed(self, now: _Tree) -> set[str]:
        """Files and folders that are not as they were, and that nobody else has changed."""
        before = self._before
        changed = {path for path in {*now.files, *before.files} if now.files.get(path) != before.files.get(path)}
        changed |= now.folders ^ before.folders
        changed -= self._strange
        changed |= {sight.path for sight in self._sights if sight.changed and not sight.is_folder}
        return {path for path in changed if self._counts(path)}

    def _opened(self, changed: set[str], pure: set[str], files: set[str]) -> tuple[dict[str, str], dict[str, str]]:
        """What files held that were opened; and of those that were written over unread, that they were there, if code may have asked."""
        before = self._before.files
        adds = appends(self._code) or not self._eyes.tell_who
        taken = {sight.path: sight.taken_to for sight in self._sights if sight.taken_to and not sight.is_folder}
        had = {sight.path for sight in self._sights if sight.with_bytes and not sight.is_folder}
        opened = {sight.path for sight in self._sights if not sight.changed and not sight.is_folder}
        read: dict[str, str] = {}
        there: dict[str, str] = {}
        for path in sorted(opened | self._held.keys() | (changed & before.keys())):
            if not self._counts(path) or os.path.isdir(path):
                continue
            if path not in changed:
                read[self._short(path)] = content(path)
            elif path not in before or path in pure:
                continue
            elif path in taken:
                read[self._short(path)] = content(taken[path])
            elif adds or path in had:
                read[self._short(path)] = self._held.get(path, "changed while it was read")
            elif self._looks or path in files:
                there[self._short(path)] = "file"
        return read, there

    def _looked_for(self, files: set[str], changed: set[str]) -> dict[str, str]:
        """What lay where the program says that it looked."""
        found: dict[str, str] = {}
        for path in sorted(files):
            if not self._counts(path):
                found[path] = content(path)
            elif path in self._before.folders:
                found[self._short(path)] = FOLDER
            elif path not in changed:
                found[self._short(path)] = content(path)
            elif path not in self._before.files:
                found[self._short(path)] = "absent"
        return found

    def _beside(self, read: set[str], listed: set[str], changed: set[str]) -> dict[str, dict[str, str]]:
        """Times and rights of what was read, or lies in a folder that was listed, if the code has words for them."""
        asked = words_beside(self._code)
        if not asked:
            return {}
        inside = {path for folder in listed for path in self._before.files if os.path.dirname(path) == folder}
        paths = ({os.path.join(self._folder, path) for path in read} | inside) - changed
        return {kind: {self._short(path): ASKED_BESIDE[kind](path) for path in sorted(paths)} for kind in asked}

    def _gone_through(self) -> set[str]:
        """Folders that were looked through, and not in search of modules."""
        files = {sight.path for sight in self._sights if not sight.changed and not sight.is_folder}
        scripts = [path for path in files if path.endswith(".py")]
        folders = {sight.path for sight in self._sights if sight.is_folder and not sight.changed}
        return {path for path in folders if not sought_for_modules(path, self._folder, (self._code,), scripts)}

    def _is_output(self, path: str, now: _Tree) -> bool:
        """Whether what was not there has been made by code that names it once, and asks for nothing."""
        is_there = path in now.files or path in now.folders
        return is_there and not self._looks and self._code.count(os.path.basename(path)) == 1

    def _asked(self, asked: list[tuple[str, str]]) -> tuple[set[str], set[str], set[str]]:
        """Files and folders that the program says it has asked for, and files that it says to have begun anew before."""
        files: set[str] = set()
        folders: set[str] = set()
        begun: set[str] = set()
        for kind, told in asked:
            path = os.path.normpath(told)
            if self._is_ours(path):
                continue
            if (
                kind == "named"
                and os.path.lexists(path)
                and not (path in self._before.files or path in self._before.folders)
            ):
                continue  # the other program has made it
            if kind == "written":
                begun |= {path} - files
            elif kind in {"file", "named"}:
                files |= {path} - begun
            else:
                folders |= {path, *(_folders_in(path) if kind == "tree" else ())}
        return files, folders, begun

    def _is_around(self, path: str) -> bool:
        """Whether a whole path is the project's folder, or one around it."""
        return (self._folder + os.sep).startswith(path.rstrip(os.sep) + os.sep)

    def _is_ours(self, path: str) -> bool:
        """Whether a path is of the system, of a program's own files, or of ours: none of the page's."""
        if path.startswith(self._folder + os.sep):
            return not self._counts(path)
        return path.startswith(_SYSTEM)

    def _name(self, path: str) -> str:
        """A folder as traces have it."""
        return "." if path == self._folder else self._short(path) if path.startswith(self._folder + os.sep) else path

    def close(self) -> None:
        """Look no more."""
        self._eyes.close()

    # --- paths --------------------------------------------------------------------------------

    def _listed(self, folder: str, changed: set[str]) -> str:
        """What a folder held before: what it holds, but for what the program has made or taken away there."""
        if folder in changed and folder not in self._before.folders:
            return listing_of(None)
        names = set(names_in(folder) or ())
        for path in changed:
            if os.path.dirname(path) == folder:
                name = os.path.basename(path)
                names -= {name, f"{name}/"}
                names |= {name} if path in self._before.files else set()
                names |= {f"{name}/"} if path in self._before.folders else set()
        return listing_of(sorted(names))

    def _full(self, path: str) -> str:
        """A path of the project's as the system knows it; empty for one outside."""
        try:
            full = os.path.normpath(os.path.join(self._folder, os.path.expanduser(path)))
        except ValueError:
            return ""
        return full if self._counts(full) else ""

    def _short(self, path: str) -> str:
        return path[len(self._folder) + 1 :]

    def _counts(self, path: str) -> bool:
        inside = path[len(self._folder) + 1 :].split(os.sep) if path.startswith(self._folder + os.sep) else [""]
        if inside == [""] or any(part.startswith(".") or part in _PASSED_OVER for part in inside):
            return False
        return (
            len(inside) > 1
            or not self._page
            or os.path.splitext(inside[0])[0] != self._page
            or not inside[0].endswith(PAGES)
        )

    def _is_its(self, process: int) -> bool:
        """Whether a process is the program's: of its session, or one of which nothing is told any more."""
        if process not in self._known:
            self._known[process] = process != os.getpid() and _session_of(process) in {self._leader, None}
        return self._known[process]


def _folders_in(path: str) -> list[str]:
    """All folders within one, but hidden ones."""
    found = []
    for place, folders, _ in os.walk(path):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        found += [os.path.join(place, name) for name in folders]
        if len(found) > _MOST:
            break
    return found


def _session_of(process: int) -> int | None:
    """The number of the session of processes that one belongs to; None if it is gone, or not told."""
    try:
        return os.getsid(process) if process else None
    except OSError:
        return None


def _tree(folder: str) -> _Tree:
    """The files and folders of a project, but hidden ones."""
    found: dict[str, _Stamp] = {}
    within: set[str] = set()
    for place, folders, files in os.walk(folder):
        folders[:] = [name for name in folders if not name.startswith(".") and name not in _PASSED_OVER]
        within.update(os.path.join(place, name) for name in folders)
        for name in files:
            if name.startswith("."):
                continue
            path = os.path.join(place, name)
            try:
                stat = os.stat(path)
            except OSError:
                continue
            found[path] = (stat.st_size, stat.st_mtime_ns, stat.st_ino)
        if len(found) > _MOST:
            break
    return _Tree(found, within)
