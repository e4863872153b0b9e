"""The far end of a Python session: waits for chunks, runs them, tells what they show, read and wrote.

Started as a process of its own by `session.process`. It imports the standard library alone until something must be
fingerprinted, so that a session is ready in the time Python needs to start.
"""

from __future__ import annotations

import gc
import os
import signal
import sys
import time
from collections.abc import Iterable
from contextlib import suppress
from types import FunctionType, MethodType
from typing import TYPE_CHECKING, Any

from wornpage.session.messages import Message, pack, read_message
from wornpage.session.python import ambient, crash, endings, hooks, inner, look, seeds
from wornpage.session.python.atoms import home_of, is_a
from wornpage.session.python.effects import begin_session
from wornpage.session.python.errors import describe_error
from wornpage.session.python.given import Given
from wornpage.session.python.imports import packages_behind
from wornpage.session.python.names import names_in
from wornpage.session.python.registries import exits
from wornpage.session.python.running import compile_chunk, run_compiled
from wornpage.session.python.streams import Streams
from wornpage.session.python.values import scalar
from wornpage.tree.older import beside

if TYPE_CHECKING:
    from wornpage.store.blobs import Blobs


_HANDED_OVER = 400_000_000
"""Bytes of a value that may go through a pipe."""


class Driver:
    """One session: its names, its streams and the loop over what it is asked."""

    def __init__(self, inbound: int, outbound: int, sentinel: bytes, channel: int | None = None) -> None:
        self._open(inbound, outbound)
        self.streams = Streams(sentinel)
        self.channel = channel
        """A socket over which this session is handed the ends of one that is forked from it."""
        self.options: Message = {}
        self.blobs: Blobs | None = None
        self.handed: dict[str, bytes] = {}
        """By name: values that the chunk takes over from other languages."""
        self.left_in_databases, self.fleeting = "", ""
        self.states: dict[str, str] = {}
        self.is_ahead = False
        """Whether it runs chunks before it is their turn."""
        self.is_ending = False
        """Whether what is left for the end has been done."""
        self._exits = 0
        """How many functions were to be called at the end when the chunk began."""
        self._inherited: list[tuple[str, object]] = []

    def _open(self, inbound: int, outbound: int) -> None:
        # They end with the process: Python is not to warn the page of pipes that are let go of.
        self._in = os.fdopen(inbound, "rb", closefd=False)
        self._out = os.fdopen(outbound, "wb", buffering=0, closefd=False)

    def start(self) -> None:
        """Answer until the other end closes."""
        hooks.install()
        begin_session()
        while (request := read_message(self._in.read)) is not None:
            message, blobs = request
            self.handed = dict(beside(message.get("handed", ()), blobs))
            getattr(self, f"_do_{message['do']}")(message)
        if self.blobs is not None:
            self.blobs.settle()
        if self.is_ahead:
            from wornpage.session.python.turns import end

            end()  # what is to be done at the end is the mother's
        if not self.is_ending:
            endings.go(self._handles() if self.blobs is not None else ())

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
        from wornpage.session.python.account import Reaches
        from wornpage.session.python.compiled import compile_anew
        from wornpage.session.python.fingerprint import look_at_lines
        from wornpage.session.python.modules import set_folder
        from wornpage.session.python.sharing import count_atoms
        from wornpage.session.python.tracker import Tracker
        from wornpage.session.python.watching import Watcher
        from wornpage.store.blobs import Blobs

        folder = message["folder"]
        os.chdir(folder)
        sys.path.insert(0, folder)
        sys.argv = [message["page"]]
        set_folder(folder)
        compile_anew()
        if message["look"] == "page":
            look.wear()
        ambient.install(folder)
        self.blobs = Blobs(message["store"], in_background=True)
        self.tracker = Tracker(self.blobs)
        self.reaches = Reaches()
        self.noted = frozenset(message["noted"])
        self.look: str = message["look"]
        count_atoms("identity" in self.noted)
        look_at_lines("lines" in self.noted)
        self.watcher = Watcher(folder, self.noted, message["page"])
        self.given = Given(message["given"])
        self.tracker.given = self.given
        self.tracker.aside = self.watcher.aside
        dict.__setitem__(self.tracker.names, "given", self.given)
        _offer_page(self)
        self.send({"event": "ready"})

    def _do_hold(self, message: Message) -> None:
        """Load every name, or some, so that sessions forked from this one have it."""
        from wornpage.session.python.missing import MustReplay

        self._position(message)
        self.tracker.begin(watch=False)
        names = message["names"]
        for name in list(self.tracker.table) if names is None else names:
            with suppress(MustReplay, KeyError):
                self.tracker.hold(name)
        if names is not None:
            self.send({"event": "held"})
            return
        self.tracker.begin()  # what the modules look like is found out once for all
        gc.collect()
        gc.freeze()  # or the first collection in a forked session would go through, and copy, everything there is
        self.send({"event": "held"})

    def _do_fork(self, message: Message) -> None:
        """Become two: the new session goes on with ends of its own, this one as before."""
        from wornpage.session.python import forking

        assert self.channel is not None
        ends, is_ahead = forking.receive(self.channel), bool(message["ahead"])
        forking.forget_ended()
        may_part = self._may_part(ends) if is_ahead else self._may_leave_the_end(ends)
        pid = self._parted(is_ahead) if forking.is_safe() and may_part else None
        if pid != 0:
            forking.close(ends)
            self.send({"event": "forked", "pid": pid or 0})
            return
        self._begin_anew(ends, message)

    def _parted(self, is_ahead: bool) -> int | None:
        """The number of the new process, and 0 in it; None if there is no room for one."""
        from wornpage.store.blobs import forked, forked_apart

        assert self.blobs is not None
        try:
            if is_ahead:
                return forked_apart()
            self.blobs.settle()
            return forked()
        except OSError:
            return None

    def _begin_anew(self, ends: list[int], message: Message) -> None:
        """Be the new session."""
        from wornpage.session.python import forking

        assert self.channel is not None
        is_ahead = bool(message["ahead"])
        forking.leave_the_end_to_the_mother()
        inbound, outbound, channel = forking.settle_in(ends, self.streams, is_child=not is_ahead)
        for end in (self._in, self._out):  # they are the mother's
            os.close(end.fileno())
        self._open(inbound, outbound)
        os.close(self.channel)
        self.channel = channel
        ambient.begin_with(message["variables"])
        self.watcher.renew()
        self.given._replace(message["given"])
        if is_ahead:
            from wornpage.session.python.turns import end_with

            end_with(self.channel)
            self._wait_for_turns()

    def _may_part(self, ends: list[int]) -> bool:
        """Whether one forked from this session, with these ends, may run chunks ahead of their turn."""
        from wornpage.session.python.turns import shares_nothing

        return self.watcher.tells_who and shares_nothing((*ends, *self._handles()))

    def _handles(self) -> tuple[int, ...]:
        """Descriptors of this session that are none of the page's."""
        assert self.blobs is not None
        channel = () if self.channel is None else (self.channel,)
        own = (self._in.fileno(), self._out.fileno(), *channel, crash.fault(), self.watcher.handle)
        return (*own, *self.streams.copies, *self.blobs.writers)

    def _is_left(self) -> bool:
        """Whether code of the page has left something for the end of the session."""
        return endings.is_left(self._handles())

    def _may_leave_the_end(self, ends: Iterable[int]) -> bool:
        """Whether one forked from this session, with these ends, may go on in its place."""
        return endings.is_one_for_all((*ends, *self._handles()))

    def _do_end(self, message: Message) -> None:
        """Do what is left for the end, where the page ends; the process ends as any other, once the other end has closed."""
        self._position(message)
        seeds.plant(0)
        self.tracker.begin(watch=False)
        self.given._begin()
        self.watcher.begin()
        needs, troubles = endings.carry_out(self.tracker.names, self.tracker.held.clear)
        self.watcher.end()
        self.is_ending = not needs
        found = {"files": dict(self.watcher.described()["written"]), "needs": needs, "troubles": troubles}
        self.send({"event": "ended", "found": found, "after": self.streams.mark()})

    def _do_seal(self, message: Message) -> None:
        """Run chunks ahead of their turn from now on, in a session that is nobody's."""
        self._wait_for_turns()
        self.send({"event": "sealed"})

    def _wait_for_turns(self) -> None:
        """Run chunks ahead of their turn from now on. Nothing that was made before ends here: it is the mother's to end it."""
        from wornpage.session.python.turns import wait_for_turns

        assert self.blobs is not None
        self.is_ahead = True
        self._inherited = list(self.tracker.held.values())
        gc.freeze()
        self.blobs.forget_writers()
        self.blobs.outlet = self._hand_over
        wait_for_turns()

    def _hand_over(self, address: str, data: memoryview) -> None:
        """Have the other end store a blob: a session that runs ahead of its turn writes nothing itself."""
        if data.nbytes > _HANDED_OVER:
            from wornpage.session.python.turns import end

            end()
        self.send({"event": "kept", "address": address}, (bytes(data),))

    def _position(self, message: Message) -> dict[str, str]:
        """Take over what the near end knows of names and surroundings at this place of the page; returns what of those is not as it was first."""
        for name in message["gone"]:
            self.tracker.table.pop(name, None)
        self.tracker.table.update(message["table"])
        self.tracker.let_go()
        if message["order"] is not None:
            known = self.tracker.table
            self.tracker.table = {name: known[name] for name in message["order"]}
        return ambient.put(message["ambient"])

    def _do_run(self, message: Message) -> None:
        from wornpage.session.python import figures, notices, showing
        from wornpage.session.python.missing import MustReplay

        self.options = message["options"]
        before = self._position(message)
        crash.begin(message["label"])
        seeds.plant(message["seed"])
        self.tracker.begin()
        self.given._begin()
        notices.begin(self.show)
        figures.begin(self)
        self.watcher.begin()
        self._exits = len(exits())
        begun = time.perf_counter()
        error: Message | None = None
        needs = self.left_in_databases = self.fleeting = ""
        self.states = {}
        try:
            if message["query"]:
                self._run_query(message)
                return self._finish(message, before, None, "", begun)
            compiled = compile_chunk(message["code"], message["label"])
            self.tracker.bring_what_ends(names_in(compiled.body))
            self._take_over()
            value = run_compiled(compiled, self.tracker.names)
            if message["binds"]:
                from wornpage.session.python.binding import show_items

                show_items(value, message["label"], message["binds"], self)
            elif not compiled.is_hidden and not showing.is_of_drawing(compiled.caller, value, self.tracker.names):
                showing.show_value(value, self)
            figures.show_open(self)
        except MustReplay as missing:
            needs = missing.name
        except BaseException as raised:
            error = _refused(raised, message["label"]) or describe_error(raised, sys.exc_info()[2])
            raised.__traceback__ = None
            figures.show_open_after_error(self)
        value = None
        return self._finish(message, before, error, needs, begun)

    def _finish(
        self, message: Message, before: dict[str, str], error: Message | None, needs: str, begun: float
    ) -> None:
        """Tell what came of a chunk that has come to its end."""
        from wornpage.session.python import figures
        from wornpage.session.python.missing import MustReplay

        seconds = time.perf_counter() - begun
        figures.end(self)
        try:
            found = {} if needs else self._account(message, before, error)
        except MustReplay as missing:
            needs, found = missing.name, {}
        except Exception as raised:
            if not _is_of_the_page(raised):
                raise
            error, found = {**describe_error(raised, sys.exc_info()[2]), "kind": "crash"}, {}
            told = error["chain"][-1]
            told["message"] = f"a value does not let itself be looked at: {told['kind']}: {told['message']}"
        crash.end()
        done = {"event": "done", "error": error, "needs": needs, "seconds": seconds, "found": found,
                "writing": self.blobs is not None and self.blobs.is_writing,
                "left": self._is_left(), "leaves": len(exits()) > self._exits}  # fmt: skip
        self.send({**done, "after": self.streams.mark()})

    def _take_over(self) -> None:
        """Names that the chunk takes over from other languages stand for what they stood for there."""
        if self.handed:
            from wornpage.session.crossing import CannotCross
            from wornpage.session.crossing.taking import taken

            for name, data in self.handed.items():
                try:
                    self.tracker.names[name] = taken(data)
                except CannotCross as reason:
                    raise CannotCross(f"{name!r} cannot come over from another language: {reason}") from None

    def _do_give(self, message: Message) -> None:
        """Tell what a name stands for, as it goes to another language."""
        from wornpage.session.crossing import CannotCross
        from wornpage.session.crossing.telling import told
        from wornpage.session.python.missing import MustReplay

        self._position(message)
        self.tracker.begin(watch=False)
        needs, trouble, data = "", "", b""
        try:
            data = told(self.tracker.names[message["name"]])
        except MustReplay as missing:
            needs = missing.name
        except KeyError:
            trouble = "it is not there"
        except CannotCross as reason:
            trouble = str(reason)
        self.send({"event": "given", "needs": needs, "trouble": trouble}, (data,) if data else ())

    def _run_query(self, message: Message) -> None:
        """Run a chunk of SQL, and show what its last statement found."""
        from wornpage.session.python.effects import Watch
        from wornpage.session.python.showing import show_value
        from wornpage.session.sql.running import run_query

        self._take_over()
        try:
            found = run_query(message["query"], message["code"], message["label"], self)
        finally:
            # What databases' drivers do within themselves is no doing of the page's, which has run no code here.
            with self.tracker.looking():
                before = self.tracker.watch
                self.tracker.watch = again = Watch(anew=True)
                again.modules = before.modules if before is not None else again.modules
        show_value(found, self)

    def _account(self, message: Message, before: dict[str, str], error: Message | None) -> Message:
        """What the chunk that has just run read, wrote and left behind."""
        from wornpage.session.python.account import Account
        from wornpage.session.python.effects import look_anew

        self.watcher.end()
        tracker = self.tracker
        # First, since what follows imports libraries of its own.
        effects = tracker.effects(self.watcher.imported) or self.watcher.effects() or self.left_in_databases
        if self.watcher.forked:
            tracker.fetch_all()
            self.given._take_all()
        surroundings = self._surroundings_read(message["code"])
        self._see_mapped()
        seen = self.watcher.described()
        modules = tracker.modules()
        seen["files"]["file"] = _module_files(modules, self.watcher) | seen["files"]["file"]
        if "lines" not in self.noted:
            _take_for_sources(seen["files"], self.watcher, error)
        version, file = message["version"], f"chunk:{message['label']}"
        with tracker.looking():
            account = Account(tracker, self.reaches)
            written = account.written(version, message["code"], file, message["keep"])
        if table := account.changed_in_library():
            look_anew()
            effects = effects or f"it changed {table}"
        inner.asked_for(self.watcher.imported)
        after = ambient.changed()
        changed = {item: value for item, value in after.items() if before.get(item) != value}
        changed |= {item: "" for item in before if item not in after}
        if not effects and any(value.startswith("live") for value in changed.values()):
            effects = "it set up something that cannot be set back"
        return {
            **self._read(written["names"]),
            **surroundings,
            "sharing": sorted(account.sharing),
            **seen,
            **written,
            "ambient": changed,
            "effects": effects,
            "fleeting": self.fleeting,
            "states": self.states,
            "modules": modules,
            "modules_read": tracker.modules_read(self.watcher.imported),
        }

    def _read(self, written: dict[str, object]) -> Message:
        """What code has read of names, given values and packages: the same for chunks and marks."""
        tracker = self.tracker
        return {
            "reads": sorted(tracker.reads),
            "absent": sorted(tracker.absent),
            "present": sorted(tracker.present),
            "listed": tracker.listed,
            "given": self.given._taken(),
            "lines": _seen_lines(tracker),
            "packages": _packages(tracker, written, self.watcher),
        }

    def _see_mapped(self) -> None:
        """Whoever uses a name that reaches a mapped file has read that file."""
        from wornpage.session.python.sharing import TooLarge, reach

        mapped = self.watcher.maps.held()
        if not mapped:
            return
        with self.tracker.looking():
            for value in self.tracker.reads.values():
                try:
                    found = reach(value)
                except TooLarge:
                    continue
                for one in mapped.keys() & (found.own.keys() | found.lent):
                    self.watcher.reads_mapped(mapped[one])

    def _surroundings_read(self, code: str) -> Message:
        taken = ambient.taken_to_be_read(self.watcher.imported | self.tracker.homes())
        return {
            "coarse": [*taken, *inner.read(self.tracker.reads | self.tracker.visible(), code, self.watcher.imported)],
            "rc": sorted(ambient.rc_reads),
        }

    def _do_marks(self, message: Message) -> None:
        """Answer value marks one after the other; a mark only looks, so what it changes is told as its mistake."""
        from wornpage.session.python.effects import Watch
        from wornpage.session.python.missing import MustReplay

        before = self._position(message)
        answers: list[Message] = []
        needs = ""
        with self.tracker.looking():
            self.tracker.watch, effects = Watch(), ""
        loaded = len(sys.modules)
        for mark in message["marks"]:
            try:
                answers.append(self._answered(mark))
                effects = effects or self.tracker.earlier_effects
            except MustReplay as missing:
                needs = missing.name
                break
        if answers and not needs:
            has_set = ambient.is_set(since=before)
            if has_set:
                ambient.put(before)  # by a library that came in for a mark, it is no mark's doing
            if effects or self.tracker.effects() or (has_set and len(sys.modules) == loaded):
                _blame(answers, message["marks"])
        self.send({"event": "answers", "answers": answers, "needs": needs, "after": self.streams.mark()})

    def _answered(self, mark: Message) -> Message:
        """The answer of one mark, with what it read."""
        crash.begin(mark["place"])
        seeds.plant(mark["seed"])
        self.tracker.begin(watch=False)
        self.given._begin()
        self.watcher.begin()
        try:
            answer = self._answer(mark)
        finally:
            self.watcher.end()
            crash.end()
        surroundings = self._surroundings_read(mark["expression"])
        self._see_mapped()
        seen = self.watcher.described()
        changed = self._changed_by_mark() or (f"the file {seen['written'][0][0]}" if seen["written"] else "")
        read = self._read({})
        read["modules_read"] = self.tracker.modules_read(self.watcher.imported)
        return {"answer": answer, "found": {**read, **surroundings, **seen, "changed": changed}}

    def _changed_by_mark(self) -> str:
        """A name whose value the mark has changed; empty for none."""
        from wornpage.session.python.account import Account

        with self.tracker.looking():
            account = Account(self.tracker, self.reaches, look_outside=False)
            account.find()
            return next(iter(sorted({*account.changed, *account.gone()})), "")

    def _answer(self, mark: Message) -> Message:
        from wornpage.session.python.missing import MustReplay
        from wornpage.session.python.names import run_eval

        try:
            code = compile(mark["expression"], mark["place"], "eval")
            return scalar(run_eval(code, self.tracker.names), mark["format"])
        except MustReplay:
            raise
        except BaseException as raised:
            return {"error": describe_error(raised, sys.exc_info()[2])}


