"""Sessions that know already what all editions of a page share: forked from one that has it.

The mother session holds the values of the chunks at the top of the page that read no given values, loaded once and never
run again. It is forked only while no library has started threads of its own; otherwise sessions start empty, as ever.
"""

from __future__ import annotations

from wornpage.plan.spares import Spares
from wornpage.plan.wanted import Common, Make, Wanted
from wornpage.session.language import Session
from wornpage.session.languages import known
from wornpage.session.tasks import CannotFork
from wornpage.store.trace import Trace


class Nursery:
    """Keeps one mother session a language for a page."""

    def __init__(self, whatever_is_given: bool = False) -> None:
        self._whatever_is_given = whatever_is_given
        """Whether chunks that read given values are shared too: all sessions wanted have the same."""
        self.commons: dict[str, Common] = {}
        """By language."""
        self.asked: dict[str, int] = {}
        """How often a session was wanted: the first is not worth a mother, since there may be no second."""
        self.cannot_fork: set[str] = set()
        """Languages whose sessions this system, or a library, does not let fork."""
        self._spares = Spares()

    def child(self, wanted: Wanted, make: Make) -> tuple[Session, Common] | None:
        """A session that stands after the steps that all editions share, or was made ready; None if there is none."""
        if known(wanted.language).beforehand == "fork":
            return self._forked(wanted, make)
        if not self.wish(wanted, make):
            return None
        common = self._spares.take(wanted)
        return (common.session, common) if common else None

    def _forked(self, wanted: Wanted, make: Make) -> tuple[Session, Common] | None:
        language = wanted.language
        self.asked[language] = self.asked.get(language, 0) + 1
        shared = _shared(wanted.kept, self._whatever_is_given)
        if language in self.cannot_fork or not shared or self.asked[language] == 1:
            return None
        runs = wanted.runs(shared)
        common = self.commons.get(language)
        if common is not None and common.runs != runs[: len(common.runs)]:
            self._end_mothers()
            common = None
        try:
            if common is None:
                common = self.commons[language] = make(language, shared)
                common.runs = runs
            return common.session.fork(wanted.environment.given), common
        except CannotFork:
            self.cannot_fork.add(language)
            self._end_mothers()
            return None

    def wish(self, wanted: Wanted, make: Make) -> bool:
        """Say where a session that cannot be forked may be wanted next. Returns whether one can be made ready for that.

        It can where a page is pressed again and again, and not where each session is given other values.
        """
        if known(wanted.language).beforehand != "spare" or not self._whatever_is_given or None in wanted.kept:
            return False
        self._spares.wish(wanted, make)
        return True

    def make_ready(self) -> None:
        """Nobody waits: make what the next pressing will want."""
        self._spares.make_ready()

    def close(self) -> None:
        """End the mother sessions, and those that nobody has taken."""
        self._spares.close()
        self._end_mothers()

    def _end_mothers(self) -> None:
        for common in self.commons.values():
            common.session.close()
        self.commons.clear()


def _shared(kept: tuple[Trace | None, ...], whatever_is_given: bool) -> int:
    """How many steps at the top have traces that read no given value."""
    for place, trace in enumerate(kept):
        if trace is None or (not whatever_is_given and trace.read("given")):
            return place
    return len(kept)
