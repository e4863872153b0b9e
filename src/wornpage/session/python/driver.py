"""The far end of a Python session: waits for chunks, runs them, tells what they show.

Started as a process of its own by `session.process`. It imports the standard library alone until a chunk
itself has brought in more, so that a session is ready in the time Python needs to start.
"""

from __future__ import annotations

import os
import sys
import time
from typing import Any

from wornpage.session.messages import Message, pack, read_message
from wornpage.session.python import crash, hooks, seeds
from wornpage.session.python.errors import describe_error
from wornpage.session.python.given import Given
from wornpage.session.python.running import compile_chunk, run_compiled
from wornpage.session.python.streams import Streams
from wornpage.session.python.values import scalar


class Driver:
    """One session: its names, its streams and the loop over what it is asked."""

    def __init__(self, inbound: int, outbound: int, sentinel: bytes) -> None:
        self._in = os.fdopen(inbound, "rb")
        self._out = os.fdopen(outbound, "wb", buffering=0)
        self.streams = Streams(sentinel)
        self.names: dict[str, Any] = {}
        self.options: Message = {}

    def start(self) -> None:
        """Say that the session is ready, then answer until the other end closes."""
        hooks.install()
        while (request := read_message(self._in.read)) is not None:
            message, _ = request
            getattr(self, f"_do_{message['do']}")(message)

    def send(self, message: Message, blobs: tuple[bytes, ...] = ()) -> None:
        """Tell the other end something."""
        data = memoryview(pack(message, blobs))
        while data:
            data = data[os.write(self._out.fileno(), data) :]

    def show(self, item: Message, *blobs: bytes) -> None:
        """Tell of something a chunk shows, in its place among what it prints."""
        self.send({"event": "shown", "item": item, "after": self.streams.mark()}, blobs)

    # --- what can be asked --------------------------------------------------------------------

    def _do_open(self, message: Message) -> None:
        from wornpage.session.python.running import main_module

        os.chdir(message["folder"])
        sys.path.insert(0, message["folder"])
        sys.argv = [message["page"]]
        self.names = main_module().__dict__
        self.names["given"] = Given(message["given"])
        self.send({"event": "ready"})

    def _do_run(self, message: Message) -> None:
        from wornpage.session.python import figures, notices, showing

        self.options = message["options"]
        crash.begin(message["label"])
        seeds.plant(message["seed"])
        notices.begin(self.show)
        figures.begin(self)
        begun = time.perf_counter()
        error: Message | None = None
        try:
            compiled = compile_chunk(message["code"], message["label"])
            value = run_compiled(compiled, self.names)
            showing.show_value(value, self)
            figures.show_open(self)
        except BaseException as raised:
            error = describe_error(raised, sys.exc_info()[2])
            figures.show_open_after_error(self)
        seconds = time.perf_counter() - begun
        figures.end(self)
        crash.end()
        self.send({"event": "done", "error": error, "seconds": seconds, "after": self.streams.mark()})

    def _do_marks(self, message: Message) -> None:
        answers = []
        for mark in message["marks"]:
            crash.begin(mark["place"])
            answers.append(self._answer(mark))
            crash.end()
        self.send({"event": "answers", "answers": answers, "after": self.streams.mark()})

    def _answer(self, mark: Message) -> Message:
        try:
            code = compile(mark["expression"], mark["place"], "eval")
            return scalar(eval(code, self.names), mark["format"])
        except BaseException as raised:
            return {"error": describe_error(raised, sys.exc_info()[2])}


def main(arguments: list[str]) -> None:
    """Run a session on the two pipes and with the sentinel that the starting process gave."""
    inbound, outbound, fault = map(int, arguments[:3])
    for handle in (inbound, outbound, fault):
        os.set_inheritable(handle, False)
    crash.install(fault)
    Driver(inbound, outbound, bytes.fromhex(arguments[3])).start()
