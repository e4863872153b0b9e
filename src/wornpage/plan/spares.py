"""Sessions made ready while nobody waits for them, for languages whose sessions cannot be forked.

A desk that presses a page again and again needs, as a rule, a session at the same place as the last time: where its author is at work.
One that stands there, packages attached, is made when a pressing has ended. It is used once: there, or wherever the same packages and
settings hold, if nothing had to run for it.
"""

from __future__ import annotations

from contextlib import suppress
from contextvars import copy_context
from threading import Lock, Thread

from wornpage.plan.wanted import Common, Make, Wanted


class Spares:
    """One session a language, or none."""

    def __init__(self) -> None:
        self._wishes: dict[str, tuple[Wanted, Make]] = {}
        self._beings: dict[str, _Being] = {}

    def wish(self, wanted: Wanted, make: Make) -> None:
        """Say where the next session will be wanted, and how it is made."""
        self._wishes[wanted.language] = (wanted, make)

    def take(self, wanted: Wanted) -> Common | None:
        """A session that can stand there, if there is one."""
        being = self._beings.pop(wanted.language, None)
        if being is None:
            return None
        if being.place.stands_like(wanted):
            common = being.wait()
            if common is None or not common.executed or being.place.runs() == wanted.runs():
                return common
        being.let_go()
        return None

    def make_ready(self) -> None:
        """Begin to make what was wanted last, where it is not there."""
        for language, (wanted, make) in self._wishes.items():
            being = self._beings.get(language)
            if being is not None and being.place.stands_like(wanted) and being.place.runs() == wanted.runs():
                continue
            if being is not None:
                being.let_go()
            self._beings[language] = _Being(wanted, make)

    def close(self) -> None:
        """End all that nobody has taken."""
        for being in self._beings.values():
            being.let_go()
        self._beings.clear()


class _Being:
    """A session that is being made."""

    def __init__(self, place: Wanted, make: Make) -> None:
        self.place, self._make = place, make
        self._common: Common | None = None
        self._is_wanted, self._lock = True, Lock()
        # What a thread goes by, such as the page's own Python, is that of the thread which asks.
        self._thread = Thread(target=copy_context().run, args=(self._work,), name="making a session ready", daemon=True)
        self._thread.start()

    def _work(self) -> None:
        with suppress(Exception):  # then there is none, and whoever wants one begins anew
            made = self._make(self.place.language, len(self.place.kept))
            with self._lock:
                if self._is_wanted:
                    self._common = made
                    return
            made.session.close()

    def wait(self) -> Common | None:
        """The session, once it is there; None if it could not be made."""
        self._thread.join()
        return self._common

    def let_go(self) -> None:
        """Nobody wants it any more."""
        with self._lock:
            self._is_wanted = False
            common, self._common = self._common, None
        if common is not None:
            common.session.close()
