"""What stops everything though nobody expected it: the system's refusals, and faults of Worn Page itself."""

from __future__ import annotations

import errno

_A_WEEK = 7 * 86_400
_OF_THE_SYSTEM = frozenset({
    errno.EACCES, errno.EPERM, errno.EROFS, errno.ENOSPC, errno.EDQUOT, errno.EIO, errno.ENAMETOOLONG, errno.ELOOP, errno.ENOTDIR,
    errno.EMFILE, errno.ENFILE, errno.ENOMEM, errno.ESTALE, errno.EFBIG, errno.EAGAIN, errno.EEXIST, errno.EISDIR,
})  # fmt: skip
"""What disks, rights and limits say: nobody's mistake in code."""


def said_of(bug: Exception) -> tuple[str, str]:
    """What to say of the exception being handled, and what may be done about it. Details of our own faults are kept."""
    if isinstance(bug, MemoryError):
        return "there is not enough memory for this.", ""
    if isinstance(bug, OSError) and bug.errno in _OF_THE_SYSTEM:
        where = f"{bug.filename}: " if bug.filename else ""
        return f"the system does not allow this: {where}{bug.strerror}.", ""
    what = f"a fault of Worn Page itself, not of your page: {type(bug).__name__}: {bug}"
    return what, f"Please report it, with the details in {_kept_details()}; nothing of yours has been changed."


def _kept_details() -> str:
    """The traceback of the exception being handled, written to a file; its path. Reports of more than a week ago go."""
    import tempfile
    import time
    import traceback
    from contextlib import suppress
    from pathlib import Path

    with tempfile.NamedTemporaryFile("w", prefix="worn-fault-", suffix=".txt", delete=False, encoding="utf-8") as file:
        traceback.print_exc(file=file)
    for old in Path(tempfile.gettempdir()).glob("worn-fault-*.txt"):
        with suppress(OSError):
            if time.time() - old.stat().st_mtime > _A_WEEK:
                old.unlink()
    return file.name
