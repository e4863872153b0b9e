"""The one place where errors become words and exit statuses."""

from __future__ import annotations

import errno
import sys
from collections.abc import Callable

from wornpage.cli.say import say, say_problems
from wornpage.tree.bugs import kept_details
from wornpage.tree.problem import UsageError, WornError

_BROKEN_OFF = 130
_OF_THE_SYSTEM = frozenset({
    errno.EACCES, errno.EPERM, errno.EROFS, errno.ENOSPC, errno.EDQUOT, errno.EIO, errno.ENAMETOOLONG, errno.ELOOP, errno.ENOTDIR,
    errno.EMFILE, errno.ENFILE, errno.ENOMEM, errno.ESTALE, errno.EFBIG, errno.EAGAIN,
})  # fmt: skip
"""What disks, rights and limits say: nobody's mistake in code."""


def ended(act: Callable[[], int | None]) -> None:
    """Run `act` and leave with its exit status. 0: done; 1: the page or its code is at fault; 2: the command line is."""
    try:
        status = act()
    except UsageError as error:
        say(f"worn: {error}")
        sys.exit(2)
    except WornError as error:
        say_problems(error.problems)
        sys.exit(1)
    except SystemExit as left:
        if left.code == _BROKEN_OFF:  # Typer's own status for Ctrl-C
            sys.exit(1)
        raise
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(1)
    except KeyboardInterrupt:
        say("worn: broken off")
        sys.exit(1)
    except MemoryError:
        say("worn: there is not enough memory for this.")
        sys.exit(1)
    except Exception as bug:
        if isinstance(bug, OSError) and bug.errno in _OF_THE_SYSTEM:
            where = f"{bug.filename}: " if bug.filename else ""
            say(f"worn: the system does not allow this: {where}{bug.strerror}.")
            sys.exit(1)
        say(f"worn: a fault of Worn Page itself, not of your page: {type(bug).__name__}: {bug}")
        say(f"Please report it, with the details in {kept_details()}; nothing of yours has been changed.")
        sys.exit(1)
    if status:
        sys.exit(status)
