"""An answer to "where does this come from?", ready to be told: the thing, its steps, their sources, in one piece of data."""

from __future__ import annotations

from msgspec import Struct

from wornpage.lineage.finding import Target
from wornpage.lineage.naming import lines_binding, read_into
from wornpage.lineage.steps import Lineage, Named, Source, Step
from wornpage.plan.graph import Edge, Graph


class Taken(Struct, frozen=True):
    """What one step takes over from another."""

    key: str
    """The other."""
    names: tuple[str, ...]
    named: tuple[tuple[str, Named], ...]
    """By name: what is named of it."""
    lines: tuple[int, ...]
    """Where the other binds them, in its file."""


class Told(Struct, frozen=True):
    """One step of an answer."""

    step: Step
    takes: tuple[Taken, ...]
    files: tuple[tuple[Source, Named], ...]
    """Data files that it read, with what the steps of this answer name of them."""
    others: tuple[Source, ...]


class Answer(Struct, frozen=True):
    """Where something comes from: its own step first, then all that they come from, each once."""

    target: Target
    steps: tuple[Told, ...]

    @property
    def graph(self) -> Graph:
        """The same as a drawing wants it; the thing itself is the last node."""
        steps = [told.step for told in reversed(self.steps)]
        shown = {step.key: step.label or (self.target.said or step.code) for step in steps}
        edges = [
            Edge(shown[taken.key], shown[told.step.key], taken.names) for told in self.steps for taken in told.takes
        ]
        edges += [Edge(source.name, shown[told.step.key], ()) for told in self.steps for source, _ in told.files]
        files = dict.fromkeys(source.name for told in self.steps for source, _ in told.files)
        labels = [shown[step.key] for step in steps]
        if self.target.kind not in {"value", "chunk"} and steps:
            last = self.target.said or self.target.label
            edges.append(Edge(shown[steps[-1].key], last, ()))
            labels.append(last)
        return Graph(tuple(files), tuple(dict.fromkeys(labels)), tuple(edges))


def answer_of(target: Target, lineage: Lineage) -> Answer:
    """Where `target` comes from."""
    steps = list(lineage.above(target.step))
    within = {step.key for step in steps}
    ordered = _in_order(steps, lineage)
    return Answer(target, tuple(told_of(step, lineage, within) for step in ordered))


def _in_order(steps: list[Step], lineage: Lineage) -> list[Step]:
    """The step asked for, then the others from the bottom of the page to its top."""
    place = {key: at for at, key in enumerate(lineage.steps)}
    return steps[:1] + sorted(steps[1:], key=lambda step: -place[step.key])


def told_of(step: Step, lineage: Lineage, within: set[str]) -> Told:
    """A step with what it takes from others; of files, what the steps `within` name."""
    takes: dict[str, list[tuple[str, Named]]] = {}
    for flow in step.flows:
        if flow.writer and flow.writer != step.key:
            takes.setdefault(flow.writer, []).append((flow.name, flow.named))
    taken = tuple(
        Taken(
            writer,
            tuple(name for name, _ in several),
            tuple((name, named) for name, named in several if named.columns or named.rows),
            _lines(lineage.steps[writer], [name for name, _ in several]),
        )
        for writer, several in takes.items()
        if writer in lineage.steps
    )
    files = [source for source in step.sources if source.kind in {"file", "database"}]
    calls = read_into(step.code, {source.name for source in files}) if step.language == "python" else {}
    read = []
    for source in files:
        name, asked = calls.get(source.name, ("", ()))
        named = lineage.columns_of(step.key, name, within) if name else Named()
        read.append((source, Named(tuple(dict.fromkeys((*asked, *named.columns))), named.rows)))
    others = tuple(source for source in step.sources if source not in files)
    return Told(step, taken, tuple(read), others)


def _lines(step: Step, names: list[str]) -> tuple[int, ...]:
    if step.language != "python" or step.kind != "chunk":
        return ()
    return tuple(sorted({step.first_line + line for name in names for line in lines_binding(step.code, name)[-1:]}))
