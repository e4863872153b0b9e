"""The tracker: brings in names when a chunk first uses them, and says afterwards what it read and wrote.

Between chunks every object lies in `held`, with the version it has in the page's order; the near end tells which version
of each name holds at the chunk that is to run. A name whose version is not held is brought back from the store, or defined
again; what can only be had by running its chunks again raises `MustReplay`.
"""

from __future__ import annotations

import ast
import linecache
import os
import sys
from collections.abc import Callable, Collection, Iterable, Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext
from typing import Any

from wornpage.session.python import acts, attributes, inner, setters
from wornpage.session.python.atoms import NoFingerprint, home_of
from wornpage.session.python.effects import Watch, look_anew
from wornpage.session.python.fingerprint import fingerprint, forget_tokens, module_token
from wornpage.session.python.keeping import bring_back
from wornpage.session.python.marking import compile_telling
from wornpage.session.python.missing import MustReplay
from wornpage.session.python.modules import is_local, local_modules
from wornpage.session.python.names import ALWAYS, Names, identified, new_names, run_exec
from wornpage.store.blobs import Blobs

NOT_THE_PAGES = ALWAYS | {"__warningregistry__"}
"""Names that no chunk makes; the memory of warnings given begins anew with every chunk."""


class Ending:
    """Stands for something that ends with an act (a file is closed, a generator cleans up), so that we do not keep it alive."""

    __slots__ = ("id",)

    def __init__(self, value: object) -> None:
        self.id = id(value)


def _open_descriptors() -> frozenset[int]:
    """Numbers of the files that are open in this process, where the system tells."""
    try:
        listed = list(map(int, os.listdir("/proc/self/fd")))
    except OSError:
        return frozenset()
    return frozenset(number for number in listed if _is_open(number))


def _is_open(number: int) -> bool:
    """Not so for the one that the listing itself was read from."""
    try:
        os.get_inheritable(number)
    except OSError:
        return False
    return True


def _alone(statement: ast.stmt, tree: ast.Module) -> ast.Module:
    """One statement of a chunk, compiled as it was there: what the chunk imports makes other code of calls."""
    imports = [node for node in _of_the_module(tree) if isinstance(node, (ast.Import, ast.ImportFrom))]
    first = [node for node in imports if isinstance(node, ast.ImportFrom) and node.module == "__future__"]
    others: list[ast.stmt] = [node for node in imports if node not in first]
    never = [ast.If(ast.Constant(False), others, [])] if others else []
    return ast.fix_missing_locations(ast.Module([*first, *never, statement], []))


def _of_the_module(tree: ast.Module) -> Iterator[ast.AST]:
    """Everything in a chunk that is not within a function or a class."""
    todo: list[ast.AST] = [tree]
    while todo:
        node = todo.pop()
        yield node
        if not isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef, ast.Lambda)):
            todo += ast.iter_child_nodes(node)


