"""What is known here of the names in a session of R: what they stand for, what was told of them, how they are kept."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.session.messages import Message
from wornpage.session.r.normal import ASIDE, normal
from wornpage.session.r.shown import several
from wornpage.session.tasks import MustMake, Position, Standing
from wornpage.store.addresses import digest
from wornpage.store.blobs import LARGE, Blobs
from wornpage.store.trace import Bound, Provider

FUNCTION = "f:"
"""Stands before the fingerprints of functions."""
DATA = "d:"
"""Before those of values that are data and nothing else, in which there are no words of code."""


class Value(Struct):
    """What was told of what a name stands for."""

    name: str
    how: str
    """`written`, `read`, or `held`: no code used it by its name, but it can be changed through others."""
    print: str
    is_live: bool
    shares: frozenset[str]
    """Addresses of what can be changed in place."""
    data: bytes
    is_function: bool
    words: frozenset[str]
    parts: tuple[str, ...] = ()
    """What can be asked for by a word: columns of a frame, names of a list."""


class Told(Struct):
    """The account of a chunk."""

    reads: tuple[str, ...]
    sharing: tuple[str, ...] = ()
    names: dict[str, Bound] = {}
    deleted: tuple[str, ...] = ()
    words: frozenset[str] = frozenset()
    together: list[list[str]] = field(default_factory=list)
    """Names that hold something in common: they must be stored as one."""
    keep: bool = True


class Known:
    """The near end's table of names."""

    def __init__(self, store: str | None) -> None:
        self._blobs = Blobs(store)
        self._table: dict[str, Standing] = {}
        self._words: dict[str, frozenset[str]] = {}
        self._aside: dict[str, frozenset[str]] = {}
        """Names that were loaded without a pointer that they had, with the words by which code can see that."""
        self._told: dict[str, dict[str, Value]] = {}
        """By the label of the code that was run: values by name."""
        self._joint: dict[tuple[str, ...], bytes] = {}
        self.sources: dict[str, str] = {}
        """By label: the code of chunks that functions come from."""
        self.ambient: Mapping[str, str] = {}

    # --- before -------------------------------------------------------------------------------

    def begin(self, label: str, code: str = "") -> None:
        """Code is about to run."""
        self._told, self._joint = {}, {}
        if label:
            self.sources[label] = code

    def stand(self, at: Position) -> Message:
        """Take over a place; returns what the far end must know of it."""
        old = {
            name for name, one in at.table.items() if name in self._table and self._table[name].version != one.version
        }
        self._table.update(at.table)
        for name in at.gone:
            self._table.pop(name, None)
        for name in (*old, *at.gone):
            self._words.pop(name, None)
            self._aside.pop(name, None)
        self.ambient = at.ambient
        if at.order is not None:
            self._table = {name: self._table[name] for name in at.order}
        functions = [name for name, one in self._table.items() if one.print.startswith(FUNCTION)]
        for one in at.table.values():
            provider = one.provider
            if provider.get("code") and str(provider.get("file", "")).startswith("chunk:"):
                self.sources.setdefault(str(provider["file"]).removeprefix("chunk:"), str(provider["code"]))
        return {"names": list(self._table), "functions": functions, "forget": [*old, *at.gone]}

    def load(self, name: str) -> Message:
        """What a name stands for, with all that is stored together with it. Raises `MustMake`."""
        address = self._address(name)
        if not address:
            raise MustMake(name)
        try:
            data = self._blobs.get(address)
        except KeyError:
            raise MustMake(name) from None
        names = [one for one in self._table if self._address(one) == address]
        together = len(several(self._table[name].provider.get("group"))) > 1
        if not together:  # others may hold an equal value, and so lie at the same place
            names = [name]
        words, aside = _in_value(self._table[name].print, data)
        for one in names:
            self._words[one] = words
            if aside:
                self._aside[one] = aside
        told: Message = {"names": names, "together": together}
        if len(data) >= LARGE:  # read from the store itself, which is quicker than to send it
            return {**told, "file": str(Path(self._blobs.path(address)).absolute())}
        return {**told, "blob": data}

    def _address(self, name: str) -> str:
        provider = self._table[name].provider
        return "" if provider.get("live") else str(provider.get("blob") or "")

    # --- after --------------------------------------------------------------------------------

    def take(self, message: Message, data: bytes) -> None:
        """The far end tells of a value."""
        if message["how"] == "together":
            self._joint[tuple(several(message["names"]))] = data
            return
        name = message["name"]
        value = _value(message, data)
        self._told.setdefault(message["of"], {})[name] = value
        self._words[name] = value.words
        if value.how == "written":
            self._aside.pop(name, None)

    def account(self, label: str, told: Message, version: str, code: str, keep: bool) -> Told:
        """What the code called `label` read and wrote. Raises `MustMake` for a name of which it may have asked what the store has not kept."""
        values = self._told.get(label, {})
        reads = set(several(told.get("reads")))
        groups = _components(values)
        for names in groups:
            if _is_table_shared([values[name] for name in names]):  # loaded again, each would have one of its own
                for name in names:
                    values[name] = replace(values[name], is_live=True, print="live")
        changed = {value.name for value in values.values() if self._is_changed(value)}
        sharing: set[str] = set()
        together: list[list[str]] = []
        written: dict[str, tuple[Value, tuple[str, ...]]] = {}
        for names in groups:
            group = tuple(sorted(names)) if len(names) > 1 else ()
            is_other = any(self._group(name) != group for name in names if values[name].how != "written")
            if not (changed & names or is_other):
                continue
            in_place = {name for name in names if values[name].how != "written"}
            reads |= in_place
            sharing |= {name for name in in_place if len(names) > 1 or self._group(name)}
            for name in sorted(names):
                written[name] = (values[name], group)
            if group and not any(values[name].is_live for name in names):
                together.append(list(group))
        bound = {name: self._bound(value, group, label, code, keep) for name, (value, group) in written.items()}
        for name in several(told.get("live")):
            bound[name] = Bound("live", Provider(live=True))
        words = self._words_read(code, reads)
        for name in sorted(reads & self._aside.keys()):
            if self._aside[name] & words:
                raise MustMake(name)
        gone = tuple(sorted(name for name in several(told.get("gone")) if name in self._table))
        before = set(self._table)
        self._take_over(bound, gone, version)
        return Told(tuple(sorted(reads & before)), tuple(sorted(sharing)), bound, gone, words, together, keep)

    def settle(self, told: Told) -> Told:
        """Store what names hold together, now that the far end has told it as one."""
        for names in told.together:
            data = self._joint.get(tuple(names))
            if data is None:
                continue
            try:
                made = normal(data)
                address = "" if made.is_live or not (told.keep and self._blobs.keeps) else self._blobs.put(data)
            except (ValueError, OSError):
                made, address = None, ""
            provider = Provider(blob=address, group=tuple(names)) if address else Provider(live=True)
            for name in names:
                before = told.names[name]
                code = Provider(live=provider.live, blob=provider.blob, group=provider.group, code=before.provider.code,
                                file=before.provider.file)  # fmt: skip
                pattern = made.print if made else ""
                told.names[name] = Bound(before.print, code, group=tuple(names), pattern=pattern, parts=before.parts)
                standing = self._table[name]
                self._table[name] = Standing(standing.version, before.print, _kept(code), group=tuple(names))
        return told

    def _bound(self, value: Value, group: tuple[str, ...], label: str, code: str, keep: bool) -> Bound:
        live = Provider(live=True)
        provider = live
        if value.is_live:
            return Bound("live", live, group=group, pattern=digest(group))
        if not group and keep and self._blobs.keeps:
            try:
                provider = Provider(blob=self._blobs.put(value.data), group=(value.name,))
            except OSError:
                provider = live
        if value.is_function:
            provider = Provider(
                live=provider.live, blob=provider.blob, group=provider.group, code=code, file=f"chunk:{label}"
            )
        pattern = digest(group) if group else ""
        return Bound(value.print, provider, group=group, pattern=pattern, parts=value.parts)

    def _take_over(self, bound: dict[str, Bound], gone: tuple[str, ...], version: str) -> None:
        """What the session has now."""
        for name, one in bound.items():
            self._table[name] = Standing(version, one.print, _kept(one.provider), group=one.group)
        for name in gone:
            self._table.pop(name, None)

    def _is_changed(self, value: Value) -> bool:
        """Whether code has bound a name, or changed what it stands for; what is live counts as changed by being read."""
        if value.is_live:
            return value.how != "held"
        return value.how == "written" or value.print != self._print(value.name)

    def _print(self, name: str) -> str:
        return self._table[name].print if name in self._table else ""

    def _group(self, name: str) -> tuple[str, ...]:
        return self._table[name].group if name in self._table else ()

    def _words_read(self, code: str, reads: set[str]) -> frozenset[str]:
        """Names and texts in code, and in the functions and calls that it used."""
        from wornpage.session.r.code import RCode

        found = set(RCode().mentioned(code))
        for name in reads:
            found |= self._words.get(name, frozenset())
        return frozenset(found)


