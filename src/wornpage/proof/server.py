"""The server of a page's proof."""

from __future__ import annotations

import asyncio
import json
import secrets
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, Response
from starlette.routing import Route
from watchfiles import Change, awatch

from wornpage.compose.graph import draw_graph
from wornpage.output.atomic import write_file
from wornpage.press import Proof
from wornpage.proof.desk import Desk
from wornpage.proof.editing import opened, with_block, write_block
from wornpage.proof.finding import everything, taken
from wornpage.proof.parts import own_file, page_with
from wornpage.proof.tuning import chunk_at, lines_for, tuned
from wornpage.proof.values import checked, fields_of, write_defaults
from wornpage.serving.loopback import Guard, Loopback, is_source, stamps
from wornpage.source import read_page
from wornpage.source.editing import write_page
from wornpage.tree.files import as_json
from wornpage.tree.problem import PageError, UsageError

_WAITING = "<!DOCTYPE html><html lang='en'><head><meta charset='utf-8'><title>{name}</title></head><body class='worn-waiting'>{additions}</body></html>"


Helper = Callable[[Path, str, int, int], list[tuple[str, str]]]
"""What may stand at a place of a page with this text, line and column counted from 0: texts, and what is said of each."""


class ProofServer(Loopback):
    """One page, its desk, and the browsers that look at it."""

    def __init__(
        self, page: Path, given: dict[str, object], with_pdf: bool, port: int, helper: Helper | None = None
    ) -> None:
        super().__init__(port)
        self._helper = helper
        self.page, self.with_pdf = page, with_pdf
        self.mark = f"worn-{secrets.token_hex(8)}"
        self._given = given
        self.desk: Desk | None = None

    def greeting(self) -> tuple[str, dict[str, object]]:
        """How the page stands."""
        assert self.desk is not None
        return "hello", {"version": self.desk.version, **self.desk.state()}

    # --- pages --------------------------------------------------------------------------------

    async def whole(self, request: Request) -> Response:
        """The page."""
        desk = self.desk
        assert desk is not None
        known = {"mark": self.mark, "version": desk.version, "pdf": self.with_pdf}
        if desk.parts is not None:
            known |= desk.parts.difference(desk.parts)
        data = as_json(json.dumps(known, ensure_ascii=False)).decode().replace("<", "\\u003c")
        additions = f'<link rel="stylesheet" href="proof.css"><script type="application/json" id="worn-known">{data}</script><script src="proof.js" defer></script><script src="values.js" defer></script><script src="editing.js" defer></script><script src="finding.js" defer></script><script src="tuning.js" defer></script>'
        if desk.parts is None:
            return HTMLResponse(_WAITING.format(name="…", additions=additions))
        return HTMLResponse(page_with(desk.parts, self.mark, additions))

    async def script(self, request: Request) -> Response:
        """The script that keeps the page up to date."""
        return Response(own_file("proof.js"), media_type="text/javascript")

    async def tools(self, request: Request) -> Response:
        """The script with which values are tried."""
        return Response(own_file("values.js"), media_type="text/javascript")

    async def style(self, request: Request) -> Response:
        """The looks of what is added."""
        return Response(own_file("proof.css"), media_type="text/css")

    async def graph(self, request: Request) -> Response:
        """The graph of the page's chunks and files."""
        proof = self.desk.proof if self.desk else None
        if self.desk is None or proof is None:
            return PlainTextResponse("not yet", 404)
        states = {one["label"]: one["state"] == "fresh" for one in self.desk.chunks.values()}
        return Response(draw_graph(proof.record.graph, states), media_type="image/svg+xml")

    async def pdf(self, request: Request) -> Response:
        """The sheets."""
        if self.desk is None or not self.desk.pdf:
            return PlainTextResponse("not yet", 404)
        return Response(self.desk.pdf, media_type="application/pdf", headers={"Cache-Control": "no-store"})

    # --- given values -------------------------------------------------------------------------

    async def values(self, request: Request) -> Response:
        """Fields for the page's givens."""
        proof = self.desk.proof if self.desk else None
        return HTMLResponse(fields_of(proof) if proof is not None else "")

    async def given(self, request: Request) -> Response:
        """Show the page with other values."""
        return await self._with_values(request, self._try)

    async def default(self, request: Request) -> Response:
        """Write the values that are shown into the page, as its defaults."""
        return await self._with_values(request, self._write)

    async def _with_values(self, request: Request, act: Callable[[Proof, dict[str, object]], str]) -> Response:
        proof = self.desk.proof if self.desk else None
        if proof is None:
            return JSONResponse({"why": "the page has not been shown yet."}, 409)
        try:
            asked = json.loads(await request.body())
            written = checked(proof, {str(name): value for name, value in asked.items()})
            return JSONResponse({"said": await asyncio.to_thread(act, proof, written)})
        except (ValueError, AttributeError):
            return JSONResponse({"why": "these are no values."}, 400)
        except UsageError as error:
            return JSONResponse({"why": str(error)}, 422)

    # --- blocks opened in place -----------------------------------------------------------------

    async def source(self, request: Request) -> Response:
        """The Markdown of a part of the page; or what is to stand in its place."""
        proof = self.desk.proof if self.desk else None
        if proof is None or self.desk is None or self.desk.parts is None:
            return JSONResponse({"why": "the page has not been shown yet."}, 409)
        try:
            if request.method == "POST":
                asked = json.loads(await request.body())
                first, before, after = int(asked["first"]), str(asked["before"]), str(asked["after"])
                await asyncio.to_thread(write_block, self.page, proof.source, first, before, after)
                return JSONResponse({})
            part = self.desk.parts.parts[int(request.query_params["part"])]
            if part.file != proof.source.name:
                raise UsageError(f"this stands in {part.file}:{part.line}, which is inserted here.")
            block = opened(proof.source, part.line)
            return JSONResponse({"first": block.first, "text": block.text})
        except (ValueError, KeyError, IndexError, TypeError, AttributeError):
            return JSONResponse({"why": "there is nothing at this place that could be opened."}, 400)
        except UsageError as error:
            return JSONResponse({"why": str(error)}, 422)

    # --- labels and works -----------------------------------------------------------------------

    async def find(self, request: Request) -> Response:
        """Labels and works that fit some words; or a work that is to be taken into the bibliography."""
        proof = self.desk.proof if self.desk else None
        if proof is None:
            return JSONResponse({"why": "the page has not been shown yet."}, 409)
        try:
            if request.method == "POST":
                what = str(json.loads(await request.body())["take"])
                return JSONResponse({"mark": await asyncio.to_thread(taken, proof, what)})
            words = request.query_params.get("words", "")
            return JSONResponse({"found": await asyncio.to_thread(everything, proof, words)})
        except (ValueError, KeyError, TypeError):
            return JSONResponse({"why": "there is nothing to be found like that."}, 400)
        except UsageError as error:
            return JSONResponse({"why": str(error)}, 422)

    async def finder(self, request: Request) -> Response:
        """The script with which they are found."""
        return Response(own_file("finding.js"), media_type="text/javascript")

    # --- figures ----------------------------------------------------------------------------------

    async def tune(self, request: Request) -> Response:
        """A figure with what was picked for it: shown, written into the page, or as it was."""
        if self.desk is None or self.desk.parts is None:
            return JSONResponse({"why": "the page has not been shown yet."}, 409)
        try:
            asked = json.loads(await request.body())
            return JSONResponse(await asyncio.to_thread(self._tuned, asked))
        except (ValueError, KeyError, IndexError, TypeError, AttributeError):
            return JSONResponse({"why": "this figure cannot be set here."}, 400)
        except (UsageError, PageError) as error:
            return JSONResponse({"why": str(error)}, 422)

    def _tuned(self, asked: dict[str, Any]) -> dict[str, object]:
        desk = self.desk
        assert desk is not None and desk.parts is not None
        if asked["what"] == "leave":
            desk.show_text(None)
            return {"code": ""}
        page = read_page(self.page, self.page.name)
        line = int(asked["first"] or desk.parts.parts[int(asked["part"])].line)
        chunk = chunk_at(page, line)
        picked = {str(name): str(value) for name, value in asked["picked"].items()}
        text = tuned(page, chunk, picked)
        code = "\n".join(lines_for(page, chunk, picked))
        if asked["what"] == "write":
            write_page(self.page, page.text, text, write_file)
            return {"code": code, "said": "written"}
        desk.show_text(text)
        return {"code": code, "first": line}

    async def tuner(self, request: Request) -> Response:
        """The script with which figures are set."""
        return Response(own_file("tuning.js"), media_type="text/javascript")

    async def help(self, request: Request) -> Response:
        """What may stand where somebody writes in a block that is open."""
        proof = self.desk.proof if self.desk else None
        try:
            asked = json.loads(await request.body())
            first, before, after = int(asked["first"]), str(asked["before"]), str(asked["after"])
            line, column = first - 1 + int(asked["line"]), int(asked["column"])
        except (ValueError, KeyError, TypeError):
            return JSONResponse({"found": []}, 400)
        if proof is None or self._helper is None:
            return JSONResponse({"found": []})
        try:
            text = with_block(proof.source, first, before, after)
        except UsageError:
            return JSONResponse({"found": []})
        return JSONResponse({"found": await asyncio.to_thread(self._helper, self.page, text, line, column)})

    async def editor(self, request: Request) -> Response:
        """The script with which blocks are opened."""
        return Response(own_file("editing.js"), media_type="text/javascript")

    def _try(self, proof: Proof, written: dict[str, object]) -> str:
        assert self.desk is not None
        self.desk.show_with({**self._given, **written})
        return ""

    def _write(self, proof: Proof, written: dict[str, object]) -> str:
        changed = write_defaults(self.page, proof, written)
        return (
            f"{self.page.name} begins with {', '.join(changed)} now" if changed else "the page has these values already"
        )

    # --- running ------------------------------------------------------------------------------

    def app(self) -> Any:
        """The application, behind its guard."""
        paths: dict[str, Callable[[Request], object]] = {
            "": self.whole, "events": self.events, "proof.js": self.script, "proof.css": self.style, "graph.svg": self.graph, "page.pdf": self.pdf,
            "values.js": self.tools, "values": self.values, "source": self.source, "editing.js": self.editor, "find": self.find, "finding.js": self.finder, "tuning.js": self.tuner,
        }  # fmt: skip
        told: dict[str, Callable[[Request], object]] = {
            "given": self.given,
            "default": self.default,
            "source": self.source,
            "find": self.find,
            "tune": self.tune,
            "help": self.help,
        }
        routes = [Route(f"/{self.token}/{path}", endpoint) for path, endpoint in paths.items()]
        routes += [Route(f"/{self.token}/{path}", endpoint, methods=["POST"]) for path, endpoint in told.items()]
        return Guard(Starlette(routes=routes, lifespan=self._life), self.port)

    @asynccontextmanager
    async def _life(self, app: Starlette) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        self.desk = Desk(self.page, self._given, self.mark, self.with_pdf, self.tell)
        watching = asyncio.create_task(self._watch())
        try:
            yield
        finally:
            watching.cancel()
            self._send(None)
            await asyncio.to_thread(self.desk.close)

    async def _watch(self) -> None:
        """Press at every save of whatever may matter.

        Once a second the page itself and what it reads from other folders are looked at too: no save is lost.
        """
        folder = self.page.parent.resolve()
        seen = self._stamps()
        while folder.is_dir():
            watch = awatch(
                folder, watch_filter=self._matters, debounce=60, step=5, rust_timeout=1000, yield_on_timeout=True
            )
            with suppress(OSError, RuntimeError):  # the folder was moved or taken away: it may come back
                async for changes in watch:
                    now = self._stamps()
                    missed = any(now[path] != seen.get(path, now[path]) for path in now)
                    seen |= now
                    if self.desk is not None and (missed or any(self._is_news(path) for _, path in changes)):
                        await asyncio.to_thread(self.desk.press)
            await asyncio.sleep(1)

    def _stamps(self) -> dict[Path, tuple[int, int, int]]:
        """What tells saves of the page, and of files elsewhere that it reads."""
        proof = self.desk.proof if self.desk else None
        traces = proof.record.traces.values() if proof else ()
        elsewhere = {path for trace in traces for path in trace.read("file") if path.startswith(("/", ".."))}
        inserted = {str(file.path) for file in proof.source.files} if proof else set()
        return stamps(self.page.parent / path for path in {str(self.page.resolve()), *elsewhere, *inserted})

    def _matters(self, change: Change, path: str) -> bool:
        return is_source(path, self.page.parent.resolve())

    def _is_news(self, path: str) -> bool:
        """Whether a file is not one that the page's own chunks have written."""
        proof = self.desk.proof if self.desk else None
        written = {name for trace in proof.record.traces.values() for name, _ in trace.written} if proof else set()
        here = str(self.page.parent.resolve())
        return path.removeprefix(here).lstrip("/") not in written and path not in written


def serve(
    page: Path,
    given: dict[str, object],
    with_pdf: bool,
    port: int,
    ready: Callable[[str], None],
    helper: Helper | None = None,
) -> None:
    """Serve a page until it is broken off; `ready` hears its address, `helper` knows what may stand where. Raises `OSError` if the port is taken."""
    ProofServer(page, given, with_pdf, port, helper).run(ready)