def _module_files(modules: dict[str, str], watcher: Any) -> dict[str, str]:
    """Files of the project's modules that were loaded, and those that would have been found before a library's module."""
    from wornpage.store.files import content

    paths = {getattr(sys.modules.get(name), "__file__", None) or "" for name in modules}
    tops = {name.split(".")[0] for name in watcher.imported}
    found = {path for path in paths if path.endswith(".py")}
    for top in tops:
        found |= {f"{watcher.folder}/{top}.py", f"{watcher.folder}/{top}/__init__.py"}
    return {watcher.short(path): content(path) for path in sorted(found) if path not in watcher.writes}


def _take_for_sources(files: dict[str, dict[str, str]], watcher: Any, error: Any) -> None:
    """Of modules that were only imported, what they do counts; an error names their lines, so then all of them counts."""
    from wornpage.session.python.modules import local_modules
    from wornpage.store.files import content
    from wornpage.store.sources import looks_at_itself, source_form

    named = {frame["file"] for raised in (error or {"chain": ()})["chain"] for frame in raised["frames"]}
    paths = {getattr(sys.modules.get(name), "__file__", None) or "" for name in local_modules()}
    files["source"] = {}
    if any(looks_at_itself(path) for path in paths if path.endswith(".py")):
        return  # it may look at the others too
    for path in sorted(path for path in paths if path.endswith(".py")):
        short = watcher.short(path)
        if short in named and path not in watcher.writes:
            files["file"][short] = content(path)
        elif short in files["file"] and not watcher.spawned and path not in watcher.looked_into:
            del files["file"][short]
            files["source"][short] = source_form(path)


