"""Sessions kept ready: each stands, when it is asked for, at the place of the page where something is to run.

A session is given what it needs of the steps above: values from the store, definitions run again, and, where nothing else
will do, whole chunks replayed in page order with their output dropped. Each language has a session of its own.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterable
from pathlib import Path
from threading import Thread
from typing import TypeVar

from msgspec import Struct, field

from wornpage.plan.growing import Growing
from wornpage.plan.handing import Source, refused, sources_of
from wornpage.plan.languages import spoken
from wornpage.plan.nursery import Nursery
from wornpage.plan.progress import Progress
from wornpage.plan.querying import query_of
from wornpage.plan.state import Entry, State
from wornpage.plan.traces import make_trace
from wornpage.plan.wanted import Common, Wanted
from wornpage.session.afar.cluster import NotThere
from wornpage.session.cradle import Wish, imported_by, warm_session, wish_for
from wornpage.session.early import Early
from wornpage.session.language import Session
from wornpage.session.languages import known
from wornpage.session.python.environments import current
from wornpage.session.tasks import (
    NOTHING_AT_END,
    AtEnd,
    CannotFork,
    ChunkTask,
    Environment,
    Handed,
    Position,
    Ran,
    SessionOver,
    Standing,
)
from wornpage.store.blobs import Blobs
from wornpage.store.files import FOLDER, content
from wornpage.store.trace import Trace, as_kept, page_of
from wornpage.tree.nodes import Chunk

T = TypeVar("T")


class Unrepeatable(Exception):
    """A chunk that was run again did not do what its trace tells."""


class Live(Struct):
    """One session, and what it is known to have."""

    session: Session
    executed: list[int] = field(default_factory=list)
    """Steps that have run in it, in order."""
    sent: dict[str, tuple[str, str]] = field(default_factory=dict)
    """By name: version and fingerprint that it has been told."""


class Sessions:
    """The sessions of a walk, by language."""

    def __init__(
        self,
        progress: Progress,
        growing: Growing,
        environment: Environment,
        may_keep: bool,
        early: Early | None = None,
        nursery: Nursery | None = None,
    ) -> None:
        """`environment` is what each session starts with; `may_keep` says whether values may be stored."""
        self.progress, self.growing, self.environment, self.may_keep = progress, growing, environment, may_keep
        self._early, self._nursery = early, nursery
        self._live: dict[str, Live] = {}
        self._first_ran: int | None = None
        """The first step of Python that ran for good."""
        self._ran: set[str] = set()
        """Languages of which a step ran for good."""
        self._asked: set[str] = set()
        """Languages of which a session was wanted at a place where packages, or other settings, are not as at first."""
        self._forced: set[int] = set()
        """Steps that every session must run again: somebody has needed what only they can make."""

    # --- asking -------------------------------------------------------------------------------

    def ask(
        self,
        index: int,
        language: str,
        names: set[str],
        act: Callable[[Session, Position], tuple[T, str]],
        with_files: bool = True,
        but: Iterable[str] = (),
    ) -> T:
        """Do something in a session of a language, with all that steps before `index` have left behind.

        `names` may be wanted by it; `with_files` says whether files that steps below have written over, or that are gone,
        must be as they were left, `but` for some. `act` gives what came of it, and a name that must be made again first;
        it is then done again in a new session. Raises `Unrepeatable`, and what `act` raises.
        """
        state = self.progress.state_before(index)
        self._forced |= _live_writers(state, language, names)
        for _ in range(len(self.progress.steps) + 2):
            live = self._prepared(index, language, with_files, frozenset(but))
            made, needs = act(live.session, position(live, state, language))
            if not needs:
                return made
            self._force(state, language, needs)
        raise Unrepeatable

    def note(self, index: int, ran: Ran, run: str) -> None:
        """The chunk of a step has run in its session for good."""
        language = self.progress.language(index)
        self._ran.add(language)
        if language == "python" and self._first_ran is None:
            self._first_ran = index
        live = self._live[language]
        live.executed.append(index)
        note_sent(live, ran, run)

    def offshoot(self, index: int, language: str, names: set[str]) -> Live:
        """A session that is as the one at hand, for chunks below `index` ahead of their turn. Raises `CannotFork`.

        What `names` stand for is loaded before, so that both have it in the same memory.
        """
        live = self._live.get(language)
        if live is None or not self._effects(language, index) <= set(live.executed):
            raise CannotFork
        state = self.progress.state_before(index)
        there = [name for name in names if name in state.world(language).names]
        try:
            if there:
                live.session.hold(position(Live(live.session), state, language), there)
        except SessionOver:
            raise CannotFork from None
        return Live(live.session.fork(self.environment.given, ahead=True), list(live.executed))

    def place(self, index: int, language: str) -> Position:
        """The place before a step, as a session that knows nothing yet is told of it. Raises `NotThere`."""
        if kept := self._effects(language, index):
            what = self.progress.kept[min(kept)]
            raise NotThere(
                f"what the chunk `{what.label}` leaves behind in its session cannot be sent ({what.effects})"
            )
        return whole_position(self.progress.state_before(index), language)

    def newcomer(self, language: str) -> Live:
        """A session with nothing in it, for such chunks in a language whose sessions cannot be forked. Raises `CannotFork`."""
        session = known(language).start(self.environment.threads)
        try:
            session.open(self.environment)
        except BaseException:
            session.close()
            raise
        if not session.tells_who():
            session.close()
            raise CannotFork
        return Live(session)

    def can_begin_anew(self, index: int, language: str) -> bool:
        """Whether a session with nothing in it could stand before a step."""
        return not self._effects(language, index)

    def task(self, index: int, chunk: Chunk, run: str, seed: int) -> ChunkTask:
        """A chunk as its session needs to know it."""
        options = self.growing.settings.of(chunk).options
        return ChunkTask(
            chunk.label, chunk.code, seed, options.timeout, options.width or 0, options.height or 0,
            options.dpi, run, options.keep != "no" and self.may_keep, chunk.binds, self._handed(index, chunk),
            query_of(chunk, options, self.growing.settings),
        )  # fmt: skip

    def _handed(self, index: int, chunk: Chunk) -> dict[str, bytes]:
        """What a chunk takes over from other languages, each given by a session of its own. Raises `PageError`."""
        found: dict[str, bytes] = {}
        for source in sources_of(
            chunk, self.growing.settings.of(chunk).options.uses, self.progress.state_before(index)
        ):

            def act(session: Session, at: Position, source: Source = source) -> tuple[Handed, str]:
                made = session.give(source.name, at)
                return made, made.needs

            given = self.ask(index, source.language, {source.name}, act, with_files=False)
            if given.trouble:
                raise refused(chunk, source, given.trouble)
            found[source.name] = given.data
        return found

    def end(self, index: int, has_ended_well: bool) -> tuple[AtEnd, set[int]]:
        """Have sessions do what is left for their end, after the last of `index` steps; returns what came of it, and the steps that had run there.

        What is to be called at the end of a page that `has_ended_well` may hang on any step: then all that leave something
        for it have to have run.
        """
        found, there = NOTHING_AT_END, set[int]()
        for language in {*self._live, *(one.language for one in self.progress.kept.values() if one.leaves)}:
            live = self._live.get(language)
            is_left = live is not None and live.session.left
            unfinished = self._unfinished(index, language) if is_left else set()
            if has_ended_well and (unfinished or self._calls_at_end(language)):
                made = self.ask(index, language, unfinished, _ended, with_files=False)
            elif live is not None and is_left:
                made = live.session.end(position(live, self.progress.state_before(index), language))
            else:
                continue
            found = _joined(found, made)
            there |= set(self._live[language].executed)
        return found, there

    def _unfinished(self, index: int, language: str) -> set[str]:
        """Live names of which a session has only some of what was done to them."""
        executed = self._live[language].executed
        names = self.progress.state_before(index).world(language).names.items()
        done = {name: [step in executed for step in one.writers] for name, one in names if one.is_live}
        return {name for name, has_run in done.items() if any(has_run) and not all(has_run)}

    def _calls_at_end(self, language: str) -> bool:
        """Whether a step leaves something that is to be called at the end, and that was not yet done for the page as it is."""
        leaving = [one for one in self.progress.kept.values() if one.leaves and one.language == language]
        if not leaving:
            return False
        now = page_of(self.progress.kept.values())
        return language in self._ran or any(one.end_of != now for one in leaving)

    def let_go(self) -> None:
        """End the sessions while the work goes on here: leaving takes them a while."""
        for live in self._live.values():
            Thread(target=live.session.close, name="closing a session").start()
        self._live.clear()

    def close(self, language: str) -> None:
        """End the session of a language. What was left for its end is done at the end of the next one."""
        live = self._live.pop(language, None)
        if live is not None:
            self._forced |= set(live.executed) if live.session.left else set()
            live.session.close()

    # --- standing where it is wanted ----------------------------------------------------------

    def moved_files(self, index: int) -> dict[str, int]:
        """Files that are not as the steps before `index` have left them, and the steps that wrote them last."""
        files = self.progress.state_before(index).files.items()
        full = self.progress.state.full
        return {path: step for path, (held, step) in files if step < index and content(full(path)) != held}

    def settled_files(self, index: int) -> set[str]:
        """Those of `moved_files` that are as the end of their session has left them: most code does not look at them."""
        kept = self.progress.kept
        return {
            path
            for path, step in self.moved_files(index).items()
            if step in kept and dict(kept[step].ended).get(path) == content(self.progress.state.full(path))
        }

    def _prepared(self, index: int, language: str, with_files: bool = True, but: frozenset[str] = frozenset()) -> Live:
        """A session in which everything has been replayed that what comes before `index` left behind."""
        for _ in range(len(self.progress.steps) + 2):
            needed = self._needed(index, language, with_files, but)
            for one in {language, *map(self.progress.language, needed)}:
                self._begin_or_go_on(one, index, [step for step in needed if self.progress.language(step) == one])
            # All that are missing, in page order: what one language writes to files, another may read.
            missing = [step for step in needed if step not in self._live[self.progress.language(step)].executed]
            if all(self._replay(step) for step in missing) and language in self._live:
                return self._live[language]
        raise Unrepeatable

    def _begin_or_go_on(self, language: str, index: int, needed: list[int]) -> None:
        """Have a session that has run none of the steps below one that is still to be run in it."""
        live = self._live.get(language)
        if live is not None:
            missing = [step for step in needed if step not in live.executed]
            if missing and live.executed and missing[0] < live.executed[-1]:
                self.close(language)
        if language not in self._live:
            self._live[language] = self._begun(language, index, needed)

    def _begun(self, language: str, index: int, needed: list[int]) -> Live:
        """A new session: one that knows what editions share, if it can be had; else an empty one."""
        if self._nursery is not None:
            is_forked = known(language).beforehand == "fork"
            wanted = self._wanted(language, index)
            if wanted.ambient:
                self._asked.add(language)
            born = self._nursery.child(wanted, self._mother if is_forked else self._spare)
            if born is not None and not is_forked and not set(needed) <= set(born[1].executed):
                born[0].close()  # what is missing would have to run among packages that were attached later
                born = None
            if born is not None:
                session, common = born
                for old, new, names in common.renamed:
                    self.progress.rename(old, new, names)
                return Live(session, list(common.executed), dict(common.sent))
        threads = self.environment.threads
        ready = self._early.take(language, threads) if self._early else None
        if ready is None and language == "python" and (warm := warm_session(self.environment, self._imported(index))):
            return Live(warm)
        session = ready or known(language).start(threads)
        session.open(self.environment)
        return Live(session)

    def _imported(self, index: int) -> set[str]:
        """Modules that names stand for before a step of Python, or for what is in them."""
        names = self.progress.state_before(index).world("python").names.values()
        return {entry.bound.provider.module for entry in names if entry.bound.provider.module}

    def wish_warm(self) -> None:
        """Ask for a session that has the libraries imported which the page has where its author is at work."""
        first = self._first_ran
        if first is None:
            return
        world = self.progress.state_before(first).world("python")
        modules = imported_by([one.bound.provider.module for one in world.names.values() if one.bound.provider.module])
        names = {name: one for name, one in world.names.items() if one.bound.provider.module in modules}
        table = {name: _standing(entry) for name, entry in names.items()}
        position = Position(table, (), world.ambient, tuple(names))
        wish_for(Wish(self.environment, current(), position, modules))

    def _wanted(self, language: str, index: int) -> Wanted:
        """The place before a step, for sessions of a language."""
        steps, kept = self.progress.steps, self.progress.kept
        made = tuple(kept.get(step) if steps[step].chunk else NOTHING_RUN for step in range(index))
        ambient = self.progress.state_before(index).world(language).ambient
        return Wanted(language, known(language).version, self.environment, made, dict(ambient))

    def wish(self) -> None:
        """Where the next pressing may want a session, where nothing better is known: at the last chunk of its language."""
        if self._nursery is None:
            return
        last = {self.progress.language(index): index for index, step in enumerate(self.progress.steps) if step.chunk}
        for language in last.keys() - self._asked:
            self._nursery.wish(self._wanted(language, last[language]), self._spare)

    def _spare(self, language: str, shared: int) -> Common:
        """A session that stands there and has touched no file meanwhile. Raises `Unrepeatable` if that cannot be."""
        if any(self.progress.kept[step].written for step in self._needed(shared, language, with_files=False)):
            raise Unrepeatable
        return self._mother(language, shared, with_files=False)

    def _mother(self, language: str, shared: int, with_files: bool = True) -> Common:
        """A session that stands after the first `shared` steps, with all their values loaded."""
        renamed: list[tuple[str, str, tuple[str, ...]]] = []
        for _ in range(len(self.progress.steps) + 2):
            live = self._live[language] = Live(known(language).start(self.environment.threads))
            live.session.open(self.environment)
            needed = self._needed(shared, language, with_files)
            needed = [step for step in needed if self.progress.language(step) == language]
            if all(self._replay(step, renamed) for step in needed):
                live.session.hold(position(live, self.progress.state_before(shared), language))
                del self._live[language]
                return Common(live.session, live.executed, live.sent, renamed)
        raise Unrepeatable

    def _needed(
        self, index: int, language: str, with_files: bool = True, but: frozenset[str] = frozenset()
    ) -> list[int]:
        """Steps before `index` that a session must have run: effects, live values, files that are gone."""
        kept = self.progress.kept
        found = self._effects(language, index) | {step for step in self._forced if step < index}
        if with_files:
            found.update(step for path, step in self.moved_files(index).items() if path not in but)
        todo = list(found)
        while todo:
            step = todo.pop()
            if step in kept:
                more = (self._before_it(step) | self._after_it(step, index)) - found
                found |= more
                todo += more
        return sorted(step for step in found if step in kept)

    def _effects(self, language: str, index: int) -> set[int]:
        kept = self.progress.kept.items()
        return {step for step, trace in kept if step < index and trace.effects and trace.language == language}

    def _before_it(self, step: int) -> set[int]:
        """The steps that must run again before `step` can: those that made the live values and the files it reads."""
        trace, before = self.progress.kept[step], self.progress.before[step]
        found = _live_writers(before, trace.language, set(trace.read("name"))) | self._effects(trace.language, step)
        for path in (*trace.read("file"), *trace.read("entry"), *trace.read("source")):
            if path in before.files and content(before.full(path)) != before.files[path][0]:
                found.add(before.files[path][1])
        return found

    def _after_it(self, step: int, index: int) -> set[int]:
        """The steps before `index` that must run again after `step`, because it writes over what they wrote."""
        kept = self.progress.kept
        paths = {path for path, _ in kept[step].written}
        return {
            later
            for later, trace in kept.items()
            if step < later < index and any(path in paths for path, _ in trace.written)
        }

    def _replay(self, index: int, renamed: list[tuple[str, str, tuple[str, ...]]] | None = None) -> bool:
        """Run a step again for what it leaves behind; its output is dropped. False if others must be replayed first.

        Raises `Unrepeatable` if it does not do what its trace tells.
        """
        chunk, trace, before = self.progress.steps[index].chunk, self.progress.kept[index], self.progress.before[index]
        assert chunk is not None
        run = secrets.token_hex(8)
        task = self.task(index, chunk, run, self.progress.seeds[index])
        live = self._live.get(spoken(chunk))
        if live is None:
            return False
        ran = live.session.run(task, position(live, before, spoken(chunk)))
        if ran.needs:
            self._force(before, spoken(chunk), ran.needs)
            return False
        live.executed.append(index)
        again = make_trace(
            ran,
            chunk,
            trace.key,
            run,
            before,
            self.progress.seeds[index],
            Blobs(None),
            trace.read("glob"),
            tuple(trace.read("handed")),
        )
        if not _same_outcome(again, trace, before.folder):
            raise Unrepeatable(chunk.label)
        names = tuple(ran.found.names)
        if renamed is not None:
            renamed.append((trace.run, run, names))
        self.progress.rename(trace.run, run, names)
        note_sent(live, ran, run)
        return True

    def _force(self, state: State, language: str, name: str) -> None:
        """Have the writers of `name` run again, in a new session. Raises `Unrepeatable` if they already have."""
        entry = state.world(language).names.get(name)
        writers = set(entry.writers) if entry else set()
        if not writers or writers <= set(self._live[language].executed):
            raise Unrepeatable(name)
        self._forced |= writers
        self.close(language)


def _ended(session: Session, at: Position) -> tuple[AtEnd, str]:
    made = session.end(at)
    return made, made.needs


def _joined(one: AtEnd, other: AtEnd) -> AtEnd:
    printed = one.printed + other.printed
    return AtEnd({**one.files, **other.files}, "", (*one.troubles, *other.troubles), printed)


NOTHING_RUN = Trace("", "", "", "", 0, ())
"""Stands for the trace of a step without a chunk."""


def _live_writers(state: State, language: str, names: set[str]) -> set[int]:
    """The steps that made the live values among `names`."""
    held = state.world(language).names
    return {step for name in names if name in held and held[name].is_live for step in held[name].writers}


def note_sent(live: Live, ran: Ran, run: str) -> None:
    """What the session knows of names after it has run a chunk."""
    for name, bound in ran.found.names.items():
        live.sent[name] = (run, bound.print)
    for name in ran.found.deleted:
        live.sent.pop(name, None)


def position(live: Live, state: State, language: str) -> Position:
    """What the session must be told to stand where `state` holds."""
    world = state.world(language)
    table = {}
    for name, entry in world.names.items():
        if live.sent.get(name) != (entry.version, entry.print):
            table[name] = _standing(entry)
            live.sent[name] = (entry.version, entry.print)
    gone = tuple(name for name in live.sent if name not in world.names)
    for name in gone:
        del live.sent[name]
    return Position(table, gone, world.ambient, tuple(world.names))


def whole_position(state: State, language: str) -> Position:
    """The same for one that knows nothing yet."""
    world = state.world(language)
    return Position(
        {name: _standing(entry) for name, entry in world.names.items()}, (), world.ambient, tuple(world.names)
    )


def _standing(entry: Entry) -> Standing:
    """What a session is told of a name."""
    group = tuple(entry.group.split(" ")[1:])
    provider = as_kept(entry.bound.provider)
    return Standing(entry.version, entry.print, provider, entry.bound.over, group, entry.bound.ends)


def _same_outcome(again: Trace, trace: Trace, folder: Path) -> bool:
    """Whether a replay did what the trace tells. A folder that was there already has not been made once more."""
    folders = {(path, held) for path, held in (*again.written, *trace.written) if held == FOLDER}
    return (
        _prints(again) == _prints(trace)
        and again.deleted == trace.deleted
        and set(again.written) - folders == set(trace.written) - folders
        and all(content(str(folder / path)) == held for path, held in folders)
    )


def _prints(trace: Trace) -> dict[str, str]:
    """What a run wrote, by name; live values have nothing that could be compared."""
    return {name: bound.print.partition("live:")[0] for name, bound in trace.names.items()}
