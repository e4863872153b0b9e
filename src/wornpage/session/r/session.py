"""The near end of an R session."""

from __future__ import annotations

import os
import re
import signal
import subprocess
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from wornpage.session import results
from wornpage.session.bounds import bound
from wornpage.session.environment import session_environment, session_variable
from wornpage.session.faults import session_fault
from wornpage.session.footprints import Footprints
from wornpage.session.language import Session
from wornpage.session.messages import Message
from wornpage.session.piped import NOWHERE, Ends, PipedSession, Running
from wornpage.session.python.crash import OURS
from wornpage.session.r import shown
from wornpage.session.r.code import asks_for_all, asks_where, only_written
from wornpage.session.r.known import Known, Told
from wornpage.session.r.where import PROGRAM, program
from wornpage.session.r.wire import Inbox, pack
from wornpage.session.tasks import (
    Answered,
    Answers,
    AtEnd,
    CannotFork,
    ChunkTask,
    Environment,
    Handed,
    MarkTask,
    MustMake,
    Position,
    Ran,
    SessionOver,
)  # fmt: skip
from wornpage.session.told import Found
from wornpage.tree.labelled import label_of

_FAR = Path(__file__).parent / "far"
_DROPPED = ("R_PROFILE", "R_PROFILE_USER", "R_ENVIRON", "R_ENVIRON_USER", "R_DEFAULT_PACKAGES")
_SEEDS = 2**31 - 1
"""R's seeds are whole numbers of its own size."""
_COARSE = ("folder", "libraries", "locale", "masks", "options", "packages", "palette", "rng", "theme", "umask")
"""Settings that any code of R is taken to read."""


_COMPILED = re.compile(r"^<bytecode: 0x[0-9a-f]+>\n?", re.MULTILINE)
"""Printed with a function once it has been called twice, and so compiled."""
_ADDRESS = re.compile(r"<(environment|pointer|bytecode): (?:0x[0-9a-f]+|\(nil\))>")


class Slot(Struct, frozen=True):
    """Stands where a figure will stand that is still drawn on."""

    number: int