def _refused(raised: BaseException, label: str) -> Message | None:
    """What is told of a value that could not come over: it is no line of the chunk's that is wrong."""
    if type(raised).__name__ != "CannotCross":
        return None
    frames = [{"file": f"chunk:{label}", "line": 0, "name": "<module>", "code": "", "column": 0}]
    told = {"kind": "Error", "message": str(raised), "frames": frames}
    return {"kind": "Error", "chain": [told], "hint": "Make something of it there that both languages have."}


def _is_of_the_page(raised: BaseException) -> bool:
    """Whether code of the page has raised it: an object that does not let itself be looked at."""
    trace = raised.__traceback__
    while trace is not None and trace.tb_next is not None:
        trace = trace.tb_next
    return trace is not None and trace.tb_frame.f_code.co_filename.startswith("chunk:")


def _seen_lines(tracker: Any) -> list[str]:
    """Labels of the chunks whose functions and classes were used: where code looks at lines, theirs count."""
    found = set()
    for value in tracker.reads.values():
        kind: object = value if is_a(value, type) else type(value)
        held = vars(kind).values() if kind.__module__ == "__main__" else ()
        for one in (value, *held):
            code = _code_of(one)
            if code is not None and code.co_filename.startswith("chunk:"):
                found.add(code.co_filename.removeprefix("chunk:"))
    return sorted(found)


