"""What flows where: data files into chunks, names from chunk to chunk. Data only; others draw it."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from wornpage.plan.codes import Definitions, reader_of
from wornpage.store.files import FOLDER
from wornpage.store.trace import Last, Trace
from wornpage.tree.nodes import Chunk


class Edge(Struct, frozen=True):
    """Something flows from one node to another."""

    source: str
    target: str
    what: tuple[str, ...]
    """Names; empty for a file."""


class Graph(Struct, frozen=True):
    """Chunks by label and files by path, in page order, and what flows between them."""

    files: tuple[str, ...]
    chunks: tuple[str, ...]
    edges: tuple[Edge, ...]


NO_GRAPH = Graph((), (), ())
"""Of a page without chunks."""


def graph_of(chunks: tuple[Chunk, ...], traces: Mapping[str, Trace | Last]) -> Graph:
    """The graph of a page: from what its chunks read when they last ran, and by reading the code of those that never did."""
    definitions = Definitions(chunks)
    writers: dict[str, str] = {}
    file_writers: dict[str, str] = {}
    files: dict[str, None] = {}
    flows: dict[tuple[str, str], list[str]] = {}
    for chunk in chunks:
        trace = traces.get(chunk.label)
        reads, read_files, writes, written = _account(chunk, trace, definitions)
        for name in sorted(reads):
            if name in writers and writers[name] != chunk.label:
                flows.setdefault((writers[name], chunk.label), []).append(name)
        for path in read_files:
            source = file_writers.get(path, path)
            if source == path:
                files[path] = None
            flows.setdefault((source, chunk.label), [])
        writers.update(dict.fromkeys(writes, chunk.label))
        file_writers.update(dict.fromkeys(written, chunk.label))
    edges = tuple(Edge(source, target, tuple(names)) for (source, target), names in flows.items())
    return Graph(tuple(files), tuple(chunk.label for chunk in chunks), edges)


def _account(
    chunk: Chunk, trace: Trace | Last | None, definitions: Definitions
) -> tuple[set[str], list[str], list[str], list[str]]:
    """Names read, files read, names written, files written."""
    if trace is None:
        read = reader_of(chunk.language)
        reads = definitions.reachable(chunk.code, chunk.language) & read.mentioned(chunk.code)
        return reads, [], sorted(read.bound(chunk.code)), []
    paths = [name for kind in ("file", "source") for name, value in trace.read(kind).items() if value != "absent"]
    handed = {name.partition(" ")[2] for name in trace.read("handed")}
    return (
        set(trace.read("name")) | handed,
        paths,
        sorted(trace.names),
        [path for path, held in trace.written if held != FOLDER],
    )