class Tracker:
    """Reads and writes of the chunk that runs, over what is known of the chunks before it."""

    def __init__(self, blobs: Blobs) -> None:
        self.blobs = blobs
        self.table: dict[str, dict[str, Any]] = {}
        """By name, in the order in which the page bound them: `version`, `print`, `provider`, `over` and `group` at the running chunk."""
        self.held: dict[str, tuple[str, object]] = {}
        """By name: version and object."""
        self.reads: dict[str, object] = {}
        """Names whose content the chunk has used, with what they stood for."""
        self.absent: set[str] = set()
        self.present: set[str] = set()
        """Names of which it was only asked whether they are there."""
        self.deleted: set[str] = set()
        self.listed = False
        """Whether it was asked which names there are, or in which order."""
        self.names: Names = new_names(self)
        self.given: object = None
        """What `given` stands for as long as the page does not bind the name itself."""
        self._quiet = False
        self.is_looking = False
        """Whether it is we who ask: values that are told or kept may look at names while they write themselves down."""
        self.aside: Callable[[], AbstractContextManager[None]] = nullcontext
        """Has what we do to files meanwhile not count as the chunk's doing."""
        self.watch: Watch | None = None
        self.earlier_effects = ""
        """What the running chunk had left behind before a library was brought in for it."""
        self.depth = 0
        self._open_before: frozenset[int] = frozenset()
        self._lets_go = True
        """Whether what ends with an act is let go of: by chunks, which may end it, and not by marks, which only look."""

    # --- during a chunk -----------------------------------------------------------------------

    def begin(self, watch: bool = True) -> None:
        """Hide every name; `watch` what the modules look like from now on, which goes on from before otherwise."""
        for name in [name for name in dict.keys(self.names) if name not in ALWAYS]:
            dict.__delitem__(self.names, name)
        self.reads, self.absent, self.present, self.deleted, self.listed = {}, set(), set(), set(), False
        if "given" in self.table:
            dict.pop(self.names, "given", None)  # the page has bound the name itself
        else:
            dict.__setitem__(self.names, "given", self.given)
            self.absent.add("given")
        forget_tokens()
        identified.clear()
        attributes.noter.begin_chunk()
        setters.begin_chunk()
        acts.begin_chunk()
        with self.looking():
            self.watch = Watch() if watch else self.watch
        self._open_before, self._lets_go = _open_descriptors(), watch
        self.earlier_effects, self.depth = "", 0

    @contextmanager
    def looking(self) -> Iterator[None]:
        """While we look at values: what they ask for meanwhile is no read of the chunk's, and stays hidden."""
        before, self.is_looking = self.is_looking, True
        try:
            yield
        finally:
            self.is_looking = before

    def fetch(self, name: str) -> object:
        entry = self.table.get(name)
        if self.is_looking:
            if entry is None or name in self.deleted:
                raise KeyError(name)
            try:
                return self.hold(name)
            except MustReplay:
                raise KeyError(name) from None  # then what asks for it cannot be told
        if entry is None or name in self.deleted:
            self.absent.add(name)
            raise KeyError(name)
        value = self.hold(name)
        if not self._quiet:
            self.reads[name] = value
            if entry.get("ends") and self._lets_go:
                del self.held[name]
                self.reads[name] = Ending(value)
        return value

    def is_same(self, name: str, value: object) -> bool:
        """Whether `value` is the very object that `name` stood for when the chunk first used it."""
        before = self.reads[name]
        return value is before or (type(before) is Ending and before.id == id(value))

    def bring_what_ends(self, names: set[str]) -> None:
        """Have those of `names` here that end with an act: a chunk that binds them anew makes that happen, when it does so."""
        for name in names & self.table.keys():
            if self.table[name].get("ends") and name not in self.deleted and not dict.__contains__(self.names, name):
                self.names[name]

    def let_go(self) -> None:
        """Hold no more what no name stands for at this place: chunks that were not run again here have bound or deleted those.

        What would do something as it goes stays: it has done that where they ran.
        """
        from wornpage.session.python.sharing import goes_unseen

        for name, (version, value) in list(self.held.items()):
            entry = self.table.get(name)
            if (entry is None or entry["version"] != version) and goes_unseen(value):
                del self.held[name]

    def keep_all(self) -> None:
        """The chunk is over: whoever asks for a name now (a stream of the page's that is flushed) is not handed its end."""
        self._lets_go = False

    def hold_again(self, values: dict[str, object]) -> None:
        """Hold what the chunk has been handed because it might end with an act, and has not ended."""
        for name, value in values.items():
            if type(self.reads.get(name)) is Ending and name in self.table:
                self.held[name] = (self.table[name]["version"], value)

    def knows(self, name: str) -> bool:
        if self.is_looking:
            return name in self.table and name not in self.deleted
        if name in self.table and name not in self.deleted:
            self.present.add(name)
            return True
        self.absent.add(name)
        return False

    def mentions(self, name: str) -> bool:
        """Whether there is a hidden name, without counting as read."""
        return name in self.table and name not in self.deleted

    def listing(self) -> list[str]:
        """Every name there is now, in the order in which plain Python would have them."""
        self.listed = self.listed or not self.is_looking
        return self.listing_quietly()

    def listing_quietly(self) -> list[str]:
        """The same, without counting as read."""
        here = list(dict.keys(self.names))
        hidden = [name for name in self.table if name not in self.deleted]
        known = {*ALWAYS, *hidden}
        return [name for name in here if name in ALWAYS] + hidden + [name for name in here if name not in known]

    def fetch_all(self) -> None:
        """Bring in every hidden name."""
        self.listed = True
        for name in list(self.table):
            if name not in self.deleted and not dict.__contains__(self.names, name):
                self.names[name]

    def forget(self, name: str) -> bool:
        if name in self.table and name not in self.deleted:
            if not dict.__contains__(self.names, name):
                self.names[name]
            self.deleted.add(name)
            return True
        self.absent.add(name)
        return False

    def hold(self, name: str) -> object:
        """The object that `name` stands for at the running chunk."""
        entry = self.table[name]
        if name not in self.held or self.held[name][0] != entry["version"]:
            if "live" in entry["provider"]:
                raise MustReplay(name)
            with self._unnoticed():
                self._have(name, entry)
        value = self.held[name][1]
        if inner.is_waited_for(value):
            with self._unnoticed():
                inner.bring(value)
        return value

    def _have(self, name: str, entry: dict[str, Any]) -> None:
        """Bring a name back from the store, define it again, or import it."""
        provider = entry["provider"]
        if "blob" in provider:
            self._bring_group(name, provider)
        elif "definition" in provider:
            self._define(name, entry)
        else:
            self.held[name] = (entry["version"], self._imported(name, entry))

    def _imported(self, name: str, entry: dict[str, Any]) -> object:
        """A library, or a table that it holds, which must be what it was."""
        from importlib import import_module

        module = import_module(entry["provider"]["module"])
        if "attribute" not in entry["provider"]:
            return module
        value = getattr(module, entry["provider"]["attribute"], None)
        try:
            is_as_it_was = fingerprint(value) == entry["print"]
        except NoFingerprint:
            is_as_it_was = False
        if not is_as_it_was:
            raise MustReplay(name)
        return value

    @contextmanager
    def _unnoticed(self) -> Iterator[None]:
        """What bringing a name back does to the session (it may import a library) is not the chunk's doing."""
        from wornpage.session.python import ambient, seeds

        with self.aside(), seeds.untouched():
            loaded, now = len(sys.modules), ambient.changed()
            with self.looking():
                self.earlier_effects = self.earlier_effects or (
                    self.watch.left_behind(midway=True) if self.watch and self.depth == 0 else ""
                )
            self.depth += 1
            try:
                yield
            finally:
                self.depth -= 1
                if len(sys.modules) != loaded:
                    ambient.put(now)
                    if self.watch is not None and self.depth == 0:
                        with self.looking():
                            self.watch = self.watch.renewed()

    def bring_changed(self, name: str) -> object:
        """What `name` stands for now that a function or class which it is made of has been changed in place."""
        entry = self.table[name]
        if "blob" not in entry["provider"]:
            raise MustReplay(name)
        with self._unnoticed():
            self._bring_group(name, entry["provider"], prove=False)
        return self.held[name][1]

    def _bring_group(self, name: str, provider: dict[str, object], prove: bool = True) -> None:
        try:
            values = bring_back(provider, self._silently, self.blobs)
            for member, value in values.items():
                entry = self.table.get(member)
                if entry is not None and entry["provider"] == provider:
                    if prove and fingerprint(value) != entry["print"]:
                        raise MustReplay(name)
                    self.held[member] = (entry["version"], value)
        except MustReplay:
            raise
        except Exception:
            raise MustReplay(name) from None
        if name not in self.held or self.held[name][0] != self.table[name]["version"]:
            raise MustReplay(name)

    def _silently(self, name: str) -> object:
        """A name that a stored value refers to: not a read of the chunk by itself."""
        if name not in self.table:
            raise KeyError(name)
        return self.hold(name)

    def _define(self, name: str, entry: dict[str, Any]) -> None:
        """Run the statement that defined a function or a class again."""
        provider = entry["provider"]
        file = provider["file"]
        linecache.cache.setdefault(
            file, (len(provider["code"]), None, provider["code"].splitlines(keepends=True), file)
        )
        tree = ast.parse(provider["code"], file)
        statement = next(s for s in tree.body[::-1] if getattr(s, "name", "") == name)
        saved = dict(dict.items(self.names))
        quiet, self._quiet = self._quiet, True
        try:
            run_exec(compile_telling(_alone(statement, tree), file, "exec"), self.names)
            value = dict.__getitem__(self.names, name)
            if fingerprint(value) != entry["print"]:
                raise MustReplay(name)
        except MustReplay:
            raise
        except Exception:
            raise MustReplay(name) from None
        finally:
            self._quiet = quiet
            for added in [n for n in dict.keys(self.names) if n not in saved]:
                dict.__delitem__(self.names, added)
            for n, v in saved.items():
                dict.__setitem__(self.names, n, v)
        self.held[name] = (entry["version"], value)

    # --- after a chunk ------------------------------------------------------------------------

    def modules(self) -> dict[str, str]:
        """Modules of the project that the chunk loaded or changed, with what they are now."""
        before = self.watch.local if self.watch else {}
        now = {name: module_token(name) for name in local_modules()}
        used = self.homes()
        return {
            name: token
            for name, token in sorted(now.items())
            if before.get(name) != token or (token.endswith("~used") and name in used)
        }

    def modules_read(self, imported: set[str]) -> list[str]:
        """Modules of the project that the chunk imported, or whose things it used by name."""
        return sorted(name for name in {*imported, *self.homes()} if is_local(name))

    def homes(self) -> set[str]:
        """Modules that what the chunk has used by name is, or comes from."""
        return {home for value in self.reads.values() if isinstance(home := home_of(value), str)}

    def effects(self, imported: Iterable[str] = ()) -> str:
        """What the chunk left behind that cannot be set back; `imported` are modules that its code asked for."""
        forget_tokens()
        named = frozenset({*imported, *self.homes()})
        with self.looking():
            hung = attributes.left(self.names_now(), self._reached) if attributes.noter.has_noted else ""
            left = self.watch.left_behind(named=named) if self.watch else ""
            if hung := hung or setters.changed() or acts.done():
                look_anew()
            return hung or self.earlier_effects or left

    def _reached(self) -> Collection[int] | None:
        """Ids of all that the page's names reach; None if there is more than can be looked through."""
        from wornpage.session.python.sharing import Reach, TooLarge, reach

        found = Reach()
        try:
            for value in self.names_now().values():
                found.add(reach(value))
        except TooLarge:
            return None
        return found.own.keys() | found.lent

    def left_open(self) -> frozenset[int]:
        """Numbers of the files that the chunk has opened and left open."""
        return _open_descriptors() - self._open_before

    def visible(self) -> dict[str, object]:
        """The page's names that the chunk has used or bound, as it leaves them."""
        return {
            name: value
            for name, value in dict.items(self.names)
            if name not in NOT_THE_PAGES or (name == "given" and value is not self.given)
        }

    def holds(self, name: str) -> bool:
        """Whether what `name` stands for at the running chunk is here."""
        return name in self.held and name in self.table and self.held[name][0] == self.table[name]["version"]

    def names_now(self) -> dict[str, object]:
        """Every name that is here with its object, as the chunk leaves them, without counting as read."""
        now = {name: value for name, (_, value) in self.held.items() if self.holds(name) and name not in self.deleted}
        return {**now, **dict(dict.items(self.names))}
