"""How a talk stands: the slide, the step, and all that was drawn; checked, since it comes over a network."""

from __future__ import annotations

from typing import Any

from wornpage.output.slides.drawn import stroke_in, strokes_in

_MOST_NUMBERS = 3_000_000
"""Of all that is drawn; as a file of drawings may hold."""
_MOST_BOARDS = 500


class Unfit(Exception):
    """A message that no speaker's page sends."""


class Standing:
    """What whoever comes late is told."""

    def __init__(self, labels: list[str]) -> None:
        self.labels = frozenset(labels)
        self.count = len(labels)
        self.state: dict[str, Any] | None = None
        self.slides: dict[str, list[dict[str, Any]]] = {}
        self.boards: list[list[dict[str, Any]]] = []

    def everything(self) -> dict[str, Any]:
        """All of it."""
        return {"state": self.state, "drawn": {"slides": self.slides, "boards": self.boards}}

    def take(self, message: Any) -> tuple[str, dict[str, Any]]:
        """Take what the speaker has done; the event and the data to tell others. Raises `Unfit`."""
        try:
            if "state" in message:
                self.state = self._state(message["state"])
                return "state", {"state": self.state}
            return "drawn", {"drawn": self._drawn(message["drawn"])}
        except (KeyError, TypeError, ValueError, AttributeError, IndexError) as error:
            raise Unfit(str(error)) from None

    def _state(self, found: Any) -> dict[str, Any]:
        at, step, board = int(found["at"]), int(found["step"]), int(found.get("board", -1))
        if not (0 <= at < self.count and 0 <= step < 10_000 and -1 <= board < _MOST_BOARDS):
            raise ValueError(found)
        return {"at": at, "step": step, "black": bool(found.get("black")), "board": board}

    def _drawn(self, found: Any) -> dict[str, Any]:
        """What was drawn on a slide or a board; strokes that are still being drawn are passed on and not kept."""
        if "everything" in found:
            raise ValueError("everything is told piece by piece")
        name = str(found["name"])
        board = int(name.removeprefix("board:")) if name.startswith("board:") else -1
        if not (0 <= board < _MOST_BOARDS or name in self.labels):
            raise ValueError(name)
        if "strokes" not in found:
            return {"name": name, "live": stroke_in(found["live"])}
        strokes = strokes_in(found["strokes"])
        self._keep(name, board, strokes)
        return {"name": name, "strokes": strokes}

    def _keep(self, name: str, board: int, strokes: list[dict[str, Any]]) -> None:
        kept = {key: many for key, many in self.slides.items() if key != name}
        others = [many for at, many in enumerate(self.boards) if at != board]
        count = sum(len(one["p"]) for many in (strokes, *kept.values(), *others) for one in many)
        if count > _MOST_NUMBERS:
            raise ValueError("more is drawn than a talk can hold")
        if board < 0:
            self.slides[name] = strokes
            return
        while len(self.boards) <= board:
            self.boards.append([])
        self.boards[board] = strokes
