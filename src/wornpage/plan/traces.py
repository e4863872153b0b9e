"""From what a session tells of a run to the trace that is kept, and from a trace back to a result."""

from __future__ import annotations

import re
import time
from collections.abc import Mapping
from functools import cache
from typing import Any

from msgspec.structs import replace

from wornpage.plan.languages import spoken
from wornpage.plan.reads import kind_of, kinds
from wornpage.plan.state import State, View
from wornpage.session.results import ChunkResult, failure_from, failure_to_data, shown_from_data, shown_to_data
from wornpage.session.tasks import Ran
from wornpage.session.told import Found
from wornpage.store.addresses import digest
from wornpage.store.blobs import Blobs
from wornpage.store.trace import Bound, Last, Read, Trace
from wornpage.tree.nodes import Chunk

_OWN = "chunk:\0"
"""Stands for the chunk's own label, so that giving it another changes nothing."""


def make_trace(
    ran: Ran,
    chunk: Chunk,
    key: str,
    run: str,
    state: State,
    seed: int,
    blobs: Blobs,
    globs: Mapping[str, str] | None = None,
    handed: tuple[str, ...] = (),
    last: Last | None = None,
) -> Trace:
    """The trace of a run that started where `state` held.

    `globs` are the patterns of files that the chunk is said to read, with what they were before it ran; `handed` is what it took
    over from other languages. What other programs opened in the `last` run of this code counts still: they may have seen without
    opening them that those files are as they were.
    """
    here = state.seen(spoken(chunk), seed)
    layouts = _labels_shown(ran) | ({chunk.label} if state.sight.lines else set())
    found = replace(ran.found, globs=dict(globs or {}), layouts=tuple(layouts), handed=handed)
    if found.spawned and last is not None and last.key == key:
        found = replace(
            found, files={**found.files, "file": _opened_last(last, found, here) | found.files.get("file", {})}
        )
    reads = reads_in(found, here)
    identity = digest(key, [read.value for read in reads])
    return Trace(
        label=chunk.label,
        key=key,
        layout=digest(chunk.label, chunk.code),
        run=run,
        seconds=ran.result.seconds,
        reads=reads,
        names={name: _known_by(bound, name, identity) for name, bound in found.names.items()},
        deleted=found.deleted,
        anew=found.anew,
        ambient=found.ambient,
        written=found.written,
        effects=found.effects,
        modules={name: f"{told} {identity}" if "~" in told else told for name, told in found.modules.items()},
        network=found.network,
        fleeting=found.fleeting,
        leaves=ran.leaves,
        language=spoken(chunk),
        shown=_renamed(_kept(ran, blobs), f"chunk:{chunk.label}", _OWN),
        failure=_relabel(failure_to_data(ran.result.failure), f"chunk:{chunk.label}", _OWN),
        at=round(time.time(), 3),
    )


def _opened_last(last: Last, found: Found, here: View) -> dict[str, str]:
    """Files that the last run opened, and what they hold now."""
    written = {path for path, _ in found.written}
    opened = [path for path, held in last.read("file").items() if held != "absent" and path not in written]
    now = {path: here.now(("file", path)) for path in opened}
    return {path: held for path, held in now.items() if held != "absent"}


def _known_by(bound: Bound, name: str, identity: str) -> Bound:
    """What has no fingerprint of its own is known by the run that made it."""
    return replace(bound, print=f"live:{identity}:{name}") if bound.print == "live" else bound


def _kept(ran: Ran, blobs: Blobs) -> list[dict[str, object]]:
    try:
        return shown_to_data(ran.result.shown, blobs.put)
    except OSError:
        return shown_to_data(ran.result.shown, Blobs(None).put)


_ATOMS = frozenset({str, int, float, bool, type(None)})


def _renamed(data: object, old: str, new: str) -> Any:
    """What a chunk showed, with its label replaced where tracebacks and code that describes itself name it."""
    if isinstance(data, str):
        return _as_word(old).sub(lambda _: new, data) if old in data else data
    if isinstance(data, list):
        if set(map(type, data)) <= _ATOMS:  # the cells of a column: a hundred thousand are seen in a moment
            words = "\0".join([one for one in data if type(one) is str])
            if old not in words:
                return data
        return [_renamed(item, old, new) for item in data]
    return {key: _renamed(item, old, new) for key, item in data.items()} if isinstance(data, dict) else data


@cache
def _as_word(label: str) -> re.Pattern[str]:
    return re.compile(re.escape(label) + r"(?![\w.-])")


def _relabel(data: Any, old: str, new: str) -> Any:
    """Frames of a failure with a file under another name."""
    if data is None:
        return None
    chain = [
        {**raised, "frames": [{**f, "file": new if f["file"] == old else f["file"]} for f in raised["frames"]]}
        for raised in data["chain"]
    ]
    return {**data, "chain": chain}


def reads_in(found: Found, here: View) -> tuple[Read, ...]:
    """Everything that code read, in a fixed order, and what it was: of chunks and of marks alike."""
    items = sorted({(kind.name, name) for kind in kinds() for name in kind.found(found, here)})
    return tuple(Read(kind, name, _was(kind, name, found, here)) for kind, name in items)


def _was(kind: str, name: str, found: Found, here: View) -> str:
    known = kind_of(kind)
    return known.was(name, found, here) if known else "unknown"


def _labels_shown(ran: Ran) -> set[str]:
    """Chunks whose line numbers are shown in a failure, or were printed: there the layout of the code counts too."""
    labels: set[str] = set()
    if ran.result.failure is not None:
        for raised in ran.result.failure.chain:
            labels |= {frame.file.removeprefix("chunk:") for frame in raised.frames if frame.file.startswith("chunk:")}
    printed = " ".join(getattr(item, "text", "") for item in ran.result.shown)
    labels |= set(re.findall(r'"chunk:([^"]+)"', printed))
    return labels


def laid_out(trace: Trace, chunk: Chunk) -> Trace:
    """A trace whose definitions are made from the chunk as it is written now, so that errors in them name its lines."""
    code, file = chunk.code, f"chunk:{chunk.label}"
    names = {
        name: replace(bound, provider=replace(bound.provider, code=code, file=file))
        if bound.provider.definition
        else bound
        for name, bound in trace.names.items()
    }
    return replace(trace, names=names, layout=digest(chunk.label, code))


def result_of(trace: Trace, chunk: Chunk, blobs: Blobs) -> ChunkResult | None:
    """What a trace's run showed; None if a picture is missing, so that the chunk must run."""
    try:
        shown = shown_from_data(_renamed(trace.shown, _OWN, f"chunk:{chunk.label}"), blobs.get)
    except KeyError:
        return None
    failure = _relabel(trace.failure, _OWN, f"chunk:{chunk.label}")
    return ChunkResult(shown, failure_from(failure) if failure else None, trace.seconds)
