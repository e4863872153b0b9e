"""What code of the page leaves for the end of its session, as a script does for the end of the process: doing it, and going.

Functions given to `atexit`, files that are still open for writing, and things that clean up as they go. A session that is thrown
away does none of it, for it will be done where the chunks run again; folders for a while are taken away all the same.
"""

from __future__ import annotations

import atexit
import fcntl
import gc
import os
import signal
import stat
import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from typing import Any

from wornpage.session.python.missing import MustReplay
from wornpage.session.python.registries import exits

_leave, _fstat = signal.raise_signal, os.fstat
"""As they are before code of the page could change them."""
_VAIN = 32
"""Numbers in a row that are no descriptors, after which none is looked for."""


def is_left(own: Iterable[int]) -> bool:
    """Whether something is left for the end; files whose descriptors are our `own` do not count."""
    return bool(exits() or _finalizers()) or _waits_for_threads() or _writes_files({0, 1, 2, *own})


def is_one_for_all(own: Iterable[int]) -> bool:
    """Whether sessions that are forked from this one may leave to it what is left: things that it takes away, and nothing else."""
    return not exits() and not _writes_files({0, 1, 2, *own})


def _finalizers() -> list[Any]:
    """What is to be done when some objects go, at the latest at the end."""
    finalizers: Any = getattr(sys.modules.get("weakref"), "finalize", None)
    known = [] if finalizers is None else list(finalizers._registry.items())
    return [(one, info) for one, info in known if info.atexit]


def _waits_for_threads() -> bool:
    threading: Any = sys.modules.get("threading")
    return threading is not None and any(
        not one.daemon for one in threading.enumerate() if one is not threading.main_thread()
    )


def _writes_files(own: set[int]) -> bool:
    """Whether a file is open for writing: what is still to be written to it is written when it is closed."""
    return any(_mode(handle) & (os.O_WRONLY | os.O_RDWR) for handle in _files() if handle not in own)


def _files() -> Iterator[int]:
    """Descriptors of open files, one by one: listing them would be told to the page, if it listens to what Python does."""
    handle = vain = 0
    while vain < _VAIN:
        try:
            is_file = stat.S_ISREG(_fstat(handle).st_mode)
        except OSError:
            is_file, vain = False, vain + 1
        else:
            vain = 0
        if is_file:
            yield handle
        handle += 1


def _mode(handle: int) -> int:
    return fcntl.fcntl(handle, fcntl.F_GETFL)


def carry_out(names: dict[str, Any], let_go: Callable[[], None]) -> tuple[str, list[str]]:
    """Do what Python does at the end of a script: wait for threads, call what is to be called, let go of all `names`.

    `let_go` drops what else holds them. Returns a name that has to be made again first, and what went wrong, in words.
    """
    needs: list[str] = []
    troubles: list[str] = []

    def note(told: Any) -> None:
        if isinstance(told.exc_value, MustReplay):
            needs.append(told.exc_value.name)
        else:
            troubles.append(f"{told.exc_type.__name__}: {told.exc_value}")

    before, sys.unraisablehook = sys.unraisablehook, note
    try:
        if "threading" in sys.modules:
            sys.modules["threading"]._shutdown()
        atexit._run_exitfuncs()
        if not needs:
            _let_go(names, let_go)
    finally:
        sys.unraisablehook = before
    return (needs[0] if needs else ""), troubles


def _let_go(names: dict[str, Any], let_go: Callable[[], None]) -> None:
    """One after the other, so that what is done as one goes still finds those below it."""
    let_go()
    for name in list(dict.keys(names)):
        if not name.startswith("__"):
            dict.pop(names, name, None)
    gc.collect()


def go(own: Iterable[int]) -> None:
    """Be gone at once, without what the page has left: nobody waits for it, or somebody else does it; `own` as above."""
    with suppress(Exception):
        if is_left(own):
            _drop_what_is_for_a_while()
        if not exits():
            atexit._run_exitfuncs()
    _leave(signal.SIGKILL)


def _drop_what_is_for_a_while() -> None:
    """Take away files and folders that are there for a while only."""
    known: Any = sys.modules.get("tempfile")
    if known is None:
        return
    for one, info in _finalizers():
        if info.func == known.TemporaryDirectory._cleanup:
            one()
    for file in [one for one in gc.get_objects() if type(one) is getattr(known, "_TemporaryFileCloser", None)]:
        with suppress(Exception):
            file.close()
