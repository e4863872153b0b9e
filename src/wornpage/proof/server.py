"""The server of a page's proof."""

from __future__ import annotations

import asyncio
import json
import secrets
import sys
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, Response
from starlette.routing import Route
from watchfiles import Change, awatch

from wornpage.compose.graph import draw_graph
from wornpage.output.html.origins import origins_style
from wornpage.proof.parts import own_file, page_with
from wornpage.proof.presser import Presser
from wornpage.proof.workshop import SCRIPTS, Editor, Helper, Workshop, script
from wornpage.serving.loopback import Guard, Loopback, is_source, stamps
from wornpage.tree.files import as_json

_WAITING = "<!DOCTYPE html><html lang='en'><head><meta charset='utf-8'><title>{name}</title></head><body class='worn-waiting'>{additions}</body></html>"

_TURN = 0.001
"""Seconds that what presses keeps other threads waiting."""


class ProofServer(Loopback):
    """One page, what presses it, and the browsers that look at it."""

    def __init__(
        self,
        page: Path,
        given: dict[str, object],
        with_pdf: bool,
        port: int,
        helper: Helper | None = None,
        editor: Editor | None = None,
    ) -> None:
        super().__init__(port)
        self.page, self.with_pdf = page, with_pdf
        self.mark = f"worn-{secrets.token_hex(8)}"
        self._given = given
        self.workshop = Workshop(page, given, helper, editor)

    @property
    def presser(self) -> Presser | None:
        """What presses it, once that has begun."""
        return self.workshop.presser

    def greeting(self) -> tuple[str, dict[str, object]]:
        """How the page stands."""
        assert self.presser is not None
        return "hello", {"version": self.presser.version, **self.presser.state()}

    # --- pages --------------------------------------------------------------------------------

    async def whole(self, request: Request) -> Response:
        """The page."""
        presser = self.presser
        assert presser is not None
        known = {"mark": self.mark, "version": presser.version, "pdf": self.with_pdf}
        if presser.parts is not None:
            known |= presser.parts.difference(presser.parts)
        if presser.proof is not None:
            known["words"] = presser.proof.composed.terms.readers
        data = as_json(json.dumps(known, ensure_ascii=False)).decode().replace("<", "\\u003c")
        scripts = "".join(f'<script src="{name}" defer></script>' for name in SCRIPTS)
        additions = f'<link rel="stylesheet" href="proof.css"><style>{origins_style()}</style><script type="application/json" id="worn-known">{data}</script>{scripts}'
        if presser.parts is None:
            return HTMLResponse(_WAITING.format(name="…", additions=additions))
        return HTMLResponse(page_with(presser.parts, self.mark, additions))

    async def script(self, request: Request) -> Response:
        """One of the scripts."""
        return Response(script(request.url.path.rpartition("/")[2]), media_type="text/javascript")

    async def style(self, request: Request) -> Response:
        """The looks of what is added."""
        return Response(own_file("proof.css"), media_type="text/css")

    async def graph(self, request: Request) -> Response:
        """The graph of the page's chunks and files."""
        proof = self.presser.proof if self.presser else None
        if self.presser is None or proof is None:
            return PlainTextResponse("not yet", 404)
        states = {one["label"]: one["state"] == "fresh" for one in self.presser.chunks.values()}
        return Response(draw_graph(proof.record.graph, states), media_type="image/svg+xml")

    async def pdf(self, request: Request) -> Response:
        """The sheets."""
        if self.presser is None or not self.presser.pdf:
            return PlainTextResponse("not yet", 404)
        return Response(self.presser.pdf, media_type="application/pdf", headers={"Cache-Control": "no-store"})

    # --- running ------------------------------------------------------------------------------

    def app(self) -> Any:
        """The application, behind its guard."""
        start = f"/{self.token}/"
        paths = {"": self.whole, "events": self.events, "proof.css": self.style, "graph.svg": self.graph, "page.pdf": self.pdf}  # fmt: skip
        paths |= dict.fromkeys(SCRIPTS, self.script)
        routes = [Route(f"{start}{path}", endpoint) for path, endpoint in paths.items()]
        routes += self.workshop.routes(start)
        return Guard(Starlette(routes=routes, lifespan=self._life), self.port)

    @asynccontextmanager
    async def _life(self, app: Starlette) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        sys.setswitchinterval(_TURN)  # a save is seen at once, whatever is put together meanwhile
        self.workshop.presser = Presser(self.page, self._given, self.mark, self.with_pdf, self.tell)
        watching = asyncio.create_task(self._watch())
        try:
            yield
        finally:
            watching.cancel()
            self._send(None)
            await asyncio.to_thread(self.workshop.presser.close)

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
                    if self.presser is not None and (missed or any(self._is_news(path) for _, path in changes)):
                        await asyncio.to_thread(self.presser.press)
            await asyncio.sleep(1)

    def _stamps(self) -> dict[Path, tuple[int, int, int]]:
        """What tells saves of the page, and of files elsewhere that it reads."""
        proof = self.presser.proof if self.presser else None
        traces = proof.record.traces.values() if proof else ()
        elsewhere = {path for trace in traces for path in trace.read("file") if path.startswith(("/", ".."))}
        inserted = {str(file.path) for file in proof.source.files} if proof else set()
        return stamps(self.page.parent / path for path in {str(self.page.resolve()), *elsewhere, *inserted})

    def _matters(self, change: Change, path: str) -> bool:
        return is_source(path, self.page.parent.resolve())

    def _is_news(self, path: str) -> bool:
        """Whether a file is not one that the page's own chunks have written."""
        proof = self.presser.proof if self.presser else None
        written = {name for trace in proof.record.traces.values() for name in trace.files} if proof else set()
        here = str(self.page.parent.resolve())
        return path.removeprefix(here).lstrip("/") not in written and path not in written


def serve(
    page: Path,
    given: dict[str, object],
    with_pdf: bool,
    port: int,
    ready: Callable[[str], None],
    helper: Helper | None = None,
    editor: Editor | None = None,
) -> None:
    """Serve a page until it is broken off; `ready` hears its address, `helper` knows what may stand where, `editor` opens places.

    Raises `OSError` if the port is taken.
    """
    ProofServer(page, given, with_pdf, port, helper, editor).run(ready)
