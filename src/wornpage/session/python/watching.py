"""What a chunk reads and writes outside its names: files, folders, environment, seeds, packages.

Python's own opens raise audit events; native readers and child processes raise none, so on Linux the project's folder
is watched by the system too. What exists or not is seen by wrapping `os.stat` and its kin.
"""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from types import FrameType
from typing import Any

from wornpage.session.commands import appends, asks_repository, given_to, may_be_missing, paths_in, sought_for_modules
from wornpage.session.eyes import Sight, eyes_on
from wornpage.session.python import ambient, imports, seeds
from wornpage.session.python.askers import Asker, asker_of, pattern_asked
from wornpage.session.python.callers import above
from wornpage.session.python.descriptors import path_of
from wornpage.session.python.mapped import Maps
from wornpage.session.python.modules import is_local
from wornpage.session.python.relay import Relay
from wornpage.session.python.wrapped import wrap_all
from wornpage.store.files import ASKED_BESIDE, FOLDER, PAGES, content, entry, listing_of, matching, names_in
from wornpage.store.repositories import repository_of, state_of

_AWAY = ("/proc/", "/sys/", "/dev/", "/tmp/pymp-", "/usr/lib", "/usr/local/lib", "/usr/share/fonts", "/usr/local/share/fonts",
         "/usr/share/fontconfig", "/usr/share/zoneinfo", "/usr/share/locale", "/usr/share/mime", "/etc/", "/lib", "/var/cache/", "/var/lib/")  # fmt: skip
"""Where the system keeps what is its own; data that people put beside it count."""
_PASSING = ("/dev/shm/psm_", "/dev/shm/sem.", "/dev/shm/pymp-", "/dev/shm/torch_", "/dev/shm/joblib_")
"""What libraries put into memory for their own processes."""


_METADATA = re.compile(r"/([^/]+?)-[^-/]+\.(?:dist-info|egg-info)(?:/|$)")


