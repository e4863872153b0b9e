"""What a chunk wrote: found by comparing what names stand for with what they stood for, and with whom they share it.

A chunk writes a name by binding it, by changing in place what the name reaches (also through another name, a function, a
view), or by using up something live. What shares a changeable object with it is written with it, as one group.
"""

from __future__ import annotations

import re
from types import FunctionType, ModuleType
from typing import Any

from wornpage.session.python.atoms import ATOMS, NoFingerprint, is_a
from wornpage.session.python.definitions import is_plain_definition
from wornpage.session.python.effects import roots
from wornpage.session.python.fingerprint import fingerprint, is_interned
from wornpage.session.python.held import place_of
from wornpage.session.python.keeping import CannotKeep, keep
from wornpage.session.python.modules import is_local, is_nowhere, local_modules
from wornpage.session.python.names import identified
from wornpage.session.python.parts import parts_of
from wornpage.session.python.sharing import Reach, TooLarge, pattern, reach
from wornpage.session.python.singles import plain_ones
from wornpage.session.python.tracker import Tracker

Told = dict[str, Any]
_DEFINITION = (FunctionType, type)
_DESCRIPTORS = re.compile(
    r"\b(?:pipe2?|fileno|mkstemp|dup2?|detach|openpty|memfd_create|eventfd)\b|\bos\.open\b|\bO_[A-Z]+\b"
)
_FEW = 16


