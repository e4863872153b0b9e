"""Who waits for what: a queue with a bound, fair among people, in which the same wish of several is one."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Literal

from msgspec import Struct

from wornpage.desk.wishes import Wish
from wornpage.desk.work import Report

_MOST = 400
"""Wishes that wait at once."""
_MOST_OF_ONE = 8
"""Of one person."""
_GRACE = 6.0
"""Seconds that somebody may be away: a page that is loaded anew comes back."""
_KEPT = 2_000
"""Wishes whose end is known."""
State = Literal["waiting", "running", "done", "failed", "stopped"]


class Full(Exception):
    """There is no room in the line; the text says whose fault that is."""


class Standing(Struct, frozen=True):
    """How a wish stands, for those who wait."""

    state: State
    ahead: int = 0
    """How many come before it."""
    part: int = 0
    parts: int = 0
    done: int = 0
    of: int = 0
    """How much of that part is done, where it tells."""
    report: Report | None = None


class Ticket:
    """A wish in the line, and who waits for it."""

    def __init__(self, wish: Wish, person: str, before: Ticket | None = None) -> None:
        self.wish, self.person = wish, person
        self.before = before
        """What came of the same wish before, until something comes of this one."""
        self.state: State = "waiting"
        self.at = (0, 0, 0, 0)
        self.report: Report | None = None
        self.watchers: dict[str, float | None] = {}
        """Who waits; since when they have been away, or None while they are there."""
        self.stop: Callable[[], None] | None = None
        """Ends it while it runs."""

    @property
    def is_over(self) -> bool:
        """Whether nothing more will come of it."""
        return self.state in {"done", "failed", "stopped"}


class Line:
    """All wishes. Every method may be called from any thread."""

    def __init__(self, changed: Callable[[str], None] = lambda key: None) -> None:
        """`changed` hears the key of a wish that stands otherwise now, or nothing where all who wait have moved."""
        self._changed = changed
        self._tickets: dict[str, Ticket] = {}
        self._wanted: dict[str, Ticket] = {}
        """What each of those who wait wants: one thing at a time."""
        self._running: list[Ticket] = []
        self._waiting: dict[str, list[Ticket]] = {}
        """By person, in the order in which people were last served."""
        self._bell = threading.Condition()
        self._over = False

    # --- those who wish ---------------------------------------------------------------------------

    def join(self, wish: Wish, person: str, watcher: str) -> Ticket:
        """Somebody wishes something, and nothing else any more. Raises `Full`."""
        with self._bell:
            ticket = self._tickets.get(wish.key)
            if ticket is None or ticket.is_over:
                self._leave(watcher)
                ticket = self._enter(wish, person)
            elif self._wanted.get(watcher) is not ticket:
                self._leave(watcher)
            ticket.watchers.setdefault(watcher, time.monotonic())
            self._wanted[watcher] = ticket
        self._changed("")
        return ticket

    def _enter(self, wish: Wish, person: str) -> Ticket:
        own = self._waiting.get(person, [])
        if len(own) >= _MOST_OF_ONE:
            raise Full("you are waiting for as many reports as one person can.")
        if sum(map(len, self._waiting.values())) >= _MOST:
            raise Full("more people are waiting than this desk can serve. Try again in a few minutes.")
        earlier = self._tickets.pop(wish.key, None)
        if earlier is not None and earlier.state == "stopped":
            earlier = earlier.before
        ticket = Ticket(wish, person, before=earlier)
        self._tickets[wish.key] = ticket
        self._waiting.setdefault(person, []).append(ticket)
        self._bell.notify()
        return ticket

    def here(self, key: str, watcher: str) -> Ticket | None:
        """Somebody looks at what they wait for; None if nobody has wished it."""
        with self._bell:
            ticket = self._tickets.get(key)
            if ticket is not None and not ticket.is_over:
                ticket.watchers[watcher] = None
                self._wanted[watcher] = ticket
            return ticket

    def away(self, key: str, watcher: str) -> None:
        """They look no more; if they do not come back, it is no longer wanted."""
        with self._bell:
            ticket = self._tickets.get(key)
            if ticket is not None and watcher in ticket.watchers:
                ticket.watchers[watcher] = time.monotonic()

    def leave(self, watcher: str) -> None:
        """They want nothing more."""
        with self._bell:
            self._leave(watcher)
        self._changed("")

    def _leave(self, watcher: str) -> None:
        ticket = self._wanted.pop(watcher, None)
        if ticket is not None:
            ticket.watchers.pop(watcher, None)
            self._drop_if_unwanted(ticket)

    def _drop_if_unwanted(self, ticket: Ticket) -> None:
        if ticket.watchers or ticket.is_over:
            return
        if ticket.state == "waiting":
            self._take_out(ticket)
            self._forget(ticket)
        elif ticket.stop is not None:
            ticket.stop()
        ticket.state = "stopped"
        if ticket.before is not None:
            self._forget(ticket)

    def _forget(self, ticket: Ticket) -> None:
        """Nothing comes of a wish; what came of the same one before, which others may look at, stands again."""
        if self._tickets.get(ticket.wish.key) is ticket:
            del self._tickets[ticket.wish.key]
            if ticket.before is not None:
                self._tickets[ticket.wish.key] = ticket.before

    def _take_out(self, ticket: Ticket) -> None:
        own = self._waiting.get(ticket.person, [])
        if ticket in own:
            own.remove(ticket)
        if not own:
            self._waiting.pop(ticket.person, None)

    def tidy(self, grace: float = _GRACE) -> None:
        """Let go of what nobody has looked at for `grace` seconds, and of the oldest ends."""
        edge = time.monotonic() - grace
        with self._bell:
            away = [(one, ticket.watchers.get(one)) for one, ticket in self._wanted.items()]
            for one, since in away:
                if since is not None and since < edge:
                    self._leave(one)
            ends = [key for key, ticket in self._tickets.items() if ticket.is_over]
            for key in ends[: max(0, len(self._tickets) - _KEPT)]:
                del self._tickets[key]

    # --- those who press --------------------------------------------------------------------------

    def next(self, stop: Callable[[], None]) -> Ticket | None:
        """The next wish, once there is one; None when all is over. `stop` ends what is pressed for it.

        It is that of the person for whom the least is being done, and who was served longest ago.
        """
        with self._bell:
            self._bell.wait_for(lambda: self._waiting or self._over)
            if self._over:
                return None
            running = [ticket.person for ticket in self._running]
            person = min(self._waiting, key=running.count)
            ticket = self._waiting[person][0]
            self._take_out(ticket)
            if person in self._waiting:
                self._waiting[person] = self._waiting.pop(person)  # to the end
            ticket.state, ticket.stop = "running", stop
            self._running.append(ticket)
        self._changed("")
        return ticket

    def told(self, ticket: Ticket, at: tuple[int, int, int, int]) -> None:
        """How far it has come."""
        ticket.at = at
        self._changed(ticket.wish.key)

    def ended(self, ticket: Ticket, report: Report) -> None:
        """What has come of it."""
        with self._bell:
            self._running.remove(ticket)
            ticket.stop = None
            ticket.report = report
            for one in ticket.watchers:
                self._wanted.pop(one, None)
            ticket.watchers.clear()
            ticket.state = "stopped" if report.stopped else "failed" if report.failed else "done"
            if ticket.state == "stopped":
                self._forget(ticket)
            ticket.before = None
        self._changed("")

    def close(self) -> None:
        """Nothing more is pressed; what waits is still there, to be kept."""
        with self._bell:
            self._over = True
            for ticket in self._running:
                if ticket.stop is not None:
                    ticket.stop()
            self._bell.notify_all()

    # --- looking ----------------------------------------------------------------------------------

    def standing(self, key: str) -> Standing | None:
        """How a wish stands; None if nobody has wished it."""
        with self._bell:
            ticket = self._tickets.get(key)
            if ticket is None:
                return None
            return Standing(ticket.state, self._ahead(ticket), *ticket.at, ticket.report)

    def _ahead(self, ticket: Ticket) -> int:
        """How many are served before it, as things stand: one of each person a round."""
        if ticket.state != "waiting":
            return 0
        own = self._waiting[ticket.person].index(ticket)
        people = list(self._waiting)
        mine = people.index(ticket.person)
        return own + sum(min(len(self._waiting[one]), own + (at < mine)) for at, one in enumerate(people) if at != mine)

    def open_wishes(self) -> list[tuple[Wish, str]]:
        """What waits or runs, and whose it is, in order."""
        with self._bell:
            return [(one.wish, one.person) for one in self._tickets.values() if one.state in {"waiting", "running"}]

    def count(self) -> tuple[int, int]:
        """How many run, and how many wait."""
        with self._bell:
            return len(self._running), sum(map(len, self._waiting.values()))