class Watcher:
    """Sees what the running chunk reads and writes."""

    reads: dict[str, str]
    """Paths that were asked for, and how: `file`, `listing`, or `absent`."""
    writes: set[str]
    environment: dict[str, str]
    imported: set[str]
    asked_for: set[str]
    """Modules that libraries have asked for while they worked for the chunk."""
    asked_of: set[str]
    """Distributions whose metadata were read, by name."""
    looked_into: set[str]
    """Files that were opened by other than the machinery of imports."""
    looked_at: set[str]
    """Files of which code may have asked what can be asked beside their content."""
    _before: dict[str, tuple[int, ...] | None]
    _old: dict[str, str]
    """What files held that the chunk read first and wrote then."""
    _listings: dict[str, list[str] | None]
    """Names in each folder when it was first looked through."""
    _matching: dict[tuple[str, str], list[str] | None]
    """The same of those that a pattern fits, by folder and pattern."""
    _sought: dict[str, set[str]]
    """Modules that were searched for, by the folders of the author's on the import path."""
    _entries: dict[str, str]
    """What lay at paths of which it was asked whether anything does: `file` or `folder`."""
    _asked: set[str]
    """Paths of which others asked than libraries that may be about to write them."""
    _made: set[str]
    """Files and folders that were not there before the chunk made them."""
    _missing: set[str]
    """What was named to other programs and was not there."""
    _repositories: dict[str, str]
    """Those that other programs may have asked, and where they stood."""
    _passing: set[str]
    """Folders with names made up by the system that anybody has made."""
    _temporary: set[str]
    """Those of them that the author's code has made."""
    _commands: list[str]
    """What other programs were begun with."""
    _explained: set[str]
    """Folders that this process has gone through in ways that Python tells of."""
    _explained_by_forked: set[str]
    _earlier: list[Sight]
    """What was seen before we last looked at files ourselves."""

    def __init__(self, folder: str, noted: frozenset[str] = frozenset(), page: str = "") -> None:
        """`noted` is what the page's code has words for (`plan.sight.Sight`); `page` is the page's file name."""
        self._page = os.path.splitext(page)[0]
        self.folder = folder
        self.noted = [kind for kind in ASKED_BESIDE if kind in noted]
        self._lists = "listings" in noted
        self.native = False
        """Whether the author's code has reached for a library of C by hand."""
        ours = os.path.dirname(os.path.dirname(os.path.dirname(os.path.abspath(__file__))))
        homes = (sys.prefix, sys.base_prefix, sys.exec_prefix)
        self.own = (ours + os.sep, os.path.dirname(os.__file__) + os.sep)
        """Where we and the standard library lie, which may be within the page's folder."""
        self.prefixes = tuple({os.path.realpath(p) + os.sep for p in homes})
        self._no_places = (os.path.dirname(ours) + os.sep, *self.prefixes)
        self._places: dict[str, str] = {}
        """Entries of the import path, with the folders that they are; empty where those are not the author's."""
        self.on = False
        self._led = False
        """Whether a path is being opened that lies in a folder given by its descriptor, of which events do not tell."""
        self.maps, self._relay = Maps(), Relay()
        self._forget()
        sys.addaudithook(self._heard)
        wrap_all(self)
        imports.watch(self)
        os.register_at_fork(before=self._will_fork, after_in_child=self._is_forked)
        self._eyes = eyes_on(folder, self._is_its, with_folders=True)

    def _forget(self) -> None:
        """Nothing has been seen yet."""
        self.reads, self.writes, self.environment = {}, set(), {}
        self.imported, self.asked_for, self.asked_of = set(), set(), set()
        self.looked_at, self.looked_into = set(), set()
        self._before, self._old, self._listings, self._entries = {}, {}, {}, {}
        self._asked, self._matching, self._sought, self._repositories = set(), {}, {}, {}
        self._made, self._missing, self._passing, self._temporary = set(), set(), set(), set()
        self._commands, self._explained, self._explained_by_forked, self._earlier = [], set(), set(), []
        self.forked = self.spawned = False
        self.network = self.placed = False
        """Whether code has asked for something of the network, and where the page's folder lies."""

    def begin(self) -> None:
        """A chunk begins: forget what was seen before."""
        self.maps.begin()
        self._drained()  # after our own looks
        self._forget()
        ambient.begin()
        self.on = True

    def end(self) -> None:
        """The chunk is over."""
        self.on = False
        for kind, what in self._relay.take():
            _TOLD[kind](self, what)
        seen = [*self._earlier, *self._drained()]
        self.writes.update(path for path in self.maps.changed() if self._counts(path))
        if not (self.spawned or self.forked or self._is_blind()):
            seen = [sight for sight in seen if sight.ours]  # the rest was somebody else
        for sight in seen:
            if sight.changed and self._counts(sight.path):
                if sight.taken_to:
                    self._taken_along(sight)
                self.writes.add(sight.path)
            elif not (sight.changed or sight.is_folder) and self._counts(sight.path):
                self._find(sight.path, "file")
        scripts = [sight.path for sight in seen if not sight.here and sight.path.endswith(".py")]
        for sight in seen:
            if sight.is_folder and not sight.changed and self._goes_through(sight, scripts):
                self._list(sight.path)

    def _goes_through(self, sight: Sight, scripts: list[str]) -> bool:
        """Whether a folder was looked through by what tells nothing of it, and not in search of modules."""
        if sight.here:
            return sight.path not in self._explained
        if not self._commands:
            return sight.path not in self._explained_by_forked and (sight.ours or self._is_blind())
        return self._lists or not sought_for_modules(sight.path, self.folder, self._commands, scripts)

    def _is_its(self, process: int) -> bool:
        """Whether a process is this one, or one that it has begun; the system does not know any more of those that ended."""
        if process == os.getpid():
            return True
        try:
            return os.getsid(process) == os.getsid(0)
        except OSError:
            return self.spawned

    def _is_blind(self) -> bool:
        """Whether this session may have opened files of which neither Python nor the system tells that it was it."""
        return not self._eyes.tell_who and (self.native or reads_natively())

    def renew(self) -> None:
        """Watch with eyes of its own, in a session that was forked."""
        self._eyes.close()
        self._relay = Relay()
        self._eyes = eyes_on(self.folder, self._is_its, with_folders=True)

    def _will_fork(self) -> None:
        if self.on:
            self._relay.make_ready()
            seeds.will_fork()

    def _is_forked(self) -> None:
        if self.on:
            self._relay.is_forked = True
            seeds.is_forked()

    @property
    def handle(self) -> int:
        """What it watches by; -1 where the system tells nothing."""
        return getattr(self._eyes, "handle", -1)

    @property
    def tells_who(self) -> bool:
        """Whether all that is read and written is known to be this session's, though others work beside it."""
        return not self._is_blind()

    def described(self) -> dict[str, Any]:
        """Files read (by kind of look and path) and written (path, content), environment read, seed used."""
        found: dict[str, dict[str, str]] = {
            kind: {} for kind in ("file", "entry", "listing", "matching", "repository", *self.noted)
        }
        for path, kind in sorted(self.reads.items()):
            short = self.short(path)
            if kind == "file" and path in self.writes:
                # Read, or added to, before it was written: that is an input, and not what a library asks of it on its way.
                if path in self._old and path in self._asked:
                    found["file"][short] = self._old[path]
            elif kind == "listing":
                found["listing"][short] = self._listed_as(path, self._listings[path])
            elif kind == "file" or not self._is_overwritten(path):
                found["file"][short] = "absent" if kind == "absent" else self._held(path)
        for (path, pattern), names in sorted(self._matching.items()):
            if self.reads.get(path) != "listing":
                found["matching"][f"{self.short(path)}\t{pattern}"] = self._listed_as(path, names)
        for folder, modules in sorted(self._sought.items()):
            pattern = _files_of(modules)
            found["matching"][f"{self.short(folder)}\t{pattern}"] = listing_of(self._names_before(folder, pattern))
        for path, what in sorted(self._entries.items()):
            if self.short(path) not in found["file"] and not self._is_overwritten(path):
                found["entry"][self.short(path)] = what
        found["repository"] = {os.path.relpath(root, self.folder): held for root, held in self._repositories.items()}
        found["file"] |= {self.short(path): "absent" for path in self._missing if content(path) == "absent"}
        looked = sorted(self.looked_at - self.writes) if self.noted else []
        for kind in self.noted:
            found[kind] |= {self.short(path): ASKED_BESIDE[kind](path) for path in looked}
        return {
            "files": found,
            "written": [[self.short(path), held] for path, held in self._left()],
            "environment": dict(sorted(self.environment.items())),
            "seed": seeds.used(),
            "spawned": self.spawned,
            "imported": sorted(self.imported),
            "asked_of": sorted(self.asked_of),
            "network": self.network,
            "placed": self.placed,
        }

    def _is_overwritten(self, path: str) -> bool:
        """Whether nobody but a library has asked what lies at a path, and that was before it wrote there."""
        return path in self.writes and path not in self._asked

    def _left(self) -> Iterator[tuple[str, str]]:
        """What the chunk has written, as it has left it: nothing of what it made and took away again."""
        for path in sorted(self.writes):
            held = content(path)
            if not (held == "absent" and path in self._made) and not (held == FOLDER and self._is_passing(path)):
                yield path, held

    def _is_passing(self, path: str) -> bool:
        """Whether a folder is one that the system has made up a name for, or lies in one."""
        while len(path) > 1 and path not in self._passing:
            path = os.path.dirname(path)
        return len(path) > 1

    def _held(self, path: str) -> str:
        """What a file holds, unless it was changed under the chunk's hands."""
        first = self._before.get(path)
        return "changed while it was read" if first is not None and first != _signature(path) else content(path)

    def effects(self) -> str:
        """What has been left in the system that only making it anew would make as it was; empty for nothing."""
        with self._looking_away():
            stays = any(os.path.isdir(path) for path in self._temporary)
        return "it made a temporary folder, which is empty at first" if stays else ""

    def _listed_as(self, path: str, names: list[str] | None) -> str:
        """What a folder held when it was first looked through, but for what the chunk had made itself and taken away again."""
        if names is None:
            return "absent"
        own = {
            name
            for name in names
            if (whole := os.path.join(path, name.rstrip("/"))) in self._made and not os.path.lexists(whole)
        }
        return listing_of([name for name in names if name not in own])

    def short(self, path: str) -> str:
        """A path relative to the page's folder where it lies below it."""
        return os.path.relpath(path, self.folder) if self._is_inside(path) else path

    # --- seeing -------------------------------------------------------------------------------

    def _heard(self, event: str, arguments: tuple[object, ...]) -> None:
        """Called for everything that Python tells of, some hundred thousand times while libraries are imported."""
        act = _HEARD.get(event)
        if act is not None and self.on:
            act(self, *arguments)

    def _asked_what_is_in(self, path: object, *_: object) -> None:
        frame = above(2)
        path = path_of(path) if isinstance(path, int) else path
        if path is None or isinstance(path, (str, bytes, os.PathLike)):
            full = self._full("." if path is None else path)
            if not self._relay.tell("gone through", full):
                self._explained.add(full)
            # What searches for modules may find is told by `imports`.
            if not (_looks_for_packages(frame) or _is_import(frame, self._is_inside(full))):
                self._list(full, self._but_the_page(full) if _is_a_hint(frame) else pattern_asked(frame))

    def _but_the_page(self, folder: str) -> str:
        """The pattern of all names in a folder but for those of the page, and of what is pressed from it."""
        own = "|".join(re.escape(f"{self._page}{suffix}") for suffix in PAGES)
        return f"(?!(?:{own})$)(?s:.*)" if folder == self.folder else "(?s:.*)"

    def _changed(self, path: object, folder: object = None) -> None:
        """Something is made, cut or taken away; `folder` is one open that it lies in, by its number."""
        if (full := self._within(path, folder)) is not None and self._counts(full):
            self._will_write(full)

    def _moved(self, old: object, new: object, from_folder: object, to_folder: object) -> None:
        full = self._within(old, from_folder)
        if full is not None and self._counts(full):
            self._takes_along(full)
        self._changed(new, to_folder)

    def _takes_along(self, full: str) -> None:
        """A file, or a folder with all in it, goes elsewhere: that is read, since it will lie there."""
        with self._looking_away():
            is_folder = os.path.isdir(full) and not os.path.islink(full)
            inside = [os.path.join(full, name) for name in os.listdir(full)] if is_folder else []
        if is_folder:
            self._list(full)
        elif not os.path.islink(full):
            self._read(full, "file")
        self._will_write(full, look_around=not self._is_known(os.path.dirname(full)))
        for path in inside:
            self._takes_along(path)

    def _taken_along(self, sight: Sight) -> None:
        """Another program has taken something elsewhere, where it can be looked at."""
        if sight.path in self.writes or self._is_within_made(sight.path):
            return
        self._asked.add(sight.path)
        if sight.is_folder:
            self.reads[sight.path] = "listing"
            self._listings[sight.path] = names_in(sight.taken_to)
        else:
            self.reads[sight.path], self._old[sight.path] = "file", content(sight.taken_to)

    def _linked(self, old: object, new: object, from_folder: object, to_folder: object) -> None:
        """A file gets a second name; it is looked at, since it is there under the new one, too."""
        if (full := self._within(old, from_folder)) is not None:
            self._read(full, "file")
        self._changed(new, to_folder)

    def _pointed(self, _: object, new: object, folder: object) -> None:
        """A name is made that points elsewhere, which is not looked at."""
        self._changed(new, folder)

    def _made_folder(self, path: object, _: object, folder: object) -> None:
        full = self._within(path, folder)
        if full is None or not self._counts(full):
            return
        is_there, asker = self._is_there(full), asker_of(above(2))
        if is_there or not asker.makes:
            self._read(full, "file")
        if not is_there:
            self._will_write(full, look_around=not asker.with_others)

    def _made_for_a_while(self, path: object, *_: object) -> None:
        self._passing.add(self._full(path))
        if _is_the_authors(above(3)):
            self._temporary.add(self._full(path))

    def _forked(self, *_: object) -> None:
        self.forked = self.spawned = True

    def executes(self, arguments: Sequence[object], for_library: bool = False) -> None:
        """Another program is begun; of what it only looks at nobody tells, so what it is given counts, but `for_library` itself."""
        self._relay.tell("begins", "")
        self.spawned = True
        texts = list(given_to(arguments))
        self._commands += texts[:1] if for_library else texts or [""]
        if for_library:
            return
        base = arguments[2] if len(arguments) > 3 and isinstance(arguments[2], (str, os.PathLike)) else ""
        whole = " ".join(texts)
        if asks_repository(whole):
            self._ask_repository(self._full(base or "."))
        missing, adds = set(may_be_missing(paths_in(texts), whole)), appends(whole)
        for path in paths_in(texts):
            full = self._full(os.path.join(base, os.path.expanduser(path)))
            if self._is_there(full) or (adds and path in missing):
                self._read(full, "file")
                if adds and self.reads.get(full) == "file":
                    with self._looking_away():
                        self._old[full] = content(full)
            elif path in missing and self._counts(full):
                self._missing.add(full)

    def _ask_repository(self, folder: str) -> None:
        with self._looking_away():
            if root := repository_of(folder):
                self._repositories.setdefault(root, state_of(root))

    def _went(self, path: object) -> None:
        """Somebody goes to a folder."""
        if (full := self._within(path, None)) is not None:
            self._read(full, "file")

    def _spawned(self, *arguments: object) -> None:
        self.executes(arguments)

    def _begins(self, _: str) -> None:
        """A process that was forked off begins another program."""
        self.spawned = True
        self._commands.append("")

    def _connected(self, *_: object) -> None:
        self.network = True
        self._relay.tell("network", "")

    def _is_connected(self, _: str) -> None:
        self.network = True

    def _loaded_native(self, *_: object) -> None:
        self.native = True

    def _opened(self, path: object, mode: object, flags: Any) -> None:
        if self._led or not isinstance(path, (str, bytes, os.PathLike)):
            return
        writing = isinstance(mode, str) and bool(set(mode) & set("wax+"))
        if mode is None and isinstance(flags, int):
            writing = bool(flags & (os.O_WRONLY | os.O_RDWR))
        full = self._full(path)
        if (told := _METADATA.search(full)) and "-packages" in full:
            self.asked_of.add(told[1])
        if not self._counts(full):
            return
        reading = (
            not writing
            or (isinstance(mode, str) and not set(mode).isdisjoint("arx"))
            or (mode is None and bool(flags & os.O_RDWR))
        )
        if reading:
            self._read(full, "file")
            if not _by_import(above(3)):
                self._looked_into(full)
        if writing:
            self._will_write(full)

    def _looked_into(self, full: str) -> None:
        if not self._relay.tell("into", full):
            self.looked_into.add(full)

    def _list(self, full: str, pattern: str = "") -> None:
        """Somebody asks for the names in a folder, or for those that a pattern fits."""
        if not self._counts(full) or self._relay.tell("listing", full) or self._is_within_made(full):
            return
        if pattern and (full, pattern) not in self._matching:
            self._matching[full, pattern] = self._names_before(full, pattern)
        elif not pattern and full not in self.reads:
            self.reads[full] = "listing"
            self._listings[full] = self._names_before(full)

    def searches(self, module: str, places: Iterable[str]) -> None:
        """Somebody searches for a module along a path."""
        for place in places:
            if not isinstance(place, str):
                continue  # nothing is searched for there
            full = place if os.path.isabs(place) else self._full(place or ".")
            folder = self._places.get(full)
            if folder is None:
                is_authors = self._counts(full) and not (full + os.sep).startswith(self._no_places)
                folder = self._places[full] = full if is_authors else ""
            if folder and not self._relay.tell("sought", f"{folder}\t{module}"):
                self._sought.setdefault(folder, set()).add(module)

    def _was_sought(self, what: str) -> None:
        """A forked process has searched for a module."""
        folder, _, module = what.partition("\t")
        self._sought.setdefault(folder, set()).add(module)

    def _names_before(self, full: str, pattern: str = "") -> list[str] | None:
        """The names in a folder, but for what the chunk has made there."""
        with self._looking_away():
            names = matching(full, pattern) if pattern else names_in(full)
        return names and [name for name in names if os.path.join(full, name.rstrip("/")) not in self._made]

    def _is_within_made(self, full: str) -> bool:
        """Whether a folder, or one around it, is of the chunk's own making: what is in it is no input."""
        while len(full) > 1 and full not in self._made:
            full = os.path.dirname(full)
        return len(full) > 1

    def _drained(self) -> list[Sight]:
        """What the system has told since; where a folder is new, it is gone through to be watched, which is no look of the chunk's."""
        with self._looking_away():
            return self._eyes.drain()

    @contextmanager
    def aside(self) -> Iterator[None]:
        """While we bring something in for the running code: none of the files that this opens is read by that code."""
        if self.on:
            self._earlier += self._drained()
        with self._looking_away():
            yield
        if self.on:
            self._earlier += [sight for sight in self._drained() if self._eyes.tell_who and not sight.here]

    @contextmanager
    def _looking_away(self) -> Iterator[None]:
        """While we look at files ourselves."""
        on, self.on = self.on, False
        try:
            yield
        finally:
            self.on = on

    def looked(self, path: object, folder: int | None = None, is_listed: bool = False) -> None:
        """Somebody asked whether `path`, or an open file, exists or what it is; `folder` is one open that it lies in.

        If it `is_listed`, a folder that was looked through has told already that it is there.
        """
        if not self.on:
            return
        full = self._within(path, folder)
        if full is not None and self._counts(full) and not self._is_the_page(full):
            asker = asker_of(above(2))
            if not (is_listed and asker.only_whether):
                self._look(full, asker)

    def _is_the_page(self, full: str) -> bool:
        """Whether a path is that of the page, or of what is pressed from it: looking at all files is no look at those."""
        folder, name = os.path.split(full)
        stem, suffix = os.path.splitext(name)
        return stem == self._page and folder == self.folder and suffix in PAGES

    def _look(self, full: str, asker: Asker) -> None:
        if asker.makes and not self._is_there(full):
            return
        if not asker.is_library:
            self._asked.add(full)
        if asker.only_whether:
            self._see(full)
        elif not self._relay.tell("look", full):
            self.looked_at.add(full)
            self.looked_into.add(full)
            self._find(full, "file")

    def _was_looked_at(self, full: str) -> None:
        """A forked process has asked what a path is."""
        self._look(full, Asker(False, False, False))

    def _was_seen(self, full: str) -> None:
        """A forked process has asked whether anything lies at a path."""
        self._look(full, Asker(True, False, False))

    def _see(self, full: str) -> None:
        """Somebody asks whether anything lies at a path."""
        if self._is_known(full) or (full in self._entries and not self._relay.is_forked):
            return
        with self._looking_away():
            what = entry(full)
        if what == "file" and not self._relay.tell("whether", full):
            self._entries[full] = what
            self.looked_at.add(full)
        elif what != "file":
            self._find(full, "file")

    def reads_mapped(self, path: str) -> None:
        """Code has used what maps a file."""
        if self._counts(path):
            self._find(path, "file")

    def saw_variable(self, name: str, value: str | None) -> None:
        """A variable of the environment was asked for; None for one that is not set."""
        if not self._relay.tell("variable", name):
            self.environment.setdefault(name, "gone" if value is None else f"={value}")

    def _was_asked_for(self, name: str) -> None:
        """A forked process has asked for a variable."""
        self.saw_variable(name, _variable(name))

    def saw_place(self) -> None:
        """Somebody asks where the page's folder lies."""
        self.placed = True
        self._relay.tell("place", "")

    def _was_placed(self, _: str) -> None:
        self.placed = True

    def write(self, path: object) -> None:
        """`path` is changed."""
        full = self._full(path)
        if self._counts(full):
            self._will_write(full)

    def _will_write(self, full: str, look_around: bool = True) -> None:
        """Note what a file is that the chunk is now about to write: what it held if the chunk has read it, and if it is new."""
        if full in self.writes or self._relay.tell("write", full):
            return
        if self.reads.get(full) == "file" and full not in self._old:
            with self._looking_away():
                self._old[full] = content(full)
        self._note_made(full)
        if look_around:
            self._read(os.path.dirname(full), "file")  # where it is to lie
        self.writes.add(full)

    def _note_made(self, full: str) -> None:
        if not self._is_there(full):
            self._made.add(full)

    def _is_there(self, full: str) -> bool:
        with self._looking_away():
            return os.path.lexists(full)

    def _read(self, full: str, kind: str) -> None:
        """Somebody reads a file, or asks for something that hangs on what it is."""
        if self._counts(full):
            self._asked.add(full)
            self._find(full, kind)

    def _find(self, full: str, kind: str) -> None:
        if self._is_known(full) or self._relay.tell("file", full):
            return
        with self._looking_away():
            signature = _signature(full)
            if signature is None:
                if not (self._is_within_made(full) and os.path.realpath(full) == full):
                    self.reads[full] = "absent"
            elif not os.path.isdir(full):
                self.reads[full] = kind
                self._before[full] = signature
            elif not self._is_around(full) and not self._is_within_made(full):
                self._entries[full] = FOLDER

    def _is_known(self, full: str) -> bool:
        """Whether it is told already what the chunk found there, or that it has made it."""
        known = full in self.reads or full in self.writes or self._entries.get(full) == FOLDER
        return known and not self._relay.is_forked

    def _full(self, path: Any) -> str:
        text = os.fsdecode(os.fspath(path))
        with self._looking_away():
            try:
                return os.path.normpath(os.path.join(_here(), text))
            except OSError:
                return text

    def _within(self, path: object, folder: object) -> str | None:
        """The whole path of what an event tells of; None where that is not told."""
        path = path_of(path) if isinstance(path, int) else path
        if not isinstance(path, (str, bytes, os.PathLike)):
            return None
        base = path_of(folder) if isinstance(folder, int) and folder >= 0 else None
        return self._full(path if base is None else os.path.join(base, os.fsdecode(os.fspath(path))))

    def _is_around(self, full: str) -> bool:
        """Whether a folder is the page's own, or one around it: those are there as long as the page is."""
        return (self.folder + os.sep).startswith(full.rstrip(os.sep) + os.sep)

    def _is_inside(self, full: str) -> bool:
        """Whether a path is the page's folder, or lies below it."""
        return full == self.folder or full.startswith(self.folder + os.sep)

    def _counts(self, full: str) -> bool:
        """Whether a path is the author's: not the interpreter's, the system's, nor ours."""
        inside = self._is_inside(full)
        if not inside and (full.startswith(self.prefixes) or _is_the_systems(full)):
            return False
        parts = full[len(self.folder) :].split(os.sep) if inside else full.split(os.sep)
        if ".worn" in parts or "__pycache__" in parts or "site-packages" in parts:
            return False
        return not full.startswith(self.own) and not full.endswith((".pyc", ".so"))


