"""The tracker: brings in names when a chunk first uses them, and says afterwards what it read and wrote.

Between chunks every object lies in `held`, with the version it has in the page's order; the near end tells which version
of each name holds at the chunk that is to run. A name whose version is not held is brought back from the store, or defined
again; what can only be had by running its chunks again raises `MustReplay`.
"""

from __future__ import annotations

import ast
import linecache
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from types import FunctionType, ModuleType
from typing import Any

from wornpage.session.python.effects import Watch
from wornpage.session.python.fingerprint import (
    ATOMS,
    HOOKS,
    NoFingerprint,
    fingerprint,
    forget_tokens,
    is_interned,
    is_local,
    module_token,
)
from wornpage.session.python.keeping import CannotKeep, bring_back, keep
from wornpage.session.python.names import ALWAYS, Names, new_names, run_exec
from wornpage.session.python.sharing import TooLarge, reach
from wornpage.store.blobs import Blobs

NOT_THE_PAGES = ALWAYS | {"__warningregistry__"}
"""Names that no chunk makes; the memory of warnings given begins anew with every chunk."""


class MustReplay(BaseException):
    """A name can only be had by running its chunks again first. Not an `Exception`: no chunk may catch it."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name


class Tracker:
    """Reads and writes of the chunk that runs, over what is known of the chunks before it."""

    def __init__(self, blobs: Blobs) -> None:
        self.blobs = blobs
        self.table: dict[str, dict[str, Any]] = {}
        """By name: `version`, `print` and `provider` at the running chunk."""
        self.held: dict[str, tuple[str, Any]] = {}
        """By name: version and object."""
        self.reads: dict[str, Any] = {}
        self.absent: set[str] = set()
        self.deleted: set[str] = set()
        self.everything = False
        self.names: Names = new_names(self)
        self._quiet = False
        self._ids: dict[str, tuple[str, frozenset[int]]] = {}
        self.watch: Watch | None = None
        self.earlier_effects = ""
        """What the running chunk had left behind before a library was brought in for it."""
        self.depth = 0

    # --- during a chunk -----------------------------------------------------------------------

    def begin(self, watch: bool = True) -> None:
        """Hide every name."""
        for name in [name for name in dict.keys(self.names) if name not in ALWAYS]:
            dict.__delitem__(self.names, name)
        self.reads, self.absent, self.deleted, self.everything = {}, set(), set(), False
        forget_tokens()
        self.watch = Watch() if watch else None
        self.earlier_effects, self.depth = "", 0

    def fetch(self, name: str) -> Any:
        entry = self.table.get(name)
        if entry is None or name in self.deleted:
            self.absent.add(name)
            raise KeyError(name)
        value = self.hold(name)
        if not self._quiet:
            self.reads[name] = value
        return value

    def knows(self, name: str) -> bool:
        if name in self.table and name not in self.deleted:
            return True
        self.absent.add(name)
        return False

    def fetch_all(self) -> None:
        self.everything = True
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

    def hold(self, name: str) -> Any:
        """The object that `name` stands for at the running chunk."""
        entry = self.table[name]
        if name in self.held and self.held[name][0] == entry["version"]:
            return self.held[name][1]
        if "live" in entry["provider"]:
            raise MustReplay(name)
        with self._unnoticed():
            self._have(name, entry)
        return self.held[name][1]

    def _have(self, name: str, entry: dict[str, Any]) -> None:
        """Bring a name back from the store, define it again, or import it."""
        provider = entry["provider"]
        if "blob" in provider:
            self._bring_group(name, provider)
        elif "definition" in provider:
            self._define(name, entry)
        else:
            from importlib import import_module

            self.held[name] = (entry["version"], import_module(provider["module"]))

    @contextmanager
    def _unnoticed(self) -> Iterator[None]:
        """What bringing a name back does to the session (it may import a library) is not the chunk's doing."""
        from wornpage.session.python import ambient

        loaded, now = len(sys.modules), ambient.changed()
        self.earlier_effects = self.earlier_effects or (
            self.watch.left_behind() if self.watch and self.depth == 0 else ""
        )
        self.depth += 1
        try:
            yield
        finally:
            self.depth -= 1
            if len(sys.modules) != loaded:
                ambient.put(now)
                if self.watch is not None and self.depth == 0:
                    self.watch = Watch(anew=True)

    def _bring_group(self, name: str, provider: dict[str, Any]) -> None:
        try:
            values = bring_back(provider, self._silently, self.blobs)
            for member, value in values.items():
                entry = self.table.get(member)
                if entry is not None and entry["provider"] == provider:
                    if fingerprint(value) != entry["print"]:
                        raise MustReplay(name)
                    self.held[member] = (entry["version"], value)
        except MustReplay:
            raise
        except Exception:
            raise MustReplay(name) from None
        if name not in self.held or self.held[name][0] != self.table[name]["version"]:
            raise MustReplay(name)

    def _silently(self, name: str) -> Any:
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
            run_exec(compile(ast.Module([statement], []), file, "exec", dont_inherit=True), self.names)
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
        now = {name: module_token(name) for name in list(sys.modules) if is_local(name)}
        return {name: token for name, token in sorted(now.items()) if before.get(name) != token}

    def modules_read(self, imported: set[str]) -> list[str]:
        """Modules of the project that the chunk imported, or whose things it used by name."""
        found = {name for name in imported if is_local(name)}
        for value in self.reads.values():
            home = (
                value.__name__
                if isinstance(value, ModuleType)
                else getattr(value, "__module__", None) or type(value).__module__
            )
            if isinstance(home, str) and is_local(home):
                found.add(home)
        return sorted(found)

    def effects(self) -> str:
        """What the chunk left behind that cannot be set back."""
        forget_tokens()
        return self.earlier_effects or (self.watch.left_behind() if self.watch else "")

    def written(self, version: str, code: str, file: str, wanted: bool) -> dict[str, Any]:
        """Everything the chunk wrote, stored if it can be and `wanted`; reads are in `described_reads`."""
        visible = {name: value for name, value in dict.items(self.names) if name not in NOT_THE_PAGES}
        changed = {
            name: value for name, value in visible.items() if name not in self.reads or value is not self.reads[name]
        }
        gone = sorted(
            {name for name in self.reads if name not in visible} | {n for n in self.deleted if n not in visible}
        )
        prints: dict[str, str | None] = {}
        for name, value in visible.items():
            if name not in changed and self._is_other(name, value, prints):
                changed[name] = value
        changed |= self._touched_otherwise(visible, changed, prints)
        for name in gone:
            self.held.pop(name, None)
        groups = self._groups(changed, prints)
        made: dict[str, Any] = {}
        for group in groups:
            made |= self._provide(group, prints, code, file, wanted)
        for name, value in {**visible, **{n: v for g in groups for n, v in g.items()}}.items():
            if name in made:
                made[name]["interned"] = type(value) is str and is_interned(value)
                self.held[name] = (version, value)
                self.table[name] = {"version": version, **made[name]}
        for name in gone:
            self.table.pop(name, None)
        return {"names": made, "deleted": gone}

    def _is_other(self, name: str, value: Any, prints: dict[str, str | None]) -> bool:
        """Whether what a name stood for has another content now; a live value counts as changed by being read."""
        if type(value) in ATOMS:
            return False
        before = self.table[name]["print"]
        if before.startswith("live:"):
            return not isinstance(value, ModuleType)  # importing a module again does not use it up
        prints[name] = _print(value)
        return bool(prints[name] != before)

    def _touched_otherwise(
        self, visible: dict[str, Any], changed: dict[str, Any], prints: dict[str, str | None]
    ) -> dict[str, Any]:
        """Held names that the chunk did not use, but that share something with what it changed, or a project's module."""
        found: dict[str, Any] = {}
        ids = self._reached(changed)
        for name, (version, value) in self.held.items():
            if (
                name in visible
                or name not in self.table
                or self.table[name]["version"] != version
                or type(value) in ATOMS
            ):
                continue
            touches = _mentions_local(value) or bool(ids and ids & self._ids_of(name, version, value))
            if touches and not self.table[name]["print"].startswith("live:"):
                prints[name] = _print(value)
                if prints[name] != self.table[name]["print"]:
                    found[name] = value
                    self.reads.setdefault(name, value)
        return found

    def _reached(self, values: dict[str, Any]) -> set[int]:
        found: set[int] = set()
        for value in values.values():
            try:
                found |= reach(value)[0]
            except TooLarge:
                continue
        return found

    def _ids_of(self, name: str, version: str, value: Any) -> frozenset[int]:
        known = self._ids.get(name)
        if known is None or known[0] != version:
            try:
                known = (version, frozenset(reach(value)[0]))
            except TooLarge:
                known = (version, frozenset({id(value)}))
            self._ids[name] = known
        return known[1]

    def _groups(self, changed: dict[str, Any], prints: dict[str, str | None]) -> list[dict[str, Any]]:
        """Changed names, each with all names that share a changeable object with it."""
        pool = dict(changed)
        ids: dict[str, set[int]] = {}
        for name, value in changed.items():
            self._ids.pop(name, None)
            try:
                ids[name] = reach(value)[0]
            except TooLarge:
                ids[name] = {id(value)}
        everything = set().union(*ids.values()) if ids else set()
        for name, (version, value) in self.held.items():
            if (
                name not in pool
                and name in self.table
                and self.table[name]["version"] == version
                and type(value) not in ATOMS
            ):
                shared = self._ids_of(name, version, value)
                if not isinstance(value, ModuleType | FunctionType | type) and everything & shared:
                    pool[name] = value
                    ids[name] = set(shared)
                    self.reads.setdefault(name, value)  # what joins a group is part of what the chunk depends on
        groups: list[set[str]] = []
        for name, value in pool.items():
            if isinstance(value, ModuleType | FunctionType | type):
                groups.append({name})
                continue
            joined, rest = {name}, []
            for group in groups:
                linked = any(
                    ids[name] & ids[m] for m in group if not isinstance(pool[m], ModuleType | FunctionType | type)
                )
                if linked:
                    joined |= group
                else:
                    rest.append(group)
            groups = [*rest, joined]
        return [{name: pool[name] for name in sorted(group)} for group in groups]

    def _provide(
        self, group: dict[str, Any], prints: dict[str, str | None], code: str, file: str, wanted: bool
    ) -> dict[str, Any]:
        """How the names of one group can be had again, and what they are now."""
        for name, value in group.items():
            if prints.get(name) is None:
                prints[name] = _print(value)
        known = {name: found for name in group if (found := prints[name]) is not None}
        if len(group) == 1:
            ((name, value),) = group.items()
            if name in known and isinstance(value, ModuleType) and not is_local(value.__name__):
                return {name: {"print": known[name], "provider": {"module": value.__name__}}}
            if isinstance(value, FunctionType | type) and getattr(value, "__module__", "") == "__main__":
                # Under two names it must stay one object: then its chunk is run again, which binds both.
                alone = not any(v is value for n, v in self.names_now().items() if n != name)
                plain = alone and name in known and is_plain_definition(code, name, value)
                provider = {"definition": True, "code": code, "file": file} if plain else {"live": True}
                return {name: {"print": known.get(name, "live"), "provider": provider}}
        provider = {"live": True}
        if wanted and len(known) == len(group) and self.blobs.keeps:
            try:
                provider = keep(group, known, self.names_now(), self.blobs)
            except (CannotKeep, OSError):
                provider = {"live": True}
        live = "live" in provider
        return {
            name: {"print": known.get(name, "live") if not live or name in known else "live", "provider": provider}
            for name in group
        }

    def names_now(self) -> dict[str, Any]:
        """Every name with its object, as the chunk leaves them, without counting as read."""
        now = {
            name: value
            for name, (version, value) in self.held.items()
            if self.table.get(name, {}).get("version") == version
        }
        return {**now, **dict(dict.items(self.names))}


