"""What the system tells of files opened and changed below a folder, by any process: also by readers in C and by children.

Linux has two ways. fanotify (5.13 and later, without privileges) tells which events are this process's own; inotify, which
is there otherwise, does not. Elsewhere nothing is told. Sources: the manual pages fanotify(7) and inotify(7).
"""

from __future__ import annotations

import ctypes
import os
import struct
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import NamedTuple

_ACCESS, _OPEN, _MODIFY, _MOVED_FROM, _MOVED_TO, _CREATE, _DELETE, _IS_FOLDER = (
    0x1, 0x20, 0x2, 0x40, 0x80, 0x100, 0x200, 0x40000000,
)  # fmt: skip
"""The two ways share these numbers."""
_CHANGES = _MODIFY | _MOVED_FROM | _MOVED_TO | _CREATE | _DELETE
_ALL = _ACCESS | _OPEN | _CHANGES
_CLOSED_AT_EXEC, _NON_BLOCKING = 0o2000000, 0o4000
_HERE = -100
MAX_FOLDERS = 1_500
_PASSED_OVER = frozenset({"node_modules", "site-packages"})
_COMPILED = "__pycache__"
"""Where Python puts what it has compiled: a program that opens that has gone by the source, of which only the date is asked."""


class Sight(NamedTuple):
    """A file that was opened or changed."""

    path: str
    changed: bool
    ours: bool
    """Whether it is known that this process, or one that it watches, did it."""
    is_folder: bool = False
    """Whether it is a folder: one that was made or taken away, or else one whose names were asked for."""
    here: bool = False
    """Whether it is known that it was this very process."""
    with_bytes: bool = False
    """Whether some of what the file holds was read, as far as that is told: what is mapped into memory is not."""
    taken_to: str = ""
    """Where it lies now, if it has got another name, or lay in a folder that has."""


IsOwn = Callable[[int], bool]
"""Whether a process, by its number, is one of ours; 0 stands for one that the system does not tell of."""


class Eyes:
    """Sees nothing; the two ways of Linux see more."""

    tell_who = False
    """Whether it is known of everything that this process does that it was this process."""

    def drain(self) -> list[Sight]:
        """What has been seen since the last call, each thing once."""
        return []

    def close(self) -> None:
        """See no more."""


def eyes_on(folder: str, is_own: IsOwn | None = None, with_folders: bool = False) -> Eyes:
    """The best there are for a folder and all below it.

    `is_own` says which processes are ours, this one otherwise; `with_folders` tells of those that are looked through, too.
    """
    try:
        library = ctypes.CDLL(None, use_errno=True)
        return _Fanotify(library, folder, is_own, with_folders)
    except (OSError, AttributeError):
        pass
    try:
        return _Inotify(library, folder, with_folders)
    except (OSError, AttributeError, NameError):
        return Eyes()


class _Watch(Eyes):
    """A handle that events are read from, and the folders it is told to watch."""

    def __init__(self, handle: int, folder: str) -> None:
        if handle < 0:
            raise OSError(ctypes.get_errno(), "the folder cannot be watched")
        self.handle = handle
        self.count = 0
        self._gone_through: set[str] = set()
        """Folders that were gone through because they are new: that is told to ourselves, too."""
        self._moving = ""
        """What the last event has told to have lost its name: the next one tells of the other name, if that is watched."""
        self.add_tree(folder)

    def add_tree(self, folder: str) -> None:
        """Watch a folder and those in it, but for hidden ones and the like."""
        for place, folders, _ in os.walk(folder):
            folders[:] = [name for name in folders if _counts(name)]
            self.add(place)
            self.count += 1
            if self.count >= MAX_FOLDERS:
                return

    def add(self, folder: str) -> None:
        """Watch what lies in one folder."""

    def events(self, data: bytes) -> Iterator[tuple[str, str, int, int]]:
        """Folder, name (a dot for the folder itself), kind, and the process of each event: 0 where it is not told."""
        return iter(())

    def is_own(self, process: int) -> bool:
        """Whether a process is one of ours."""
        return False

    def close(self) -> None:
        os.close(self.handle)

    def drain(self) -> list[Sight]:
        seen: dict[Sight, None] = {}
        self._gone_through.clear()
        while True:
            try:
                data = os.read(self.handle, 1 << 16)
            except OSError:
                return list(seen)
            for folder, name, kind, process in self.events(data):
                if name == "." and folder in self._gone_through and process in {0, os.getpid()}:
                    continue
                ours, here = self.is_own(process), process == os.getpid()
                told = list(self._told(folder, name, kind))
                seen |= {
                    Sight(path, changed, ours, is_folder, here, bool(kind & _ACCESS)): None
                    for path, changed, is_folder in told
                }
                if kind & _MOVED_TO and self._moving:
                    seen |= dict.fromkeys(self._taken(told, ours, here))
                self._moving = os.path.join(folder, name) if kind & _MOVED_FROM else ""

    def _taken(self, told: list[tuple[str, bool, bool]], ours: bool, here: bool) -> Iterator[Sight]:
        """What has just got another name, with all in it, as it was called before."""
        for path, changed, is_folder in told:
            before = self._moving + path[len(told[0][0]) :]
            yield Sight(before, changed, ours, is_folder, here, taken_to=path)

    def _told(self, folder: str, name: str, kind: int) -> Iterator[tuple[str, bool, bool]]:
        """What an event tells: paths, whether each has changed, and whether it is a folder."""
        path = os.path.join(folder, name)
        if _COMPILED in (name, os.path.basename(folder)):
            if kind & _OPEN and name.endswith(".pyc"):
                yield _source_of(folder, name), False, False
            if kind & _CREATE and name == _COMPILED:
                with suppress(OSError):  # it is gone already
                    self.add(path)
        elif name == ".":
            yield folder, False, True
        elif not kind & _IS_FOLDER:
            if kind & _CHANGES:
                yield path, True, False
            if kind & (_OPEN | _ACCESS):
                yield path, False, False
        else:
            yield from self._folder_told(path, kind)

    def _folder_told(self, path: str, kind: int) -> Iterator[tuple[str, bool, bool]]:
        """The same of an event of a folder: one may tell that it went and, merged into it, that it was made anew."""
        if kind & (_DELETE | _MOVED_FROM):
            yield path, True, True
        if kind & (_CREATE | _MOVED_TO) and _counts(os.path.basename(path)):
            yield path, True, True
            self.add_tree(path)
            for place, folders, files in os.walk(path):
                self._gone_through.add(place)
                yield from ((os.path.join(place, inner), True, True) for inner in folders if _counts(inner))
                yield from ((os.path.join(place, file), True, False) for file in files)


