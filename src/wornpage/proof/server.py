"""The server of a proof: on this machine's loopback alone, under an address that nobody else knows."""

from __future__ import annotations

import asyncio
import json
import secrets
import socket
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Any

import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, Response, StreamingResponse
from starlette.routing import Route
from watchfiles import Change, awatch

from wornpage.compose.graph import draw_graph
from wornpage.proof.desk import Desk
from wornpage.proof.parts import own_file, page_with
from wornpage.tree.files import as_json

HOST = "127.0.0.1"
_PASSED_OVER = frozenset({"__pycache__", "node_modules", "pressed"})
_WAITING = "<!DOCTYPE html><html lang='en'><head><meta charset='utf-8'><title>{name}</title></head><body class='worn-waiting'>{additions}</body></html>"
_POLICY = "default-src 'self' data: 'unsafe-inline'; frame-ancestors 'self'; form-action 'none'"


class ProofServer:
    """One page, its desk, and the browsers that look at it."""

    def __init__(self, page: Path, given: dict[str, object], with_pdf: bool, port: int) -> None:
        self.page, self.with_pdf = page, with_pdf
        self.token = secrets.token_urlsafe(18)
        self.mark = f"worn-{secrets.token_hex(8)}"
        self.socket = socket.socket()
        self.socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self.socket.bind((HOST, port))
        self.socket.listen(64)  # whoever is quicker than the server waits
        self.port = self.socket.getsockname()[1]
        self._given = given
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listeners: set[asyncio.Queue[bytes | None]] = set()
        self.desk: Desk | None = None

    @property
    def address(self) -> str:
        """What to open."""
        return f"http://{HOST}:{self.port}/{self.token}/"

    # --- events -------------------------------------------------------------------------------

    def tell(self, event: str, data: dict[str, object]) -> None:
        """Tell every browser; from any thread."""
        text = as_json(f"event: {event}\ndata: {json.dumps(data, ensure_ascii=False)}\n\n")
        if self._loop is not None:
            with suppress(RuntimeError):  # the server is ending
                self._loop.call_soon_threadsafe(self._send, text)

    def _send(self, text: bytes) -> None:
        for listener in self._listeners:
            listener.put_nowait(text)

    async def events(self, request: Request) -> Response:
        """What happens, as server-sent events."""
        return StreamingResponse(self._stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})

    async def _stream(self) -> AsyncIterator[bytes]:
        assert self.desk is not None
        queue: asyncio.Queue[bytes | None] = asyncio.Queue()
        self._listeners.add(queue)
        try:
            hello = {"version": self.desk.version, **self.desk.state()}
            yield as_json(f"retry: 500\nevent: hello\ndata: {json.dumps(hello, ensure_ascii=False)}\n\n")
            while (text := await queue.get()) is not None:
                yield text
        finally:
            self._listeners.discard(queue)

    # --- pages --------------------------------------------------------------------------------

    async def whole(self, request: Request) -> Response:
        """The page."""
        desk = self.desk
        assert desk is not None
        known = {"mark": self.mark, "version": desk.version, "pdf": self.with_pdf}
        if desk.parts is not None:
            known |= desk.parts.difference(desk.parts)
        data = as_json(json.dumps(known, ensure_ascii=False)).decode().replace("<", "\\u003c")
        additions = f'<link rel="stylesheet" href="proof.css"><script type="application/json" id="worn-known">{data}</script><script src="proof.js" defer></script>'
        if desk.parts is None:
            return HTMLResponse(_WAITING.format(name="…", additions=additions))
        return HTMLResponse(page_with(desk.parts, self.mark, additions))

    async def script(self, request: Request) -> Response:
        """The script that keeps the page up to date."""
        return Response(own_file("proof.js"), media_type="text/javascript")

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

    # --- running ------------------------------------------------------------------------------

    def app(self) -> Any:
        """The application, behind its guard."""
        paths: dict[str, Callable[[Request], object]] = {
            "": self.whole, "events": self.events, "proof.js": self.script, "proof.css": self.style, "graph.svg": self.graph, "page.pdf": self.pdf,
        }  # fmt: skip
        routes = [Route(f"/{self.token}/{path}", endpoint) for path, endpoint in paths.items()]
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
            for listener in self._listeners:
                listener.put_nowait(None)
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
                    stamps = self._stamps()
                    missed = any(stamps[path] != seen.get(path, stamps[path]) for path in stamps)
                    seen |= stamps
                    if self.desk is not None and (missed or any(self._is_news(path) for _, path in changes)):
                        await asyncio.to_thread(self.desk.press)
            await asyncio.sleep(1)

    def _stamps(self) -> dict[str, tuple[int, int, int]]:
        """What tells saves of the page, and of files elsewhere that it reads."""
        proof = self.desk.proof if self.desk else None
        traces = proof.record.traces.values() if proof else ()
        elsewhere = {path for trace in traces for path in trace.read("file") if path.startswith(("/", ".."))}
        inserted = {str(file.path) for file in proof.source.files} if proof else set()
        found = {}
        for path in {str(self.page.resolve()), *elsewhere, *inserted}:
            try:
                stat = (self.page.parent / path).stat()
            except OSError:
                continue  # on its way, in a save that replaces it
            found[path] = (stat.st_mtime_ns, stat.st_size, stat.st_ino)
        return found

    def _matters(self, change: Change, path: str) -> bool:
        parts = Path(path).parts[len(self.page.parent.resolve().parts) :]
        own = path.endswith((".part", "~", ".swp")) or Path(path).suffix in {".html", ".pdf", ".docx"}
        return not own and not any(part.startswith(".") or part in _PASSED_OVER for part in parts)

    def _is_news(self, path: str) -> bool:
        """Whether a file is not one that the page's own chunks have written."""
        proof = self.desk.proof if self.desk else None
        written = {name for trace in proof.record.traces.values() for name, _ in trace.written} if proof else set()
        here = str(self.page.parent.resolve())
        return path.removeprefix(here).lstrip("/") not in written and path not in written


class Guard:
    """Lets through what comes from this machine's browser and knows the address; nobody else, whatever they claim."""

    def __init__(self, app: Any, port: int) -> None:
        self._app = app
        self._hosts = {f"{name}:{port}" for name in (HOST, "localhost")}

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = {name.lower(): value.decode("latin-1") for name, value in scope["headers"]}
        origin = headers.get(b"origin")
        site = headers.get(b"sec-fetch-site", "none")
        strange = headers.get(b"host") not in self._hosts or site not in {"none", "same-origin"}
        if strange or (origin is not None and origin.removeprefix("http://") not in self._hosts):
            await PlainTextResponse("this page is served to its own browser alone", 403)(scope, receive, send)
            return

        async def guarded(message: Any) -> None:
            if message["type"] == "http.response.start":
                message["headers"] += [
                    (b"content-security-policy", _POLICY.encode()), (b"referrer-policy", b"no-referrer"), (b"x-content-type-options", b"nosniff"),
                ]  # fmt: skip
            await send(message)

        await self._app(scope, receive, guarded)


def serve(page: Path, given: dict[str, object], with_pdf: bool, port: int, ready: Callable[[str], None]) -> None:
    """Serve a page until it is broken off; `ready` hears its address. Raises `OSError` if the port is taken."""
    server = ProofServer(page, given, with_pdf, port)
    config = uvicorn.Config(
        server.app(), log_level="critical", access_log=False, timeout_graceful_shutdown=1, ws="none"
    )
    ready(server.address)
    uvicorn.Server(config).run(sockets=[server.socket])
