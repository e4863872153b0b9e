"""The one place where errors become words and exit statuses."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable

from wornpage.cli.say import say, say_problems
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import UsageError, WornError

_BROKEN_OFF = 130


_told_to_go: list[int] = []
"""The signal that has asked us to end."""


def _leave(number: int, frame: object) -> None:
    """Another program ends us: what we have started ends with us, as when the user breaks off."""
    _told_to_go.append(number)
    sys.exit(128 + number)


def ended(act: Callable[[], int | None]) -> None:
    """Run `act` and leave with its exit status. 0: done; 1: the page or its code is at fault; 2: the command line is."""
    signal.signal(signal.SIGTERM, _leave)
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
    except Exception as bug:
        if _told_to_go:  # in the midst of something that could not bear it
            sys.exit(128 + _told_to_go[0])
        what, hint = said_of(bug)
        say(f"worn: {what}")
        if hint:
            say(hint)
        sys.exit(1)
    if status:
        sys.exit(status)