def _print(value: Any) -> str | None:
    """The fingerprint of a value; None for one that has none."""
    try:
        return fingerprint(value)
    except NoFingerprint:
        return None


def _mentions_local(value: Any) -> bool:
    """Whether a value is, or comes from, a module of the project, whose state may have changed under it."""
    if isinstance(value, ModuleType):
        return is_local(value.__name__)
    return is_local(getattr(value, "__module__", None) or "") or is_local(type(value).__module__)


def is_plain_definition(code: str, name: str, value: Any) -> bool:
    """Whether running the last top-level statement that defines `name` again gives it back and does nothing else."""
    try:
        tree = ast.parse(code)
    except SyntaxError:
        return False
    statements = [s for s in tree.body if name in _bound_by(s)]
    if not statements or not isinstance(statements[-1], ast.FunctionDef | ast.AsyncFunctionDef | ast.ClassDef):
        return False
    statement = statements[-1]
    if isinstance(statement, ast.ClassDef):
        return isinstance(value, type) and _is_plain_class(statement, value)
    defaults = [*statement.args.defaults, *(d for d in statement.args.kw_defaults if d)]
    return (
        not statement.decorator_list
        and all(_is_inert(d) for d in defaults)
        and getattr(value, "__closure__", ()) is None
    )


def _bound_by(statement: ast.stmt) -> set[str]:
    from wornpage.session.bindings import names_written

    return names_written(ast.unparse(statement))


