"""A page grows: what an insert stands for may be known only when chunks above it have run.

An insert is a step of its own. It begins with a small chunk that looks at what the file is repeated for, or that binds
the names given to it; what that chunk tells (`ShownItems`) becomes further inserts, or the file's own blocks.
"""

from __future__ import annotations

from msgspec.structs import replace

from wornpage.plan.codes import reader_of
from wornpage.plan.languages import check_chunks, main_of
from wornpage.plan.steps import Step, steps_of
from wornpage.session.results import ChunkResult, Item, ShownItems
from wornpage.settings import Settings, check_places, settle_insert
from wornpage.source import InsertedFile, Page, opened, slug, templates, told_for
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.walk import rewrite, walk


class Growing:
    """The steps of a page, which become more as its inserts become known."""

    def __init__(self, page: Page, settings: Settings, at_the_end: tuple[n.Node, ...] = ()) -> None:
        self.page = page
        self.settings = settings
        """The page's, and those of what it has come to hold."""
        self.main = main_of(page, settings)
        """The language of its values."""
        self.problems: list[Problem] = []
        self.steps: list[Step] = steps_of(page.blocks, self.opening, at_the_end)
        self.grown: dict[str, n.Blocks] = {}
        """By label of an insert: what it became."""
        self.files: list[InsertedFile] = []

    @property
    def chunks(self) -> list[n.Chunk]:
        """All chunks known so far, in page order, those that inserts begin with among them."""
        return [step.chunk for step in self.steps if step.chunk is not None]

    def opening(self, insert: n.Insert) -> n.Chunk:
        """The chunk that an insert begins with."""
        if insert.target:
            code, binds = insert.items, "each"
        else:
            code, binds = self._binding(insert), "names"
        return n.Chunk(
            insert.span, self.main, insert.label, True, (), code, insert.span.line, "", apart=insert.apart, binds=binds
        )

    def _binding(self, insert: n.Insert) -> str:
        takes = self.settings.takes.get(insert.template.name, {}) if insert.template else {}
        given = {argument.name: argument.expression for argument in insert.arguments}
        read = reader_of(self.main)
        defaults = {name: read.literal(one.default) for name, one in takes.items() if name not in given}
        if insert.item:  # one of several: its target is bound to what it stands for
            defaults = {
                name: value for name, value in defaults.items() if name not in _names_in(insert.arguments[0].name)
            }
        file = insert.file if insert.has_open_name else None
        return read.binding({**given, **defaults}, file, [] if insert.item else list(given))

    # --- growing ------------------------------------------------------------------------------

    def grow(self, index: int, result: ChunkResult) -> bool:
        """Put in place what the insert at step `index` came to; False if that cannot be."""
        insert = self.steps[index].insert
        items = next((shown.items for shown in result.shown if isinstance(shown, ShownItems)), ())
        assert insert is not None
        blocks = self._repetitions(insert, items) if insert.target else self._one(insert, items)
        if blocks is None:
            return False
        self.grown[insert.label] = blocks
        self.steps[index + 1 : index + 1] = steps_of(blocks, self.opening)
        return True

    def _repetitions(self, insert: n.Insert, items: tuple[Item, ...]) -> n.Blocks:
        """One insert for each item."""
        made: list[n.Block] = []
        taken: set[str] = set()
        for place, item in enumerate(items):
            name = base = slug(item.name) or str(place + 1)
            count = 1
            while name in taken:
                count += 1
                name = f"{base}-{count}"
            taken.add(name)
            first = n.Argument(insert.target, item.hidden)
            one = replace(
                insert,
                arguments=(first, *insert.arguments),
                target="",
                items="",
                item=name,
                label=f"{insert.label}.{name}",
            )
            made.append(one)
        return tuple(made)

    def _one(self, insert: n.Insert, items: tuple[Item, ...]) -> n.Blocks | None:
        told = items[0] if items else Item("")
        if insert.template is None:
            insert, files, problems = opened(insert, told.file, self.page.path, self.page.name)
            self.files += files
            self.problems += problems
            if insert.template is not None:
                for one in (insert, *templates(insert.template.blocks)):
                    self.settings, faults = settle_insert(self.settings, one, self.page.path.parent)
                    self.problems += faults
                inside = [node for node in walk(insert.template.blocks) if isinstance(node, n.Chunk)]
                self.problems += check_chunks(inside)
            self.problems += check_places(self.settings, files, self.page.path)
        if insert.template is None or any(problem.severity is Severity.ERROR for problem in self.problems):
            return None
        name = insert.item or slug(told.name)
        what = f" for {name}" if name else ""
        apart = ".".join(filter(None, (insert.apart, name)))
        within = ", ".join(filter(None, (f"inserted at {replace(insert.span, within='')}{what}", insert.span.within)))
        return told_for(insert.template.blocks, within, apart, insert.deeper)

    # --- the whole ----------------------------------------------------------------------------

    def whole(self) -> Page:
        """The page with everything in place that is known."""
        if not any(step.insert for step in self.steps):
            return self.page

        def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
            if not isinstance(node, n.Insert):
                return None
            grown: n.Blocks = rewrite(self.grown.get(node.label, ()), change)
            return (self.opening(node), *grown)

        blocks: n.Blocks = rewrite(self.page.blocks, change)
        chunks = tuple(node for node in walk(blocks) if isinstance(node, n.Chunk))
        return replace(self.page, blocks=blocks, chunks=chunks, files=(*self.page.files, *self.files))


def _names_in(target: str) -> set[str]:
    return {name.strip("()* ") for name in target.split(",")}
