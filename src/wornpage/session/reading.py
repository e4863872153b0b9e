"""What arrives on a session's output pipes, cut at the sentinels and bounded in memory."""

from __future__ import annotations

from msgspec import Struct, field

KEPT = 400_000
"""Bytes of one stretch of output that are kept; of the rest only lines and bytes are counted."""


class _Stretch(Struct):
    data: bytearray = field(default_factory=bytearray)
    bytes_cut: int = 0
    lines_cut: int = 0

    def add(self, piece: bytes) -> None:
        room = KEPT - len(self.data)
        self.data += piece[:room]
        rest = piece[room:] if room < len(piece) else b""
        self.bytes_cut += len(rest)
        self.lines_cut += rest.count(b"\n")


class Written(Struct, frozen=True):
    """One stretch of output."""

    text: str
    lines_cut: int
    bytes_cut: int


class Stream:
    """One pipe: bytes in, stretches out. Memory stays bounded however much is written."""

    def __init__(self, sentinel: bytes) -> None:
        self._sentinel = sentinel
        self._tail = b""
        self._current = _Stretch()
        self._ended: list[_Stretch] = []
        self.count = 0
        """Sentinels seen so far."""

    def feed(self, data: bytes) -> None:
        """Take what was read from the pipe."""
        data = self._tail + data
        start = 0
        while (found := data.find(self._sentinel, start)) >= 0:
            self._current.add(data[start:found])
            self._end_stretch()
            start = found + len(self._sentinel)
        keep = self._possible_start(data, start)
        self._current.add(data[start:keep])
        self._tail = data[keep:]

    def _possible_start(self, data: bytes, start: int) -> int:
        """Where a sentinel may begin that has not arrived whole."""
        for size in range(min(len(self._sentinel) - 1, len(data) - start), 0, -1):
            if data.endswith(self._sentinel[:size]):
                return len(data) - size
        return len(data)

    def _end_stretch(self) -> None:
        self._ended.append(self._current)
        self._current = _Stretch()
        self.count += 1

    def take(self) -> list[Written]:
        """The stretches ended since the last call, in order."""
        ended, self._ended = self._ended, []
        return [_written(stretch) for stretch in ended]

    def take_rest(self) -> list[Written]:
        """As `take`, and what was written since the last sentinel: for a session that died."""
        self._current.add(self._tail)
        self._tail = b""
        self._end_stretch()
        return self.take()


def _written(stretch: _Stretch) -> Written:
    text = bytes(stretch.data).decode("utf-8", "replace")
    if stretch.bytes_cut:
        text = text.removesuffix("\ufffd")
        text = text[: text.rfind("\n") + 1] or text  # the line cut through is counted with the rest
    return Written(_settle(text), stretch.lines_cut, stretch.bytes_cut)


def _settle(text: str) -> str:
    """What a terminal would show in the end: a lone carriage return writes its line anew; no colour codes."""
    import re

    if "\x1b" in text:
        text = re.sub(r"\x1b(?:\[[0-?]*[ -/]*[@-~]|\][^\x07\x1b]*(?:\x07|\x1b\\)|[@-Z\\-_])", "", text)
    text = text.replace("\r\n", "\n")
    if "\r" in text:
        text = "\n".join(_overwritten(line) for line in text.split("\n"))
    text = re.sub(r"(?<=[\w'>\])]) at 0x[0-9a-fA-F]{6,16}(?=\W|$)", "", text)  # addresses differ from run to run
    return re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]", "\ufffd", text)


def _overwritten(line: str) -> str:
    parts = [part for part in line.split("\r") if part]
    shown = ""
    for part in parts:
        shown = part + shown[len(part) :]
    return shown
