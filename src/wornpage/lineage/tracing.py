"""The lineage of a page, from what its chunks and marks read when they last ran."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping

from wornpage.lineage.naming import named_in
from wornpage.lineage.steps import Flow, Lineage, Named, Source, Step
from wornpage.plan.record import MarkOutcome, Record, packages_in
from wornpage.session.environment import is_fixed
from wornpage.session.languages import known
from wornpage.settings import Settings
from wornpage.settings.givens import as_written
from wornpage.source import Page
from wornpage.store.files import content
from wornpage.store.trace import Bound, Read, Trace
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_AS_IT_IS = {"seed": "seed", "database": "database", "program": "program"}
_OF_IMPORTS = {"warnings", "logging"}
"""Settings that libraries change while they are imported, and no numbers hang on."""
_OF_R = re.compile(r"\b([A-Za-z.][\w.]*)(?:\$|\[\[[\"'])([A-Za-z.][\w.]*)")


def key_of_mark(span: Span) -> str:
    """What a mark goes by."""
    return f"mark {span.within} {span}" if span.within else f"mark {span}"


def lineage_of(page: Page, settings: Settings, record: Record) -> Lineage:
    """Who wrote what each chunk and each mark of `page` read. `record` is that of its run."""
    page = record.page or page
    tracing = _Tracing(page, settings, record)
    marks = {outcome.mark.span: outcome for outcome in record.marks}
    steps: dict[str, Step] = {}
    for node in walk(page.blocks):
        if isinstance(node, n.Chunk) and node.label in record.traces:
            step = tracing.chunk(node, record.traces[node.label])
        elif isinstance(node, n.ValueMark) and (outcome := marks.pop(node.span, None)) is not None:
            step = tracing.mark(outcome)
        else:
            continue
        steps[step.key] = step
    for outcome in marks.values():  # of titles and summaries, which see all of the page
        step = tracing.mark(outcome)
        steps[step.key] = step
    return Lineage(steps)


class _Tracing:
    """Goes through a page from its top, and knows who wrote what last."""

    def __init__(self, page: Page, settings: Settings, record: Record) -> None:
        self.page, self.settings, self.record = page, settings, record
        self.names: dict[str, tuple[str, Bound]] = {}
        """By name: the chunk that wrote it last, and what it left there."""
        self.files: dict[str, str] = {}
        """By path: the chunk that wrote it last."""
        self.ambient: dict[str, str] = {}
        """By setting of the session: the chunk that changed it last."""

    def chunk(self, chunk: n.Chunk, trace: Trace) -> Step:
        flows = self.flows(chunk.code, trace.language, trace.reads, trace.names)
        own = {name: (chunk.label, bound) for name, bound in trace.names.items()}
        outside = self.sources(trace.reads, chunk.code)
        outside += [Source("network", "", "")] if trace.network else []
        clock = known(trace.language).code.clock(chunk.code)
        outside += [Source("clock", clock, "")] if clock else []
        made = Step(
            chunk.label, "chunk", chunk.label, chunk.span, trace.language, chunk.code, chunk.code_line, tuple(outside),
            flows, tuple(path for path, _ in trace.written), tuple(trace.names), trace.at, trace.seconds,
        )  # fmt: skip
        for name in trace.deleted:
            self.names.pop(name, None)
        self.names |= own
        self.ambient |= dict.fromkeys(trace.ambient, chunk.label)
        self.files |= dict.fromkeys(made.wrote, chunk.label)
        return made

    def mark(self, outcome: MarkOutcome) -> Step:
        mark, answer = outcome.mark, self.record.answers[outcome.mark.span]
        flows = self.flows(mark.expression, outcome.language, outcome.reads, {})
        return Step(
            key_of_mark(mark.span), "mark", "", mark.span, outcome.language, mark.expression, mark.span.line,
            tuple(self.sources(outcome.reads, mark.expression)), flows, type=answer.type, value=answer.value,
        )  # fmt: skip

    def flows(self, code: str, language: str, reads: Iterable[Read], bound: Mapping[str, Bound]) -> tuple[Flow, ...]:
        """The names that code read, each with its writer and what the code names of it; and the files of chunks above."""
        asked = list(reads)
        names = [read.name for read in asked if read.kind == "name"]
        names += [read.name.partition(" ")[2] for read in asked if read.kind == "handed"]
        parts = {name: self.names[name][1].parts for name in names if name in self.names}
        parts |= {name: one.parts for name, one in bound.items() if one.parts and not parts.get(name)}
        named = _named(code, language, parts)
        found = [
            Flow(name, self.names[name][0] if name in self.names else "", named.get(name, Named()))
            for name in dict.fromkeys(names)
            if (name in self.names or name in named) and not self.is_library(name)
        ]
        found += [Flow(name, "", one) for name, one in named.items() if name not in names]
        files = [read.name for read in asked if read.kind in {"file", "source"} and read.name in self.files]
        found += [Flow(path, self.files[path]) for path in dict.fromkeys(files)]
        return (*found, *self.settings_changed(asked))

    def is_library(self, name: str) -> bool:
        """Whether a name stands for a library, or for something that a library holds: those are told with their versions."""
        return name in self.names and bool(self.names[name][1].provider.module)

    def settings_changed(self, reads: Iterable[Read]) -> list[Flow]:
        """Settings that code went by, and that a chunk had changed."""
        changed: dict[str, list[str]] = {}
        for read in reads:
            if (
                read.kind == "ambient"
                and read.value not in {"", "first"}
                and read.name in self.ambient
                and read.name not in _OF_IMPORTS
            ):
                changed.setdefault(self.ambient[read.name], []).append(read.name.removeprefix("rc:"))
        return [
            Flow(f"the setting {names[0]}" if len(names) == 1 else f"{len(names)} settings", writer)
            for writer, names in changed.items()
        ]

    def sources(self, reads: Iterable[Read], code: str) -> list[Source]:
        """What reads tell of the world outside of the page; of the environment what the code itself names."""
        asked = list(reads)
        found = [Source("package", name, version) for name, version in packages_in(asked).items()]
        for read in asked:
            match read.kind:
                case "file" if read.value != "absent" and read.name not in self.files:
                    found.append(Source("file", read.name, read.value))
                case "source" if read.value != "absent":
                    held = content(str(self.page.path.parent.resolve() / read.name))
                    found.append(Source("module", read.name, held))
                case "given":
                    found.append(Source("given", read.name, _given(self.settings.given.get(read.name))))
                case "environment" if not is_fixed(read.name) and read.name in code:
                    said = "set" if read.value.startswith("=") else "not set"  # what to is nobody's
                    found.append(Source("environment", read.name, said))
                case "seed" | "database" | "program":
                    found.append(Source(_AS_IT_IS[read.kind], read.name, read.value))
        return sorted(set(found))


def _given(value: object) -> str:
    said = as_written(value) if value is not None else ""
    return ", ".join(map(str, said)) if isinstance(said, list) else str(said)


def _named(code: str, language: str, parts: Mapping[str, tuple[str, ...]]) -> dict[str, Named]:
    if language == "python":
        return named_in(code, parts)
    if language == "r":
        found: dict[str, dict[str, None]] = {}
        for name, column in _OF_R.findall(code):
            if column in parts.get(name, ()):
                found.setdefault(name, {})[column] = None
        return {name: Named(tuple(columns)) for name, columns in found.items()}
    return {}