def _code_of(value: Any) -> Any:
    """The code of a function or a method; other things are not asked."""
    if type(value) in {MethodType, staticmethod, classmethod}:
        value = value.__func__
    return value.__code__ if type(value) is FunctionType else None


def _blame(answers: list[Message], marks: list[Message]) -> None:
    """One of these marks has changed something beside names: most likely the first that calls something."""
    at = next((place for place, mark in enumerate(marks) if "(" in mark["expression"]), 0)
    found = answers[at]["found"]
    found["changed"] = found["changed"] or "a setting of a library or of the system"


def _packages(tracker: Any, written: dict[str, object], watcher: Any) -> list[str]:
    """Top-level packages of libraries that the chunk's values come from or that it has asked for, and what those work with."""
    modules = {*watcher.imported, *watcher.asked_for}
    for name in [*tracker.reads, *written]:
        held = tracker.held.get(name)
        value = held[1] if held else tracker.reads.get(name)
        modules |= {str(home_of(value)), str(type(value).__module__)}
    libraries = {name for name in packages_behind(modules) if not name.startswith("_") and _is_library(name)}
    return sorted(libraries - {"xxhash", "blake3"})


def _is_library(name: str) -> bool:
    path = getattr(sys.modules.get(name), "__file__", None) or ""
    return "site-packages" in path or "dist-packages" in path


def _offer_page(driver: Driver) -> None:
    """`page` is there unasked, as builtins are: a chunk that gives the name to something else has its own."""
    import builtins

    from wornpage import page
    from wornpage.session.python.asked import Asked

    page.connect(Asked(driver))
    builtins.page = page  # type: ignore[attr-defined]
    sys.modules["wornpage"].given = driver.given  # type: ignore[attr-defined]


def main(arguments: list[str]) -> None:
    """Run a session on the two pipes and with the sentinel that the starting process gave."""
    inbound, outbound, fault = map(int, arguments[:3])
    for handle in (inbound, outbound, fault):
        os.set_inheritable(handle, False)
    crash.install(fault)
    signal.signal(signal.SIGINT, signal.default_int_handler)  # also where whoever started us ignores it
    channel = int(arguments[4]) if arguments[4:] and arguments[4] else None
    if channel is not None:
        os.set_inheritable(channel, False)
    try:
        Driver(inbound, outbound, bytes.fromhex(arguments[3]), channel).start()
    except Exception:
        crash.tell_of_ours()