def _is_the_systems(full: str) -> bool:
    if full.startswith("/dev/shm/"):
        return full.startswith(_PASSING)
    return full.startswith(_AWAY) or "/.cache/" in full or "/.config/" in full


_AUDITED = frozenset({
    "numpy", "pandas", "matplotlib", "kiwisolver", "contourpy", "PIL", "scipy", "statsmodels", "patsy", "xxhash", "blake3",
    "msgspec", "markupsafe", "charset_normalizer",
})  # fmt: skip
"""Libraries with parts in C that open files through Python alone, so that each opening is heard."""
_BEHIND = frozenset({"PIL._imagingft", "_sqlite3", "_dbm", "_gdbm", "_ctypes_test"})
"""Parts in C that open files behind Python's back."""


def reads_natively() -> bool:
    """Whether a library is loaded that may open files without Python noticing."""
    for name, module in list(sys.modules.items()):
        if name in _BEHIND:
            return True
        file = getattr(module, "__file__", None) or ""
        if file.endswith(".so") and "-packages" in file and name.partition(".")[0] not in _AUDITED:
            return True
    return False


def _files_of(modules: set[str]) -> str:
    """A regular expression for the names of files and folders that modules may be found in."""
    return f"(?:{'|'.join(sorted(map(re.escape, modules)))})(?:\\.py|\\.pyc|\\.(?:[\\w-]+\\.)?so)?"


