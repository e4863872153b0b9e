"""Inserted files: found, read and built; put in place where nothing has to run for it, kept as templates otherwise."""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from wornpage.source.builder import build
from wornpage.source.naming import stem_of
from wornpage.source.page import InsertedFile, Page
from wornpage.source.repeating import told_for
from wornpage.source.text import front_matter_of, read_text
from wornpage.tree import nodes as n
from wornpage.tree.files import no_name
from wornpage.tree.problem import PageError, Problem, near_miss
from wornpage.tree.span import Span
from wornpage.tree.walk import map_nodes, walk

_LANGUAGES = {".py": "python", ".r": "r", ".sql": "sql", ".sh": "sh", ".js": "js", ".jl": "julia"}
_PART = re.compile(r"^[ \t]*(?:#|--|//)[ \t]*part:[ \t]*(?P<name>[\w.-]+)[ \t]*$", re.IGNORECASE)
_ELSEWHERE = re.compile(r"[a-z][a-z0-9+.-]*:|/|#", re.IGNORECASE)


class Inserted(Struct, frozen=True):
    """A tree with its inserts in place, as far as that is possible without running anything."""

    blocks: n.Blocks
    files: tuple[InsertedFile, ...]
    problems: tuple[Problem, ...]


def with_inserts(blocks: n.Blocks, page: Path, name: str) -> Inserted:
    """Put in place what `blocks` of `page` insert; what has names given to it keeps its file as a template.

    `name` is what the page is called in messages.
    """
    inserter = _Inserter(page, name)
    made = inserter.resolved(blocks, (page.resolve(),), "")
    return Inserted(made, tuple(inserter.files.values()), tuple(inserter.problems))


def opened(
    insert: n.Insert, file: str, page: Path, name: str
) -> tuple[n.Insert, tuple[InsertedFile, ...], tuple[Problem, ...]]:
    """An insert whose file became known only now, with its template; no template if there are problems."""
    inserter = _Inserter(page, name)
    named = replace(insert, file=file)
    template = inserter.template(named, (page.resolve(),))
    return replace(named, template=template), tuple(inserter.files.values()), tuple(inserter.problems)


def templates(blocks: n.Blocks) -> Iterator[n.Insert]:
    """Every insert in `blocks` that keeps its file as a template, nested ones too."""
    for node in walk(blocks):
        if isinstance(node, n.Insert) and node.template is not None:
            yield node
            yield from templates(node.template.blocks)


def all_chunks(page: Page) -> list[n.Chunk]:
    """The chunks of a page, and those of the files it inserts for something, once each."""
    return [node for node in walk(all_blocks(page)) if isinstance(node, n.Chunk)]


def all_blocks(page: Page) -> n.Blocks:
    """The blocks of a page, and those of the files it inserts for something, once each."""
    known = {id(insert.template): insert.template for insert in templates(page.blocks) if insert.template}
    further = tuple(block for template in known.values() for block in template.blocks)
    return (*page.blocks, *further) if further else page.blocks


