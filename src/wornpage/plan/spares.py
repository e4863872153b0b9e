"""Sessions made ready while nobody waits for them, for languages whose sessions cannot be forked.

A desk that presses a page again and again needs, as a rule, a session at the same place as the last time: where its author is at work.
One that stands there, packages attached, is made when a pressing has ended. It is used once: there, or wherever the same packages and
settings hold, if nothing had to run for it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import suppress
from contextvars import copy_context
from threading import Thread

from msgspec import Struct

from wornpage.plan.common import Common

Make = Callable[[], Common | None]


class Place(Struct, frozen=True):
    """Where a session stands."""

    runs: tuple[str, ...]
    """Which runs lie before it."""
    ambient: Mapping[str, str]
    """What holds there beside names."""


class Spares:
    """One session a language, or none."""

    def __init__(self) -> None:
        self._wishes: dict[str, tuple[Place, Make]] = {}
        self._beings: dict[str, _Being] = {}

    def wish(self, language: str, place: Place, make: Make) -> None:
        """Say where the next session will be wanted, and how it is made."""
        self._wishes[language] = (place, make)

    def take(self, language: str, place: Place) -> Common | None:
        """A session that can stand there, if there is one."""
        being = self._beings.pop(language, None)
        if being is None:
            return None
        if being.place.ambient == place.ambient:
            common = being.wait()
            if common is None or being.place.runs == place.runs or not common.executed:
                return common
        being.let_go()
        return None

    def make_ready(self) -> None:
        """Begin to make what was wanted last, where it is not there."""
        for language, (place, make) in self._wishes.items():
            being = self._beings.get(language)
            if being is None or being.place != place:
                if being is not None:
                    being.let_go()
                self._beings[language] = _Being(place, make)

    def close(self) -> None:
        """End all that nobody has taken."""
        for being in self._beings.values():
            being.let_go()
        self._beings.clear()


class _Being:
    """A session that is being made."""

    def __init__(self, place: Place, make: Make) -> None:
        self.place, self._make = place, make
        self._common: Common | None = None
        self._is_wanted = True
        # What a thread goes by, such as the page's own Python, is that of the thread which asks.
        self._thread = Thread(target=copy_context().run, args=(self._work,), name="making a session ready", daemon=True)
        self._thread.start()

    def _work(self) -> None:
        with suppress(Exception):  # then there is none, and whoever wants one begins anew
            self._common = self._make()
        if not self._is_wanted:
            self._close()

    def wait(self) -> Common | None:
        """The session, once it is there; None if it could not be made."""
        self._thread.join()
        return self._common

    def let_go(self) -> None:
        """Nobody wants it any more."""
        self._is_wanted = False
        if not self._thread.is_alive():
            self._close()

    def _close(self) -> None:
        common, self._common = self._common, None
        if common is not None:
            common.session.close()
