"""What can be done to a page in its proof: values tried, blocks opened, labels found, figures set. Each tool is a script and what it asks for."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal, TypeVar

from msgspec import Struct, ValidationError, convert
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from wornpage.lineage.steps import Lineage
from wornpage.lineage.tracing import lineage_of
from wornpage.output.atomic import write_file
from wornpage.output.html.origins import Origins
from wornpage.output.html.scripts import OF_FIELDS, OF_ORIGINS, own_script
from wornpage.press import Proof
from wornpage.proof.editing import opened, with_block, write_block
from wornpage.proof.finding import everything, taken
from wornpage.proof.parts import Parts, own_file
from wornpage.proof.presser import Presser
from wornpage.proof.tuning import chunk_at, lines_for, tuned
from wornpage.proof.values import checked, fields_of, write_defaults
from wornpage.serving.data import Misheard, answer, heard, refusal
from wornpage.source import read_page
from wornpage.source.editing import write_page
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import PageError, UsageError

_SHARED = (OF_FIELDS, OF_ORIGINS)
"""Scripts that pages carry, too."""
SCRIPTS = ("proof.js", OF_FIELDS, OF_ORIGINS, "values.js", "editing.js", "finding.js", "tuning.js", "asking.js")
"""Those of a proof, in the order in which they begin: the first keeps the page up to date, each other is a tool."""
Helper = Callable[[Path, str, int, int], list[tuple[str, str]]]
"""What may stand at a place of a page with this text, line and column counted from 0: texts, and what is said of each."""
Editor = Callable[[Path, int, int], bool]
"""Opens a file at a line and a column, counted from 1; whether it could."""
_LONGEST = 40_000_000
"""Bytes of what is asked: a block twice."""
Told = dict[str, Any]
"""What a script is told, as plain data."""
Asked = TypeVar("Asked")


def script(name: str) -> str:
    """One of `SCRIPTS`."""
    return own_script(name) if name in _SHARED else own_file(name)


class Place(Struct, frozen=True):
    """A part of the page, by its number."""

    part: int


class Thing(Struct, frozen=True):
    """Something that can be asked of: the number of its part, and its own among those in it."""

    part: int
    at: int


class Spot(Struct, frozen=True):
    """A place in a source, as `file:line:column`."""

    place: str


class Block(Struct, frozen=True):
    """A block that was opened at a line, and what is to stand there."""

    first: int
    before: str
    after: str


class Pointed(Block, frozen=True):
    """The same, with where somebody writes in it, counted from 0."""

    line: int
    column: int


class Words(Struct, frozen=True):
    """What labels and works are looked for by."""

    words: str = ""


class Wanted(Struct, frozen=True):
    """A work that is to be taken into the bibliography: by its key, or by a DOI."""

    take: str


class Tuned(Struct, frozen=True):
    """What was picked for a figure, and whether it is tried, written or left."""

    what: Literal["try", "write", "leave"]
    part: int
    picked: dict[str, str] = {}
    first: int | None = None
    """The line of its chunk, once that is known."""


class Seen(Struct, frozen=True):
    """The page as it is shown."""

    presser: Presser
    proof: Proof
    parts: Parts


class Workshop:
    """The tools of one page."""

    def __init__(
        self, page: Path, given: dict[str, object], helper: Helper | None, editor: Editor | None = None
    ) -> None:
        self.page, self._given, self._helper, self._editor = page, given, helper, editor
        self._traced: tuple[Proof, Lineage] | None = None
        self.presser: Presser | None = None
        """As soon as there is one."""

    def routes(self, start: str) -> list[Route]:
        """What the tools ask for, below an address."""
        given = dict[str, object]
        table: tuple[tuple[str, str, Any, Callable[[Seen, Any], Told]], ...] = (
            ("GET", "values", Words, self.fields), ("POST", "given", given, self.try_values), ("POST", "default", given, self.write_values),
            ("GET", "source", Place, self.open), ("POST", "source", Block, self.write), ("POST", "help", Pointed, self.help),
            ("GET", "find", Words, self.find), ("POST", "find", Wanted, self.take), ("POST", "tune", Tuned, self.tune),
            ("GET", "origin", Thing, self.origin), ("POST", "edit", Spot, self.edit),
        )  # fmt: skip
        return [Route(f"{start}{path}", self._answering(kind, act), methods=[how]) for how, path, kind, act in table]

    def _answering(self, kind: type[Asked], act: Callable[[Seen, Asked], Told]) -> Callable[[Request], Any]:
        """Answer with what an act tells, or with why it could not be done."""

        async def replied(request: Request) -> Response:
            seen = self._seen()
            if seen is None:
                return answer({"why": "the page has not been shown yet."}, 409)
            try:
                is_told = request.method == "POST"
                asked = (
                    await heard(request, kind, _LONGEST)
                    if is_told
                    else convert(dict(request.query_params), kind, strict=False)
                )
                return answer(await asyncio.to_thread(act, seen, asked))
            except Misheard as wrong:
                return refusal(wrong)
            except ValidationError:
                return answer({"why": "this is not understood."}, 400)
            except (UsageError, PageError) as error:
                return answer({"why": str(error)}, 422)
            except Exception as bug:
                return answer({"why": " ".join(said_of(bug))}, 500)

        return replied

    def _seen(self) -> Seen | None:
        presser = self.presser
        if presser is None or presser.proof is None or presser.parts is None:
            return None
        return Seen(presser, presser.proof, presser.parts)

    # --- given values -------------------------------------------------------------------------

    def fields(self, seen: Seen, asked: Words) -> Told:
        """Fields for the page's givens."""
        return {"fields": fields_of(seen.proof)}

    def try_values(self, seen: Seen, asked: dict[str, object]) -> Told:
        """Show the page with other values."""
        seen.presser.show_with({**self._given, **checked(seen.proof, asked)})
        return {}

    def write_values(self, seen: Seen, asked: dict[str, object]) -> Told:
        """Write the values that are shown into the page, as its defaults."""
        changed = write_defaults(self.page, seen.proof, checked(seen.proof, asked))
        now = f"{self.page.name} begins with {', '.join(changed)} now"
        return {"said": now if changed else "the page has these values already"}

    # --- blocks opened in place -----------------------------------------------------------------

    def open(self, seen: Seen, asked: Place) -> Told:
        """The Markdown of a part of the page."""
        place, name = _at(seen, asked.part), seen.proof.source.name
        if place[0] != name:
            raise UsageError(f"this stands in {place[0]}:{place[1]}, which is inserted here.")
        block = opened(seen.proof.source, place[1])
        return {"first": block.first, "text": block.text}

    def write(self, seen: Seen, asked: Block) -> Told:
        """Put what is to stand there in its place."""
        write_block(self.page, seen.proof.source, asked.first, asked.before, asked.after)
        return {}

    def help(self, seen: Seen, asked: Pointed) -> Told:
        """What may stand where somebody writes in a block that is open."""
        if self._helper is None:
            return {"found": []}
        text = with_block(seen.proof.source, asked.first, asked.before, asked.after)
        return {"found": self._helper(self.page, text, asked.first - 1 + asked.line, asked.column)}

    # --- labels and works -----------------------------------------------------------------------

    def find(self, seen: Seen, asked: Words) -> Told:
        """Labels and works that fit some words."""
        return {"found": everything(seen.proof, asked.words)}

    def take(self, seen: Seen, asked: Wanted) -> Told:
        """Take a work into the bibliography."""
        return {"mark": taken(seen.proof, asked.take)}

    # --- where things come from -------------------------------------------------------------------

    def origin(self, seen: Seen, asked: Thing) -> Told:
        """The steps behind a value, a figure or a table."""
        parts = seen.parts.parts
        keys = parts[asked.part].origins if 0 <= asked.part < len(parts) else ()
        if not 0 <= asked.at < len(keys):
            raise UsageError("the page is being put together; ask again in a moment.")
        try:
            return Origins(self._lineage(seen.proof), "").answer(keys[asked.at], seen.proof.composed.terms)
        except LookupError:
            raise UsageError("no chunk of the page stands behind this.") from None

    def _lineage(self, proof: Proof) -> Lineage:
        if self._traced is None or self._traced[0] is not proof:
            self._traced = proof, lineage_of(proof.source, proof.settings, proof.record)
        return self._traced[1]

    def edit(self, seen: Seen, asked: Spot) -> Told:
        """Open a place of the page, or of a file that it inserts, in the editor that was named, if one was."""
        file, line, column = [*asked.place.rsplit(":", 2), "1", "1"][:3]
        known = {seen.proof.source.name: seen.proof.source.path}
        known |= {one.span.file: one.path for one in seen.proof.source.files}
        path = next((one for name, one in known.items() if file in {name, one.name}), None)
        path = path or next((one.path for one in seen.proof.source.files if str(one.path).endswith(f"/{file}")), None)
        if path is None or not (line.isdigit() and column.isdigit()):
            raise UsageError(f"{asked.place} is no place of this page.")
        return {"opened": self._editor is not None and self._editor(path, int(line), int(column))}

    # --- figures ----------------------------------------------------------------------------------

    def tune(self, seen: Seen, asked: Tuned) -> Told:
        """A figure with what was picked for it: shown, written into the page, or as it was."""
        if asked.what == "leave":
            seen.presser.show_text(None)
            return {"code": ""}
        page = read_page(self.page, self.page.name)
        line = asked.first or _at(seen, asked.part)[1]
        chunk = chunk_at(page, line)
        text = tuned(page, chunk, asked.picked)
        code = "\n".join(lines_for(page, chunk, asked.picked))
        if asked.what == "write":
            write_page(self.page, page.text, text, write_file)
            return {"code": code, "said": "written"}
        seen.presser.show_text(text)
        return {"code": code, "first": line}


def _at(seen: Seen, part: int) -> tuple[str, int]:
    """Where a part of the page is written: file and line. Raises `UsageError` for none."""
    if not 0 <= part < len(seen.parts.parts):
        raise UsageError("there is nothing at this place that could be opened.")
    found = seen.parts.parts[part]
    return found.file, found.line