def _signature(path: str) -> tuple[int, ...] | None:
    try:
        found = _stat(path)
    except (OSError, ValueError):
        return None
    return (found.st_size, found.st_mtime_ns, found.st_ctime_ns, found.st_ino)


_stat, _here = os.stat, os.getcwd
_get_variable = type(os.environ).__getitem__


def _variable(name: str) -> str | None:
    try:
        return _get_variable(os.environ, name)
    except KeyError:
        return None


def _is_a_hint(frame: FrameType | None) -> bool:
    """Whether it is we who look for a name that is near to one in vain."""
    return frame is not None and frame.f_globals.get("__name__") == "wornpage.session.python.hints"


_HEARD: dict[str, Callable[..., None]] = {
    "open": Watcher._opened,
    **dict.fromkeys(("os.listdir", "os.scandir"), Watcher._asked_what_is_in),
    **dict.fromkeys(("os.remove", "os.rmdir"), Watcher._changed),
    "os.truncate": lambda watcher, path, _: watcher._changed(path),
    "os.rename": Watcher._moved,
    "os.link": Watcher._linked,
    "os.symlink": Watcher._pointed,
    "os.mkdir": Watcher._made_folder,
    "os.chdir": Watcher._went,
    "tempfile.mkdtemp": Watcher._made_for_a_while,
    "os.fork": Watcher._forked,
    **dict.fromkeys(("subprocess.Popen", "os.system", "os.posix_spawn", "os.exec", "os.spawn"), Watcher._spawned),
    **dict.fromkeys(("socket.connect", "socket.getaddrinfo"), Watcher._connected),
    "ctypes.dlopen": Watcher._loaded_native,
}
"""What is done about the events of Python's own audit."""
_TOLD: dict[str, Callable[[Watcher, str], None]] = {
    "file": lambda watcher, path: watcher._read(path, "file"),
    "look": Watcher._was_looked_at,
    "whether": Watcher._was_seen,
    "into": Watcher._looked_into,
    "listing": Watcher._list,
    "sought": Watcher._was_sought,
    "gone through": lambda watcher, path: watcher._explained_by_forked.add(path),
    "write": lambda watcher, path: watcher.writes.add(path),
    "variable": Watcher._was_asked_for,
    "network": Watcher._is_connected,
    "place": Watcher._was_placed,
    "begins": Watcher._begins,
}
"""What is done about looks of processes that were forked off."""