def _kept(provider: Provider) -> dict[str, object]:
    from wornpage.store.trace import as_kept

    made: dict[str, object] = as_kept(provider)
    return made


def _value(message: Message, data: bytes) -> Value:
    kind, is_function = message["kind"], bool(message["is_function"])
    shares = frozenset(several(message["shares"]))
    front = FUNCTION if is_function else "r:"
    words: frozenset[str] = frozenset()
    is_live = kind == "live"
    if kind == "plain":
        print_ = f"{DATA}{_bytes_print(data)}"
    else:
        try:
            made = normal(data)
            print_, words = f"{front}{made.print}", made.words
            is_live = is_live or made.is_live
        except ValueError:
            print_, is_live = "", True
    return Value(
        message["name"], message["how"], "live" if is_live else print_, is_live, shares, data, is_function, words,
        tuple(map(str, several(message.get("parts")))),
    )  # fmt: skip


def _bytes_print(data: bytes) -> str:
    from xxhash import xxh3_128

    return str(xxh3_128(data).hexdigest())


def _in_value(print_: str, data: bytes) -> tuple[frozenset[str], frozenset[str]]:
    """The words in a value that was loaded, and those by which code sees what it has lost."""
    if print_.startswith(DATA):
        return frozenset(), frozenset()
    try:
        made = normal(data)
    except ValueError:
        return frozenset(), frozenset()
    return made.words, frozenset().union(*(ASIDE[name] for name in made.aside))


def _is_table_shared(values: list[Value]) -> bool:
    """Whether several names hold one table that grows in place."""
    seen: set[str] = set()
    for value in values:
        tables = {one for one in value.shares if one.startswith("table ")}
        if tables & seen:
            return True
        seen |= tables
    return False


def _components(values: Mapping[str, Value]) -> list[set[str]]:
    """Names that hold something changeable in common, directly or through others."""
    groups: list[tuple[set[str], set[str]]] = []
    for value in values.values():
        names, shares = {value.name}, set(value.shares)
        rest = []
        for group in groups:
            if shares & group[1]:
                names |= group[0]
                shares |= group[1]
            else:
                rest.append(group)
        groups = [*rest, (names, shares)]
    return [names for names, _ in groups]