class _Inserter:
    def __init__(self, page: Path, name: str) -> None:
        self.page, self.name = page, name
        self.files: dict[Path, InsertedFile] = {}
        self.problems: list[Problem] = []
        self.built: dict[Path, n.Template | None] = {}
        self.placed = Counter[Path]()

    def resolved(self, blocks: n.Blocks, chain: tuple[Path, ...], folder: str) -> n.Blocks:
        """`blocks` of a file that lies in `folder`, as seen from the page's; `chain` is the way to it."""
        made: list[n.Block] = []
        for block in blocks:
            made += self.block(block, chain, folder)
        return tuple(made)

    def block(self, block: n.Block, chain: tuple[Path, ...], folder: str) -> n.Blocks:
        match block:
            case n.InsertedCode():
                return self.code(block, folder)
            case n.Insert():
                return self.insert(replace(block, folder=folder), chain)
            case n.Quote() | n.Item() | n.Container():
                return (replace(block, blocks=self.resolved(block.blocks, chain, folder)),)
            case n.List(items=items):
                return (replace(block, items=tuple(self.block(item, chain, folder)[0] for item in items)),)
            case n.Definitions(entries=entries):
                return (replace(block, entries=tuple(self.definition(entry, chain, folder) for entry in entries)),)
        return (block,)

    def definition(self, entry: n.Definition, chain: tuple[Path, ...], folder: str) -> n.Definition:
        return replace(entry, meanings=tuple(self.resolved(meaning, chain, folder) for meaning in entry.meanings))

    def insert(self, insert: n.Insert, chain: tuple[Path, ...]) -> n.Blocks:
        if insert.has_open_name:
            return (insert,)
        template = self.template(insert, chain)
        if template is None:
            return ()
        if insert.arguments or insert.target or template.front.strip():
            return (replace(insert, template=template),)
        path = self.path_of(insert.folder, insert.file)
        self.placed[path] += 1
        apart = str(self.placed[path]) if self.placed[path] > 1 else ""
        return told_for(template.blocks, f"inserted at {insert.span}", apart, insert.deeper)

    def path_of(self, folder: str, file: str) -> Path:
        return (self.page.parent / folder / file).resolve()

    def template(self, insert: n.Insert, chain: tuple[Path, ...]) -> n.Template | None:
        """The file of an insert, built; None if it cannot be."""
        if not self.is_name(insert.span, insert.file):
            return None
        path = self.path_of(insert.folder, insert.file)
        if path in chain:
            way = " → ".join([*(step.name for step in chain[chain.index(path) :]), path.name])
            self.problems.append(
                Problem(insert.span, f"this insert goes round in a circle: {way}.", "Break it somewhere.")
            )
            return None
        self.files.setdefault(path, InsertedFile(path, insert.span))
        if path not in self.built:
            self.built[path] = self.read(insert, path, chain)
        return self.built[path]

    def read(self, insert: n.Insert, path: Path, chain: tuple[Path, ...]) -> n.Template | None:
        text = self.text(insert.span, insert.folder, insert.file)
        if text is None:
            return None
        folder = os.path.normpath((Path(insert.folder) / insert.file).parent)
        folder = "" if folder == "." else folder
        name = self.shown(folder, path.name)
        front, body, problems = front_matter_of(text, name)
        built = build(body, name, stem_of(path.name))
        self.problems += [*problems, *built.problems]
        led = _led(built.blocks, folder, str(Path(folder) / path.name))
        blocks = self.resolved(led, (*chain, path), folder)
        return n.Template(name, front.text, front.first_line, blocks)

    def is_name(self, span: Span, file: str) -> bool:
        """Whether a file can be called so."""
        reason = no_name(file)
        if reason:
            self.problems.append(Problem(span, f"{file[:40]!r} cannot be inserted: {reason}."))
        return not reason

    def shown(self, folder: str, file: str) -> str:
        """What a file is called in messages: as from where the page's name is from."""
        return os.path.normpath(Path(self.name).parent / folder / file)

    def text(self, span: Span, folder: str, file: str) -> str | None:
        path = self.page.parent / folder / file
        if not path.exists() and path.parent.is_dir():
            hint = near_miss(path.name, sorted(entry.name for entry in path.parent.iterdir()))
            self.problems.append(Problem(span, f"there is no file {file!r} to insert.", hint))
            return None
        try:
            return read_text(path, file)
        except PageError as error:
            self.problems += [Problem(span, f"{file!r} cannot be inserted: {p.what}", p.hint) for p in error.problems]
            return None

    # --- code ---------------------------------------------------------------------------------

    def code(self, insert: n.InsertedCode, folder: str) -> n.Blocks:
        """Code of a file: a chunk if it runs, else a listing."""
        if not self.is_name(insert.span, insert.file):
            return ()
        path = self.path_of(folder, insert.file)
        text = self.text(insert.span, folder, insert.file)
        if text is None:
            return ()
        self.files.setdefault(path, InsertedFile(path, insert.span))
        parts = _parts(text)
        if insert.part not in parts:
            what = f"{insert.file!r} has no part {insert.part!r}."
            known = [name for name in parts if name]
            hint = near_miss(insert.part, known) or (
                f"Parts: {', '.join(known)}." if known else "A part begins with a line `# part: name`."
            )
            self.problems.append(Problem(insert.span, what, hint))
            return ()
        code, line = parts[insert.part]
        language = _LANGUAGES.get(path.suffix.lower(), "")
        label = insert.label or stem_of(insert.part or path.name)
        if not insert.runs:
            return (n.Listing(insert.span, language, code, label=insert.label),)
        span = Span(self.shown(folder, insert.file), line, within=f"inserted at {insert.span}")
        fence = f"```{language} run #{label}"
        home = f"{Path(folder) / insert.file}#{label}"
        return (n.Chunk(span, language, label, True, insert.options, code, line, fence, home=home),)


def _parts(text: str) -> dict[str, tuple[str, int]]:
    """Code by the name of its part, and the line it begins in; under no name the whole without the lines between."""
    found: dict[str, tuple[list[str], int]] = {"": ([], 1)}
    name = ""
    for number, line in enumerate(text.splitlines(keepends=True), 1):
        match = _PART.match(line)
        if match:
            name = match["name"]
            found.setdefault(name, ([], number + 1))
            found[""][0].append("\n")
            continue
        found[""][0].append(line)
        if name:
            found[name][0].append(line)
    return {name: ("".join(lines).rstrip("\n") + "\n", first) for name, (lines, first) in found.items()}


def _led(blocks: n.Blocks, folder: str, home: str) -> n.Blocks:
    """Paths of images and links led on from the file's own folder to the page's; chunks know where they are at home."""

    def change(node: n.Node) -> n.Node:
        match node:
            case n.Image(source=source) if folder and not _ELSEWHERE.match(source):
                return replace(node, source=f"{folder}/{source}")
            case n.Link(address=address) if folder and address and not _ELSEWHERE.match(address):
                return replace(node, address=f"{folder}/{address}")
            case n.Chunk():
                return replace(node, home=f"{home}#{node.label}")
        return node

    made: n.Blocks = map_nodes(blocks, change)
    return made
