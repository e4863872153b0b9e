"""Sessions that know already what all editions of a page share: forked from one that has it.

The mother session holds the values of the chunks at the top of the page that read no given values, loaded once and never
run again. It is forked only while no library has started threads of its own; otherwise sessions start empty, as ever.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from wornpage.plan.common import Common
from wornpage.plan.spares import Place, Spares
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

    def child(
        self,
        language: str,
        kept: Sequence[Trace | None],
        make: Callable[[str, int], Common],
        given: dict[str, object],
        ambient: Mapping[str, str],
    ) -> tuple[Session, Common] | None:
        """A session that stands after the steps that all editions share; None if there are none or it cannot be.

        `kept` are the traces of the steps so far, None for one that has none; `make` builds a mother of a language that
        stands after so many steps; `ambient` is what holds there beside names.
        """
        self.asked[language] = self.asked.get(language, 0) + 1
        shared = _shared(kept, self._whatever_is_given)
        if known(language).beforehand != "fork":
            return self._spare(language, kept, make, ambient)
        if language in self.cannot_fork or not shared or self.asked[language] == 1:
            return None
        runs = tuple(run_of(trace) for trace in kept[:shared] if trace)
        common = self.commons.get(language)
        if common is not None and common.runs != runs[: len(common.runs)]:
            self.close()
            common = None
        try:
            if common is None:
                common = self.commons[language] = make(language, shared)
                common.runs = runs
            return common.session.fork(given), common
        except CannotFork:
            self.cannot_fork.add(language)
            self.close()
            return None

    def _spare(
        self,
        language: str,
        kept: Sequence[Trace | None],
        make: Callable[[str, int], Common],
        ambient: Mapping[str, str],
    ) -> tuple[Session, Common] | None:
        """A session that was made ready; only where all sessions are given the same."""
        if not self.wish(language, kept, make, ambient):
            return None
        common = self._spares.take(language, _place(kept, ambient))
        return (common.session, common) if common else None

    def wish(
        self,
        language: str,
        kept: Sequence[Trace | None],
        make: Callable[[str, int], Common],
        ambient: Mapping[str, str],
    ) -> bool:
        """Say where a session that cannot be forked may be wanted next. Returns whether one can be made ready for that."""
        if known(language).beforehand != "spare" or not self._whatever_is_given or None in kept:
            return False
        self._spares.wish(language, _place(kept, ambient), lambda: make(language, len(kept)))
        return True

    def make_ready(self) -> None:
        """Nobody waits: make what the next pressing will want."""
        self._spares.make_ready()

    def close(self) -> None:
        """End the mother sessions, and those that nobody has taken."""
        self._spares.close()
        for common in self.commons.values():
            common.session.close()
        self.commons.clear()


def _place(kept: Sequence[Trace | None], ambient: Mapping[str, str]) -> Place:
    return Place(tuple(run_of(trace) for trace in kept if trace), dict(ambient))


def run_of(trace: Trace) -> str:
    """Which run a trace is of, and how its code is laid out now: errors in its functions name its lines."""
    return f"{trace.run} {trace.layout}"


def _shared(kept: Sequence[Trace | None], whatever_is_given: bool) -> int:
    """How many steps at the top have traces that read no given value."""
    for place, trace in enumerate(kept):
        if trace is None or (not whatever_is_given and trace.read("given")):
            return place
    return len(kept)