def _looks_for_packages(frame: FrameType | None) -> bool:
    """Whether it is the standard library that looks through the import path, the page's folder too, for what is installed."""
    return frame is not None and frame.f_globals.get("__name__") in {"importlib.metadata", "importlib_metadata"}


def _is_import(frame: Any, is_ours: bool) -> bool:
    """Whether Python's import machinery is at work a few calls up; in the page's folder asking for modules is a look."""
    for _ in range(12):
        if frame is None:
            return False
        file = frame.f_code.co_filename
        if (
            file.startswith("<frozen importlib")
            or "importlib" + os.sep + "metadata" in file
            or (file.endswith("pkgutil.py") and not is_ours)
        ):
            return True
        frame = frame.f_back
    return False


def _by_import(frame: Any) -> bool:
    """Whether it is Python's import machinery itself that acts in a frame."""
    return frame is not None and bool(frame.f_code.co_filename == "<frozen importlib._bootstrap_external>")


def _is_the_authors(frame: Any) -> bool:
    """Whether code of the page or of its project has called the standard library's way to make temporary things."""
    while frame is not None and frame.f_globals.get("__name__") == "tempfile":
        frame = frame.f_back
    name = frame.f_globals.get("__name__", "") if frame is not None else ""
    return name == "__main__" or is_local(name)
