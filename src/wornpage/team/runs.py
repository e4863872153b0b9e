"""Runs that others have shared: found, checked against what is here, and taken into the store at hand."""

from __future__ import annotations

import json
import re
import secrets
import time
import zlib
from collections.abc import Callable, Sequence
from contextlib import suppress
from functools import cached_property, partial
from pathlib import Path

from msgspec import Struct

from wornpage.settings.models import TeamStore
from wornpage.store.addresses import digest
from wornpage.store.blobs import Blobs
from wornpage.store.hashes import is_at_home
from wornpage.store.place import write_whole
from wornpage.store.trace import Item, Trace, from_kept
from wornpage.store.traces import Traces, address_in
from wornpage.team.hurrying import all_of
from wornpage.team.keys import Trusted, whose_are_taken
from wornpage.team.names import blob_name, reads_name, run_name, runs_of
from wornpage.team.pace import Pace, known_of, pace_of
from wornpage.team.sending import note
from wornpage.team.shelf import Away, Shelf
from wornpage.team.shelves import open_shelf
from wornpage.team.signed import checked
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span

_PATIENCE = 4.0
"""Seconds that a question may take before the shelf counts as away."""
_AHEAD = 64
"""Codes that are looked up with the first of them."""
_LET_BE = 60.0
"""Seconds for which a shelf that was away is not asked again."""
_MOST = 200_000_000
"""Bytes that a run may unfold to."""
_NAME = re.compile(r"([0-9a-f]{40})/([0-9a-f]{40})\.([0-9a-f]{64})")
_ADDRESS = re.compile(r"[0-9a-f]{64}")


class Shared(Struct, frozen=True):
    """A run that somebody has signed."""

    trace: Trace
    sizes: dict[str, int]
    """Bytes of what it holds, by address."""
    whose: Trusted