def _is_plain_class(statement: ast.ClassDef, value: type) -> bool:
    if type(value).__name__ not in {"type", "ABCMeta"} or statement.keywords:
        return False
    for base in value.__mro__[1:-1]:
        if "__init_subclass__" in vars(base) or any(hook in vars(base) for hook in HOOKS[-2:]):
            return False
    for decorator in statement.decorator_list:
        if ast.unparse(decorator).split("(")[0] not in {
            "dataclass",
            "dataclasses.dataclass",
            "total_ordering",
            "functools.total_ordering",
        }:
            return False
    return all(_is_plain_member(member) for member in statement.body)


def _is_plain_member(member: ast.stmt) -> bool:
    match member:
        case ast.FunctionDef() | ast.AsyncFunctionDef():
            known = {"property", "staticmethod", "classmethod", "cached_property", "abstractmethod"}
            names = {ast.unparse(d).split("(")[0].rpartition(".")[2] for d in member.decorator_list}
            return names <= known | {"setter", "getter"}
        case ast.Assign(value=value) | ast.AnnAssign(value=value):
            return value is None or _is_inert(value)
        case ast.Pass() | ast.Expr(value=ast.Constant()):
            return True
    return False


def _is_inert(node: ast.expr) -> bool:
    """Whether evaluating an expression can do nothing but give a value that is the same each time."""
    if isinstance(node, ast.Call):
        return ast.unparse(node.func) in {"field", "dataclasses.field"} and all(
            _is_inert(k.value) for k in node.keywords
        )
    if isinstance(node, ast.Constant | ast.Name):
        return True
    if isinstance(node, ast.Attribute):
        return _is_inert(node.value)
    if isinstance(node, ast.Tuple):
        return all(map(_is_inert, node.elts))
    if isinstance(node, ast.List | ast.Dict | ast.Set):
        return not ast.unparse(node).strip("[]{}").strip()
    return isinstance(node, ast.UnaryOp) and _is_inert(node.operand)