class RSession(PipedSession):
    """A session of R: values are kept here, and sent when code there first asks for them."""

    leaving = 2.0
    """R takes away what it has for a while only."""

    def __init__(self, threads: int | None = None) -> None:
        self._threads = threads
        self._sentinel = os.urandom(16)
        self._footprints: Footprints | None = None
        super().__init__(self._started, Inbox())

    @property
    def sentinel(self) -> bytes:
        return self._sentinel

    def _started(self, ends: Ends) -> Running:
        kept = {name: value for name, value in session_environment(self._threads).items() if name not in _DROPPED}
        threads = {"R_DATATABLE_NUM_THREADS": str(self._threads)} if self._threads else {}
        ours = {
            "WORN_ASK": str(ends.ask), "WORN_TELL": str(ends.tell), "WORN_FAULT": str(ends.fault),
            "WORN_SENTINEL": self._sentinel.hex(),
            "WORN_FAR": str(_FAR), "LANGUAGE": "en",
        }  # fmt: skip
        return subprocess.Popen(
            [program() or PROGRAM, "--vanilla", "--no-echo", "-f", str(_FAR / "driver.R")],
            stdin=subprocess.DEVNULL, stdout=ends.out, stderr=ends.err, pass_fds=(ends.ask, ends.tell, ends.fault),
            start_new_session=True, env={**kept, **threads, **ours},
        )  # fmt: skip

    # --- what can be asked --------------------------------------------------------------------

    def open(self, environment: Environment) -> None:
        """Go to the page's folder and start with empty names. Call it once, first."""
        bound(self._process.pid, environment.memory)
        self._known = Known(environment.store)
        self._footprints = Footprints(environment.folder, environment.page)
        self._footprints.follow(self._process.pid)
        given = {name.replace("-", "_"): value for name, value in environment.given.items()}
        self._send({"do": "open", "folder": str(environment.folder), "given": given, "look": environment.look})
        try:
            self._receive({"ready"}, None)
        except SessionOver:
            raise session_fault(self._all_said()) from None

    def run(self, task: ChunkTask, at: Position = NOWHERE) -> Ran:
        """Run one chunk to its end; a name that must be made again first ends the session."""
        try:
            return super().run(task, at)
        except MustMake as missing:
            self.close()
            return Ran(results.ChunkResult((), None, 0.0), needs=missing.name)

    def answer(self, marks: Sequence[MarkTask], at: Position = NOWHERE) -> Answers:
        """What each mark finds now, and what it read."""
        assert self._footprints is not None
        asked = [
            {"place": m.place, "expression": m.expression, "format": m.format, "seed": m.seed % _SEEDS} for m in marks
        ]
        self._footprints.begin("\n".join(mark.expression for mark in marks), guess=False)
        self._known.begin("")
        self._send({"do": "marks", "marks": asked, **self._stand(at)})
        try:
            message = self._until("answers")
            self._await_sentinels(message["after"])
            self._out.take(), self._err.take()
            told = shown.several(message["answers"])
            return Answers(tuple(self._answered(mark, one) for mark, one in zip(marks, told, strict=True)))
        except MustMake as missing:
            self.close()
            return Answers((), missing.name)
        except SessionOver:
            if (words := self._last_words()).startswith(OURS):
                raise session_fault(words) from None
            raise

    def give(self, name: str, at: Position) -> Handed:
        """What a name stands for, as it goes to another language."""
        self._known.begin("")
        self._send({"do": "give", "name": name, **self._stand(at)})
        try:
            message, blobs = self._until_with("given")
        except MustMake as missing:
            self.close()
            return Handed(needs=missing.name)
        return Handed(blobs[0] if blobs else b"", "", message["trouble"] or "")

    def hold(self, at: Position, names: Sequence[str] | None = None) -> None:
        """Stand there: packages are attached, which takes the longest."""
        self._known.begin("")
        self._send({"do": "hold", **self._stand(at)})
        self._until("held")

    def tells_who(self) -> bool:
        return self._footprints is not None and self._footprints.tells_who

    def fork(self, given: Mapping[str, object], ahead: bool = False) -> Session:
        """Raises `CannotFork`: a process of R hands its open files to all its children."""
        raise CannotFork

    def _ended(self, at: Position, deadline: float) -> AtEnd:
        """R does what is left as it leaves, and asks for names meanwhile."""
        assert self._footprints is not None
        self._footprints.begin("", guess=False)
        self._known.begin("")
        self._send({"do": "end", **self._stand(at)})
        try:
            with suppress(SessionOver):
                while True:
                    self._pump(deadline)
                    while self._waiting:
                        self._heard(*self._waiting.pop(0), [])
        except MustMake as missing:
            return AtEnd(needs=missing.name)
        _, written = self._footprints.end((), [])
        printed = "".join(one.text for stream in (self._out, self._err) for one in stream.take_rest())
        return AtEnd(dict(written), printed=printed)

    def interrupt(self) -> None:
        """Interrupt the chunk that is running, and the programs that it has started; from another thread."""
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self._process.pid, signal.SIGINT)

    def _close(self, patience: float) -> None:
        """No file is looked after any more."""
        super()._close(patience)
        if self._footprints is not None:
            self._footprints.close()
            self._footprints = None

    # --- talking ------------------------------------------------------------------------------

    def _send(self, message: Message) -> None:
        self._send_bytes(pack(message))

    def _stand(self, at: Position) -> Message:
        """What the far end must be told to stand there."""
        told = self._known.stand(at)
        ambient = {item: text for item, text in at.ambient.items() if item != "masks"}
        return {**told, "ambient": ambient}

    def _ask_to_run(self, task: ChunkTask, at: Position) -> None:
        assert self._footprints is not None
        self._task = task
        self._footprints.begin(task.code, guess=False)
        self._known.begin(task.label, task.code)
        options = {"width": float(task.width), "height": float(task.height), "dpi": task.dpi}
        told = self._stand(at)
        told["ambient"] = {**told["ambient"], **({"masks": at.ambient["masks"]} if "masks" in at.ambient else {})}
        asked = {
            "label": task.label,
            "code": task.code,
            "seed": task.seed % _SEEDS,
            "options": options,
            "binds": task.binds,
            "handed": task.handed,
        }
        self._send({"do": "run", **asked, **told})

    def _text(self, text: str) -> str:
        return _ADDRESS.sub(r"<\1>", _COMPILED.sub("", text)) if "0x" in text or "(nil)" in text else text

    def _shown_from(self, item: Message, blobs: list[bytes]) -> Any:
        if item["kind"] == "slot":
            return Slot(int(item["slot"]))
        if item["kind"] in {"prose", "heading"}:
            item = {**item, "told": shown.words(item["told"])}
        if item["kind"] == "heading":
            item = {**item, "label": label_of(item["label"])}
        if item["kind"] == "cell":
            item = {**item, **shown.answer({**item, "form": ""})}
        if item["kind"] == "items":
            item = {**item, "items": [{k: v or "" for k, v in one.items()} for one in shown.several(item["items"])]}
        return results.shown_from(item, blobs)

    def _heard(self, message: Message, blobs: list[bytes], so_far: list[tuple[int, results.Shown]]) -> None:
        """What the far end wants, or tells, while code runs there."""
        match message["event"]:
            case "need":
                self._send(self._known.load(message["name"]))
            case "words":
                self._send({"marks": list(shown.marks_in(message["text"]))})
            case "formats":
                self._send({"error": shown.trouble_with(message["answers"])})
            case "sources":
                self._send({"sources": self._known.sources})
            case "table" | "model":
                so_far.append((message["after"], self._table(message)))
            case "figure":
                self._fill(so_far, int(message["slot"]), message.get("item"), blobs)
            case "value":
                self._known.take(message, blobs[0])

    def _table(self, message: Message) -> results.Shown:
        """A table that is asked for; what is wrong with it is told to the code that asks."""
        try:
            made = shown.table(message) if message["event"] == "table" else shown.model(message)
            item = results.shown_from({"kind": "table", "table": made}, [])
        except (ValueError, TypeError, KeyError, msgspec.ValidationError) as error:
            self._send({"error": str(error)})
            return results.Printed("", "output")
        self._send({"error": None})
        return item

    def _fill(
        self, so_far: list[tuple[int, results.Shown]], slot: int, item: Message | None, blobs: list[bytes]
    ) -> None:
        """Put a figure where its page began."""
        for place, (after, one) in enumerate(so_far):
            if isinstance(one, Slot) and one.number == slot:
                made: results.Shown = results.Printed("", "output")
                if item:
                    told, data = shown.figure(item, blobs[0])
                    made = results.shown_from(told, [data])
                so_far[place] = (after, made)

    def _until(self, event: str) -> Message:
        """Serve the far end until it tells this."""
        return self._until_with(event)[0]

    def _until_with(self, event: str) -> tuple[Message, list[bytes]]:
        """The same, with the bytes that came with it."""
        while True:
            while not self._waiting:
                self._pump(None)
            message, blobs = self._waiting.pop(0)
            if message["event"] == event:
                return message, blobs
            self._heard(message, blobs, [])

    def _failure(self, message: Message) -> results.Failure | None:
        return results.failure_from(shown.failure(message["error"])) if message["error"] else None

    def _pump(self, deadline: float | None) -> None:
        super()._pump(deadline)
        if self._footprints is not None:
            self._footprints.look()

    def _all_said(self) -> str:
        """What went to standard error before a session could begin."""
        return "\n".join(one.text for one in self._err.take_rest())

    # --- what was found -----------------------------------------------------------------------

    def _found(self, message: Message) -> Found:
        told, task = message["found"], self._task
        made = self._known.account(task.label, told, task.version, task.code, keep=task.keep)
        if made.together:
            for names in made.together:
                self._send({"do": "together", "names": names})
                self._until("together")
            made = self._known.settle(made)
        return self._complete(task.code, told, made)

    def _answered(self, mark: MarkTask, told: Message) -> Answered:
        made = self._known.account(mark.place, told["found"], "", mark.expression, keep=False)
        found = self._complete(mark.expression, told["found"], made)
        changed = ", ".join(sorted({*made.names, *made.deleted})) or told["found"].get("changed") or ""
        if changed or found.written:
            changed = changed or f"the file {found.written[0][0]}"
        found = msgspec.structs.replace(found, changed=changed, names={}, deleted=(), written=())
        if told.get("error"):
            failure = results.failure_from(shown.failure(told["error"]))
            return Answered(results.Answer("missing", None, failure), found)
        try:
            answer = results.answer_from(shown.answer(told["answer"]))
        except ValueError as error:
            raised = results.Raised("Error", str(error), (results.Frame(mark.place, 1, "", mark.expression),))
            answer = results.Answer("missing", None, results.Failure("Error", (raised,)))
        return Answered(answer, found)

    def _complete(self, code: str, told: Message, made: Told) -> Found:
        """Everything that code has been found to read and write."""
        assert self._footprints is not None
        looks = [(one["kind"], one["path"]) for one in shown.several(told.get("looks"))]
        files, written = self._footprints.end(only_written(code), looks)
        words = frozenset(made.words)
        variables = {
            name: value
            for name, value in shown.mapping(told.get("variables")).items()
            if f"env:{name}" in self._at_ambient or value == self._outside(name)
        }
        return Found(
            reads=made.reads,
            absent=(),
            words=tuple(sorted(words - set(made.reads))),
            sharing=made.sharing,
            listed=asks_for_all(words),
            given=tuple(shown.several(told.get("given"))),
            lines=(),
            libraries=tuple(shown.several(told.get("packages"))),
            programs=tuple(shown.several(told.get("programs"))),
            coarse=_COARSE,
            environment=variables,
            files=files,
            seed=bool(told.get("seed")),
            placed=asks_where(words),
            spawned=bool(told.get("spawned")),
            network=bool(told.get("network")),
            names=made.names,
            deleted=made.deleted,
            ambient=shown.mapping(told.get("ambient")),
            written=written,
            effects=told.get("effects") or "",
        )

    @property
    def _at_ambient(self) -> Mapping[str, str]:
        return self._known.ambient

    def _outside(self, name: str) -> str:
        """A variable as it is outside; those that R sets for itself are none of the page's."""
        value = session_variable(name, self._threads)
        return "gone" if value is None else f"={value}"
