"""From what a session tells of a run to the trace that is kept, and from a trace back to a result."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from typing import Any

from msgspec.structs import replace

from wornpage.plan.state import State
from wornpage.session.process import Ran
from wornpage.session.results import ChunkResult, failure_from, failure_to_data, shown_from_data, shown_to_data
from wornpage.store.blobs import Blobs
from wornpage.store.packages import distribution_of, with_requirements
from wornpage.store.traces import Item, digest
from wornpage.tree.nodes import Chunk

NOTHING_FOUND: dict[str, Any] = {
    "reads": (), "absent": (), "present": (), "listed": False, "given": (), "lines": (), "environment": {}, "coarse": (), "rc": (),
    "seed": False, "placed": False, "spawned": False, "modules_read": (), "packages": (),
}  # fmt: skip
"""What a session tells that had come to its end before it could tell anything."""
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
) -> tuple[dict[str, Any], list[tuple[Item, str]]]:
    """The trace of a run that started where `state` held, and its reads with what they were.

    `globs` are the patterns of files that the chunk is said to read, with what they were before it ran.
    """
    found = {**NOTHING_FOUND, **ran.found, "globs": globs or {}}
    ran = replace(ran, found=found)
    reads = [(item, value_read(item, found, state, seed)) for item in reads_of(ran, chunk, state)]
    identity = digest(key, [value for _, value in reads])
    names = {
        name: {**told, "print": f"live:{identity}:{name}" if told["print"] == "live" else told["print"]}
        for name, told in ran.found.get("names", {}).items()
    }
    failure = failure_to_data(ran.result.failure)
    trace = {
        "label": chunk.label,
        "key": key,
        "layout": digest(chunk.label, chunk.code),
        "run": run,
        "seconds": ran.result.seconds,
        "reads": [[list(item), value] for item, value in reads],
        "names": names,
        "deleted": ran.found.get("deleted", []),
        "anew": ran.found.get("anew", []),
        "ambient": ran.found.get("ambient", {}),
        "written": ran.found.get("written", []),
        "effects": ran.found.get("effects", ""),
        "modules": {
            name: f"{token} {identity}" if "~" in token else token
            for name, token in ran.found.get("modules", {}).items()
        },
        "network": ran.found.get("network", False),
        "shown": _renamed(_kept(ran, blobs), f"chunk:{chunk.label}", _OWN),
        "failure": _relabel(failure, f"chunk:{chunk.label}", _OWN),
    }
    return trace, reads


def _kept(ran: Ran, blobs: Blobs) -> list[dict[str, Any]]:
    try:
        return shown_to_data(ran.result.shown, blobs.put)
    except OSError:
        return shown_to_data(ran.result.shown, Blobs(None).put)


def _renamed(data: Any, old: str, new: str) -> Any:
    """What a chunk showed, with its label replaced where tracebacks and code that describes itself name it."""
    if isinstance(data, str):
        return _as_word(old).sub(lambda _: new, data) if old in data else data
    if isinstance(data, list):
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


def reads_of(ran: Ran, chunk: Chunk, state: State) -> list[Item]:
    """Everything a run of a chunk read, in a fixed order."""
    items = items_in(ran.found, state)
    items |= {("glob", pattern) for pattern in ran.found["globs"]}
    items |= {("layout", label) for label in _layouts(ran, chunk)}
    if state.sight.lines:
        items.add(("layout", chunk.label))
    if ran.found.get("names") and not state.sight.identity:
        items.add(("sight", "identity"))
    return sorted(items)


def items_in(found: dict[str, Any], state: State) -> set[Item]:
    """What a session tells that code has read: of chunks and of marks alike."""
    used = found["reads"]
    items: set[Item] = {("name", name) for name in (*used, *found["absent"])}
    items |= {("presence", name) for name in found["present"] if name not in used}
    items |= {("sharing", name) for name in found.get("sharing", ())}
    if found["listed"]:
        items.add(("names", ""))
    if state.sight.identity:
        items |= {(kind, name) for name in used for kind in ("identity", "sharing")}
    if state.sight.lines:
        items |= {("layout", label) for label in found["lines"]}
    known = {name.replace("-", "_"): name for name in state.given}
    items |= {("given", known.get(name, name)) for name in found["given"]}
    items |= {(kind, path) for path, kind, _ in _files(found)}
    items |= {("environment", name) for name in found["environment"]}
    items |= {("ambient", name) for name in found["coarse"]}
    items |= {("ambient", f"rc:{key}") for key in found["rc"]}
    items |= {("seed", "")} if found["seed"] else set()
    items |= {("surroundings", "")} if found["spawned"] else set()  # a child process has the whole environment
    items |= {("module", name) for name in found["modules_read"]}
    items |= {("place", "")} if found["placed"] else set()
    items.add(("effects", ""))
    items |= {("package", distribution_of(name)) for name in found.get("asked_of", ())}
    for package in found["packages"]:
        items |= {("package", name) for name in with_requirements(distribution_of(package))}
    return items


def _files(found: dict[str, Any]) -> list[list[str]]:
    """Files and folders that code read, those of modules among them."""
    return [*found.get("files", ()), *found.get("module_files", ())]


def _layouts(ran: Ran, chunk: Chunk) -> set[str]:
    """Chunks whose line numbers are shown in a failure: there the layout of the code counts too."""
    labels: set[str] = set()
    if ran.result.failure is not None:
        for raised in ran.result.failure.chain:
            labels |= {frame.file.removeprefix("chunk:") for frame in raised.frames if frame.file.startswith("chunk:")}
    printed = " ".join(getattr(item, "text", "") for item in ran.result.shown)
    labels |= set(re.findall(r'"chunk:([^"]+)"', printed))
    return labels


def value_read(item: Item, found: dict[str, Any], state: State, seed: int) -> str:
    """What something was when it was read."""
    kind, name = item
    for path, what, held in _files(found):
        if path == name and what == kind:
            return str(held)
    if kind == "glob":
        return str(found["globs"][name])
    if kind == "environment":
        return str(found["environment"][name]) if f"env:{name}" not in state.ambient else state.now(item, seed)
    return state.now(item, seed)


def laid_out(trace: dict[str, Any], chunk: Chunk) -> dict[str, Any]:
    """A trace whose definitions are made from the chunk as it is written now, so that errors in them name its lines."""
    code = {"code": chunk.code, "file": f"chunk:{chunk.label}"}
    names = {
        name: {**told, "provider": told["provider"] | code} if "definition" in told["provider"] else told
        for name, told in trace["names"].items()
    }
    return {**trace, "names": names, "layout": digest(chunk.label, chunk.code)}


def result_of(trace: dict[str, Any], chunk: Chunk, blobs: Blobs) -> ChunkResult | None:
    """What a trace's run showed; None if a picture is missing, so that the chunk must run."""
    try:
        shown = shown_from_data(_renamed(trace["shown"], _OWN, f"chunk:{chunk.label}"), blobs.get)
    except KeyError:
        return None
    failure = _relabel(trace["failure"], _OWN, f"chunk:{chunk.label}")
    return ChunkResult(shown, failure_from(failure) if failure else None, trace["seconds"])