class Team:
    """The shelf of a page, asked on behalf of one user."""

    def __init__(
        self, asked: TeamStore, project: Path, store: Path, place: Span, likely: Callable[[], Sequence[str]] = tuple
    ) -> None:
        """`likely` gives the codes that will be asked for, in their order: several are looked up with the first."""
        self.asked, self.place, self._likely = asked, place, likely
        self.problems: list[Problem] = []
        """Warnings: nothing here keeps a page from being pressed."""
        self._project, self._store = project, store
        self._traces, self._blobs = Traces(store / "traces"), Blobs(str(store / "blobs"))
        self._listings: dict[str, dict[str, int]] = {}
        self._sets: dict[str, list[Item]] = {}
        self._refused: set[tuple[str, str]] = set()
        self._is_away = not asked.at

    @cached_property
    def pace(self) -> Pace:
        """How fast this shelf is."""
        return pace_of(self._store, self.asked)

    def bring(self, code: str, now: Callable[[Item], str]) -> str:
        """Take a run of this code whose every read is equal now into the store; who signed it, or nothing."""
        if self._is_away:
            return ""
        try:
            return self._bring(code, now)
        except Away as away:
            self._leave(str(away))
        except ImportError as error:
            self._leave(f"the package {error.name} is missing; install Worn Page with its extra `team`")
        return ""

    def share(self, trace: Trace) -> None:
        """Note a run for the team, if it is worth it: it is sent once the page has been pressed."""
        note(self._store, self.asked, self._project, trace)

    def close(self) -> None:
        """Keep what was measured."""
        if "pace" in self.__dict__:
            self.pace.keep()

    # --- asking -------------------------------------------------------------------------------

    def _bring(self, code: str, now: Callable[[Item], str]) -> str:
        if not self._whom or self._was_away:
            self._is_away = True
            return ""
        found: list[Shared] = []
        for set_name, values, whose in self._fitting(code, now):
            if (code, values) not in self._refused:
                self._refused.add((code, values))  # asked once: a second time it would be no other
                found += [one for key in whose if (one := self._shared(code, set_name, values, key)) is not None]
        for one in sorted(found, key=lambda one: -one.trace.at):
            if self._take(code, one):
                return one.whose.name or one.whose.key[:8]
        return ""

    def _fitting(self, code: str, now: Callable[[Item], str]) -> list[tuple[str, str, list[str]]]:
        """What lies there of runs that read what is here now: the set of reads, their values, who signed."""
        signed: dict[str, dict[str, list[str]]] = {}
        for name in self._listing(code):
            match = _NAME.fullmatch(name)
            if match is not None and match[3] in self._whom:
                signed.setdefault(match[1], {}).setdefault(match[2], []).append(match[3])
        fitting = []
        for set_name, runs in signed.items():
            values = digest([now(item) for item in self._items(code, set_name)])
            if values in runs:
                fitting.append((set_name, values, runs[values]))
        return fitting

    def _listing(self, code: str) -> dict[str, int]:
        if code not in self._listings:
            expected = list(self._likely())
            following = expected[expected.index(code) :] if code in expected else []
            wanted = list(dict.fromkeys([code, *(one for one in following if one not in self._listings)]))[:_AHEAD]
            asks = [partial(self._shelf.names, runs_of(one)) for one in wanted]
            told = all_of(asks, time.monotonic() + _PATIENCE)
            self._listings |= dict(zip(wanted, told, strict=True))
        return self._listings[code]

    def _items(self, code: str, set_name: str) -> list[Item]:
        """What a set of reads names; its own name proves it. Nothing fits one that is damaged."""
        if set_name not in self._sets:
            raw = self._get(reads_name(code, set_name))
            items: list[Item] = []
            with suppress(ValueError, TypeError, RecursionError):
                told = [(str(kind), str(what)) for kind, what in json.loads(raw or b"[]")]
                items = told if digest([list(one) for one in told]) == set_name else []
            self._sets[set_name] = items
        return self._sets[set_name]

    def _shared(self, code: str, set_name: str, values: str, key: str) -> Shared | None:
        """A run, once its signature, its place and its shape are right."""
        name = f"{code}/{set_name}/{values}"
        raw = self._get(run_name(name, key))
        if raw is None:
            return None
        try:
            body = _unfolded(checked(raw, name, key))
            told = json.loads(body.decode("utf-8", "surrogatepass"))
            trace = from_kept(told["trace"], Trace)
            sizes = {str(address): int(size) for address, size in told["sizes"].items()}
            if trace.key != code or address_in(trace) != (set_name, values):
                raise ValueError("it lies in the wrong place")
            if any(not _ADDRESS.fullmatch(one) or one not in sizes for one in trace.addresses):
                raise ValueError("it names no addresses")
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError, zlib.error) as error:
            self._tell(
                f"what it holds of a run that {self._whom[key].name or key[:8]} has signed is not used: {error}."
            )
            return None
        return Shared(trace, sizes, self._whom[key])

    def _get(self, name: str) -> bytes | None:
        begun = time.monotonic()
        (raw,) = all_of([partial(self._shelf.get, name)], begun + _PATIENCE)
        self.pace.note(time.monotonic() - begun, len(raw or b""))
        return raw

    # --- taking -------------------------------------------------------------------------------

    def _take(self, code: str, shared: Shared) -> bool:
        """Have all that a run holds, if that is worth it; False where it is not, or something is missing."""
        trace = shared.trace
        missing = sorted(one for one in trace.addresses if not self._blobs.has(one))
        size = sum(shared.sizes[one] for one in missing)
        if self.pace.seconds(len(missing), size) > trace.seconds:
            return False
        until = time.monotonic() + max(trace.seconds, 1.0)
        try:
            had = all_of([partial(self._fetch, one, until) for one in missing], until)
        except Away as away:
            if time.monotonic() >= until:
                self._tell(f"having {size / 1e6:,.1f} MB took longer than running `{trace.label}`, which was run.")
                return False
            raise away
        if not all(had):
            self._tell(f"what it holds of `{trace.label}` is not whole, so that it was run.")
            return False
        self._traces.put(code, trace)
        return True

    def _fetch(self, address: str, until: float) -> bool:
        """Have one blob; False if it is not there, or not what its address says."""
        target = Path(self._blobs.path(address))
        target.parent.mkdir(parents=True, exist_ok=True)
        part = target.with_name(f"{address}.{secrets.token_hex(6)}.part")
        begun = time.monotonic()
        try:
            if not self._shelf.fetch(blob_name(address), part, until):
                return False
            data = part.read_bytes()
            if not is_at_home(data, address):
                return False
            self.pace.note(time.monotonic() - begun, len(data))
            part.replace(target)
        except OSError as error:
            raise Away(error.strerror or str(error)) from None
        finally:
            with suppress(OSError):
                part.unlink()
        return True

    # --- whom, and where ----------------------------------------------------------------------

    @cached_property
    def _whom(self) -> dict[str, Trusted]:
        return whose_are_taken()

    @cached_property
    def _shelf(self) -> Shelf:
        return open_shelf(self.asked, self._project)

    @property
    def _stamp(self) -> Path:
        return known_of(self._store, self.asked, "away")

    @cached_property
    def _was_away(self) -> bool:
        """Whether it was away a moment ago: it is not waited for again and again."""
        try:
            age = time.time() - self._stamp.stat().st_mtime
            why = self._stamp.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError):
            return False
        if 0 <= age < _LET_BE:
            self._tell(f"it was not asked, since it did not answer {age:.0f} s ago: {why}.")
            return True
        return False

    def _leave(self, why: str) -> None:
        self._is_away = True
        write_whole(self._stamp, why.encode("utf-8", "replace"))
        self._tell(f"it cannot be asked: {why}. All that must be run was run here.")

    def _tell(self, what: str) -> None:
        self.problems.append(Problem(self.place, f"the team's store {self.asked.at}: {what}", "", Severity.WARNING))


def _unfolded(body: bytes) -> bytes:
    unfolding = zlib.decompressobj()
    data = unfolding.decompress(body, _MOST)
    if unfolding.unconsumed_tail:
        raise ValueError("it is too large")
    return data