def _source_of(folder: str, name: str) -> str:
    """The source of something compiled."""
    return os.path.join(os.path.dirname(folder), name.partition(".")[0] + ".py")


def _counts(folder: str) -> bool:
    return not folder.startswith(".") and folder not in _PASSED_OVER


class _Inotify(_Watch):
    _EVENT = struct.Struct("iIII")

    def __init__(self, library: ctypes.CDLL, folder: str, with_folders: bool = False) -> None:
        self.library, self.with_folders = library, with_folders
        self.folders: dict[int, str] = {}
        super().__init__(library.inotify_init1(_CLOSED_AT_EXEC | _NON_BLOCKING), folder)

    def add(self, folder: str) -> None:
        number = self.library.inotify_add_watch(self.handle, os.fsencode(folder), _ALL)
        if number >= 0:
            self.folders[number] = folder

    def events(self, data: bytes) -> Iterator[tuple[str, str, int, int]]:
        at = 0
        while at < len(data):
            number, kind, _, length = self._EVENT.unpack_from(data, at)
            name = data[at + self._EVENT.size : at + self._EVENT.size + length].rstrip(b"\0")
            at += self._EVENT.size + length
            if not name and self.with_folders and kind & _ACCESS:
                name = b"."
            if name and number in self.folders:
                yield self.folders[number], os.fsdecode(name), kind, 0


class _Fanotify(_Watch):
    """Raises `OSError` where it is not offered: older kernels, file systems without file handles."""

    tell_who = True
    _INIT = 0x1 | 0x2 | 0x400 | 0x800  # closed at exec, non-blocking, told the folder's handle and the name
    _ADD, _ON_CHILDREN = 0x1, 0x08000000
    _FOLDER_AND_NAME = 2
    _EVENT = struct.Struct("=IBBHQii")
    _HANDLE_SIZE = 128

    def __init__(self, library: ctypes.CDLL, folder: str, is_own: IsOwn | None, with_folders: bool) -> None:
        self.library = library
        self.folders: dict[bytes, str] = {}
        self._is_own: IsOwn | None = None
        self.with_folders = False
        handle = library.fanotify_init(self._INIT, os.O_RDONLY)
        try:
            super().__init__(handle, folder)
            self._prove(folder)
            self._is_own, self.with_folders = is_own, with_folders
        except OSError:
            if handle >= 0:
                os.close(handle)
            raise

    def _prove(self, folder: str) -> None:
        """See that an event is understood, with a file that is there."""
        with os.scandir(folder) as entries:
            file = next(
                (
                    entry.path
                    for entry in entries
                    if entry.is_file(follow_symlinks=False) and os.access(entry.path, os.R_OK)
                ),
                None,
            )
        if file is None:
            return
        os.close(os.open(file, os.O_RDONLY))
        if not any(sight.path == file and sight.here for sight in self.drain()):
            raise OSError("events are not understood")

    def add(self, folder: str) -> None:
        path = os.fsencode(folder)
        kinds = ctypes.c_uint64(_ALL | _IS_FOLDER | self._ON_CHILDREN)
        if self.library.fanotify_mark(self.handle, self._ADD, kinds, _HERE, path) < 0:
            raise OSError(ctypes.get_errno(), folder)
        self.folders[self._handle_of(path)] = folder

    def _handle_of(self, path: bytes) -> bytes:
        """By what events call a folder: the kind and the bytes of its file handle."""
        made = ctypes.create_string_buffer(struct.pack("=Ii", self._HANDLE_SIZE, 0), 8 + self._HANDLE_SIZE)
        mount = ctypes.c_int()
        if self.library.name_to_handle_at(_HERE, path, made, ctypes.byref(mount), 0) < 0:
            raise OSError(ctypes.get_errno(), path)
        size, kind = struct.unpack_from("=Ii", made.raw)
        return struct.pack("=i", kind) + made.raw[8 : 8 + size]

    def is_own(self, process: int) -> bool:
        return self._is_own(process) if self._is_own else process == os.getpid()

    def events(self, data: bytes) -> Iterator[tuple[str, str, int, int]]:
        at = 0
        while at < len(data):
            length, _, _, head, kind, _, process = self._EVENT.unpack_from(data, at)
            record = at + head
            while record < at + length:
                what, _, size = struct.unpack_from("=BBH", data, record)
                if what == self._FOLDER_AND_NAME:
                    count, handle_kind = struct.unpack_from("=Ii", data, record + 12)
                    handle = struct.pack("=i", handle_kind) + data[record + 20 : record + 20 + count]
                    name = data[record + 20 + count : record + size].partition(b"\0")[0]
                    if handle in self.folders and name and (name != b"." or (self.with_folders and kind & _ACCESS)):
                        yield self.folders[handle], os.fsdecode(name), kind, process
                record += size
            at += length