class Reaches:
    """What names reach, found once as long as they stand for the same."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[str, frozenset[int], Reach]] = {}

    def of(self, name: str, version: str, value: object, stops: frozenset[int]) -> Reach:
        """What `value` reaches, which `name` stands for in its `version`; named functions and classes are not looked into."""
        known = self._known.get(name)
        if known is None or known[0] != version or (known[1] != stops and known[2].definitions & (known[1] ^ stops)):
            known = self._known[name] = (version, stops, _reach(value, stops))
        return known[2]


def _reach(value: object, stops: frozenset[int]) -> Reach:
    try:
        return reach(value, stops)
    except TooLarge:
        found = Reach()
        found.own[id(value)] = 0
        return found


class Account:
    """The account of one chunk, made when it has come to its end."""

    def __init__(self, tracker: Tracker, reaches: Reaches, look_outside: bool = True) -> None:
        """`look_outside` the page's names too: not for value marks, after all of which that is done once."""
        self.tracker, self.reaches, self.is_chunk = tracker, reaches, look_outside
        self.visible = tracker.visible()
        self.prints: dict[str, str | None] = {}
        self.now = tracker.names_now()
        self.local = bool(local_modules())
        """Whether modules of the project are loaded."""
        self.stops = frozenset(id(value) for value in self.now.values() if is_a(value, _DEFINITION))
        self.changed: dict[str, object] = {}
        self.in_place: set[str] = set()
        """Changed names that stand for the same object as before."""
        self.sharing: set[str] = set()
        """Names whose being held together with others the chunk depends on."""
        self._here: dict[str, Reach] = {}
        self._left_open: frozenset[int] = frozenset()
        """Numbers of the files that the chunk has left open, if its code has to do with such numbers."""
        self.outside = Reach()
        """What is reached from outside the page's names: modules of the project, registries, what was put into libraries."""
        for value in (*(roots().values() if look_outside else ()), *identified):
            self.outside.add(_reach(value, self.stops))
        self.outside.own |= dict.fromkeys(map(id, plain_ones()), 0)

    # --- what has changed ---------------------------------------------------------------------

    def find(self) -> None:
        """Find all names whose content the chunk has changed."""
        reads = self.tracker.reads
        for name, value in self.visible.items():
            if name not in reads or not self.tracker.is_same(name, value):
                self.changed[name] = value
            elif self._is_other(name, value):
                self._note(name, value)
        self._find_left_alone()
        self._find_outside()
        while self._find_touched() or self._find_over():
            pass

    def _note(self, name: str, value: object) -> None:
        self.changed[name] = value
        self.in_place.add(name)
        self.tracker.reads.setdefault(name, value)
        self._here.pop(name, None)

    def _is_other(self, name: str, value: object) -> bool:
        """Whether what a name stood for has another content now; a live value counts as changed by being read."""
        before = self.tracker.table[name]["print"]
        if before.startswith("live:"):
            if not self.is_chunk and not hasattr(type(value), "__next__"):
                return False  # a mark only looks; of what is used up by looking it is told
            return not is_a(value, ModuleType) or is_nowhere(value)  # importing one again does not use it up
        if type(value) in ATOMS:
            return False
        self.prints[name] = print_of(value)
        if not self.is_chunk:  # looking may fill what a library remembers within its objects; what they say is the same
            return str(self.prints[name]).partition("+")[0] != str(before).partition("+")[0]
        return bool(self.prints[name] != before)

    def gone(self) -> list[str]:
        """Names that the chunk has deleted."""
        here = self.visible.keys() | self.in_place
        gone = {name for name in (*self.tracker.reads, *self.tracker.deleted) if name not in here}
        return sorted(name for name in gone if name in self.tracker.table)

    def _find_left_alone(self) -> None:
        """What was held together with something that ends with an act, and that a name has let go of: it may be the last to hold it."""
        table = self.tracker.table
        dropped = [name for name in (*self.changed, *self.gone()) if name in table and name not in self.in_place]
        for name in dropped:
            if table[name]["print"].startswith("live:") and table[name].get("ends"):
                for other in table[name].get("group", ()):
                    if other in table and other not in self.changed and self.tracker.holds(other) and other in self.now:
                        self._note(other, self.now[other])

    def _find_outside(self) -> None:
        """Names that share something with what lies outside the names: changed unseen, or handed out by this chunk."""
        if not self.outside.own:
            return
        for name, value in self.now.items():
            if name in self.changed or name not in self.tracker.table or not self.tracker.holds(name):
                continue
            entry = self.tracker.table[name]
            if name in self.tracker.deleted or not self.outside.meets(self.reach_of(name, value)):
                continue
            if "live" not in entry["provider"] or (
                not entry["print"].startswith("live:") and self._is_other(name, value)
            ):
                self._note(name, value)

    def _find_touched(self) -> bool:
        """Held names that the chunk did not use, but that share something with what it changed, or a project's module."""
        reached = Reach()
        used = self.visible | self.changed if self.is_chunk else self.changed  # some things are told by name alone
        for name, value in used.items():
            reached.add(self.reach_of(name, value))
        changed = {id(value) for name, value in self.changed.items() if name in self.in_place}
        if not (reached.own or reached.lent or reached.definitions or changed or self.local):
            return False
        bound = {id(value): name for name, value in self.now.items() if is_a(value, _DEFINITION)}
        found = False
        for name in self._unused():
            value = self.now[name]
            reach = self.reach_of(name, value)
            touches = (
                reached.meets(reach)
                or not reach.definitions.isdisjoint(changed)
                or (id(value) in reached.definitions and bound.get(id(value)) == name)
                or (self.local and _mentions_local(value))
            )
            if touches and self._is_other(name, value):
                self._note(name, value)
                found = True
        return found

    def _unused(self) -> list[str]:
        """Names that are here and that the chunk has neither used nor changed."""
        held, used = self.tracker.held, {*self.changed, *self.visible}
        here = [
            name for name, entry in self.tracker.table.items() if name in held and held[name][0] == entry["version"]
        ]
        return [name for name in here if name in self.now and name not in used]

    def _find_over(self) -> bool:
        """Names that are not here, made of a function or class that the chunk has changed in place."""
        definitions = {name for name in self.in_place if isinstance(self.changed[name], _DEFINITION)}
        tracker, found = self.tracker, False
        for name, entry in list(tracker.table.items()):
            away = not tracker.holds(name) and name not in self.visible and name not in tracker.deleted
            if away and definitions & set(entry.get("over", ())):
                self.now[name] = tracker.bring_changed(name)
                self._note(name, self.now[name])
                found = True
        return found

    # --- who shares with whom -----------------------------------------------------------------

    def reach_of(self, name: str, value: object) -> Reach:
        """What a name reaches now."""
        if name in self.changed:
            if name not in self._here:
                self._here[name] = _reach(value, self.stops)
            return self._here[name]
        if name in self.visible:
            return self._here.setdefault(name, _reach(value, self.stops))
        return self.reaches.of(name, self.tracker.table[name]["version"], value, self.stops)

    def groups(self) -> list[dict[str, object]]:
        """Changed names, each with all names that share a changeable object with it."""
        rest = {name: value for name, value in self.now.items() if name not in self.changed and self._may_join(name)}
        groups: list[dict[str, object]] = []
        todo = dict(self.changed)
        while todo:
            name = next(iter(todo))
            group, edge = {name: todo.pop(name)}, [name]
            while edge:
                reach = self.reach_of((at := edge.pop()), group[at])
                for pool in (todo, rest) if reach.own or reach.lent else ():
                    met = [other for other, value in pool.items() if reach.meets(self.reach_of(other, value))]
                    group |= {other: pool.pop(other) for other in met}
                    edge += met
            groups.append({member: group[member] for member in sorted(group)})
            if len(group) > 1:
                self._note_sharing(group)
        self.sharing |= {name for name in self.in_place if name in self.tracker.table}
        return groups

    def _may_join(self, name: str) -> bool:
        return name in self.tracker.table and self.tracker.holds(name) and name not in self.tracker.deleted

    def _note_sharing(self, group: dict[str, object]) -> None:
        """Who joins a group, and how those in it were held before, is part of what the chunk depends on."""
        for name, value in group.items():
            if name not in self.changed:
                self.tracker.reads.setdefault(name, value)
            if name not in self.changed or name in self.in_place:
                self.sharing.add(name)

    # --- how it can be had again --------------------------------------------------------------

    def written(self, version: str, code: str, file: str, wanted: bool) -> Told:
        """Everything the chunk wrote, stored if it can be and `wanted`."""
        if _DESCRIPTORS.search(code):
            self._left_open = self.tracker.left_open()  # before anything is stored, which opens files of ours
        self.tracker.keep_all()
        self.find()
        self.tracker.hold_again({name: value for name, value in self.visible.items() if name not in self.changed})
        tracker, gone = self.tracker, self.gone()
        for name in gone:
            tracker.held.pop(name, None)
        made: dict[str, Told] = {}
        values: dict[str, object] = {}
        for group in self.groups():
            made |= self._provide(group, code, file, wanted)
            values |= group
        anew = [name for name in made if name in tracker.deleted]
        order = [name for name in tracker.listing_quietly() if name in made]
        for name in (*gone, *anew):
            tracker.table.pop(name, None)
        for name in order:
            value = values[name]
            made[name]["interned"] = type(value) is str and is_interned(value)
            made[name]["parts"] = parts_of(value)
            tracker.held[name] = (version, value)
            tracker.table[name] = {"version": version, **made[name]}
        return {"names": {name: made[name] for name in order}, "deleted": gone, "anew": sorted(anew)}

    def _provide(self, group: dict[str, object], code: str, file: str, wanted: bool) -> dict[str, Told]:
        """How the names of one group can be had again, and what they are now."""
        for name, value in group.items():
            if self.prints.get(name) is None:
                self.prints[name] = None if self._is_descriptor(name, value) else print_of(value)
        known = {name: found for name in group if (found := self.prints[name]) is not None}
        provider = {"live": True} if identified else self._provider(group, known, code, file, wanted)
        live = "live" in provider
        together: Told = (
            {"group": list(group), "pattern": _pattern(group)} if len(group) > 1 else {"group": [], "pattern": ""}
        )
        return {
            name: {
                "print": known.get(name, "live") if not live or name in known else "live",
                "provider": provider,
                "over": self._over(name, value),
                "ends": live and self.reach_of(name, value).ends,
                "outside": bool(self.outside.own) and self.outside.meets(self.reach_of(name, value)),
                **together,
            }
            for name, value in group.items()
        }

    def _is_descriptor(self, name: str, value: Any) -> bool:
        """Whether a value is the number of a file that is left open, or has one in it: no other session has that."""
        if type(value) not in {int, tuple, list}:
            return False
        if name in self.in_place and self.tracker.table[name]["print"].startswith("live:"):
            return True
        numbers = [value] if type(value) is int else [item for item in value[:_FEW] if type(item) is int]
        return not self._left_open.isdisjoint(numbers)

    def _provider(self, group: dict[str, object], known: dict[str, str], code: str, file: str, wanted: bool) -> Told:
        if len(group) == 1:
            ((name, value),) = group.items()
            if name in known and is_a(value, ModuleType) and not is_local(value.__name__):
                return {"module": value.__name__}
            if name in known and (place := self._place_of(name, value, code)):
                return {"module": place[0], "attribute": place[1]}
            if is_a(value, _DEFINITION) and getattr(value, "__module__", "") == "__main__":
                plain = name in known and is_plain_definition(code, name, value)
                return {"definition": True, "code": code, "file": file} if plain else {"live": True}
        if any(is_a(value, _DEFINITION) for value in group.values()) and len(group) > 1:
            return {"live": True}
        if self.outside.own and any(self.outside.meets(self.reach_of(name, value)) for name, value in group.items()):
            return {"live": True}  # a copy from the store would not be the one that is held outside
        if wanted and len(known) == len(group) and self.tracker.blobs.keeps:
            try:
                return keep(group, known, self.now, self.tracker.blobs)
            except (CannotKeep, OSError):
                pass
        return {"live": True}

    def _place_of(self, name: str, value: object, code: str) -> tuple[str, str] | None:
        """Where a library holds a table that a name stands for, if it is one."""
        if name not in self.in_place:
            return place_of(name, value, code)
        provider = self.tracker.table[name]["provider"]
        return (provider["module"], provider["attribute"]) if "attribute" in provider else None

    def changed_in_library(self) -> str:
        """The first table of a library that the chunk has changed by a name of the page, once that is written; empty for none."""
        providers = (
            self.tracker.table[name]["provider"] for name in sorted(self.in_place) if name in self.tracker.table
        )
        return next((f"{one['module']}.{one['attribute']}" for one in providers if "attribute" in one), "")

    def _over(self, name: str, value: object) -> list[str]:
        """Names of the functions and classes of the page that a value is made of."""
        reached = self.reach_of(name, value).definitions
        return sorted(n for n, v in self.now.items() if n != name and is_a(v, _DEFINITION) and id(v) in reached)


def _pattern(group: dict[str, object]) -> str:
    try:
        return pattern(list(group.values()))
    except NoFingerprint:
        return "large"


def print_of(value: object) -> str | None:
    """The fingerprint of a value; None for one that has none."""
    try:
        return fingerprint(value)
    except NoFingerprint:
        return None


def _mentions_local(value: object) -> bool:
    """Whether a value is, or comes from, a module of the project, whose state may have changed under it."""
    if is_a(value, ModuleType):
        return is_local(value.__name__)
    return is_local(getattr(value, "__module__", None) or "") or is_local(type(value).__module__)
