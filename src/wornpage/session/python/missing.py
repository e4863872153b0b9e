"""What a chunk needs of the chunks before it, and only running those again can give."""

from __future__ import annotations


class MustReplay(BaseException):
    """A name can only be had by running its chunks again first. Not an `Exception`: no chunk may catch it."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name
