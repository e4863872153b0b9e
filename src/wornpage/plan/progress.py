"""How far a walk over a page has come."""

from __future__ import annotations

from wornpage.plan.languages import spoken
from wornpage.plan.state import State
from wornpage.plan.steps import Step
from wornpage.store.trace import Trace


class Progress:
    """The steps of a page, and what has become of those that the walk has passed."""

    def __init__(self, steps: list[Step], first: State) -> None:
        self.steps = steps
        """Which become more as inserts become known."""
        self.state = first
        """What holds after the steps so far."""
        self.before: list[State] = []
        """The state before each step."""
        self.kept: dict[int, Trace] = {}
        """The trace that each step went by."""
        self.seeds: dict[int, int] = {}

    def begin(self) -> None:
        """The next step begins."""
        self.before.append(self.state.copy())

    def take(self, index: int, trace: Trace) -> None:
        """A step did what `trace` tells."""
        self.kept[index] = trace
        self.state.apply(trace, index)

    def language(self, index: int) -> str:
        """The language of the chunk of a step."""
        chunk = self.steps[index].chunk
        assert chunk is not None
        return spoken(chunk)

    def state_before(self, index: int) -> State:
        """The state before a step, or after the last one."""
        return self.before[index] if index < len(self.before) else self.state

    def rename(self, old: str, new: str, names: tuple[str, ...]) -> None:
        """What one run made has been made again by another: whoever has made it so need not load it."""
        for state in (*self.before, self.state):
            for world in state.worlds.values():
                for name in names:
                    entry = world.names.get(name)
                    if entry is not None and entry.version == old:
                        entry.version = new
        for trace in self.kept.values():
            if trace.run == old:
                trace.run = new
