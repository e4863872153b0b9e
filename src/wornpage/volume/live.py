"""A site served on loopback: as it lies in a folder, or kept as its sources are, with every save shown in place."""

from __future__ import annotations

import asyncio
import json
import mimetypes
import secrets
import socket
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from importlib.resources import files
from pathlib import Path
from threading import Event, Thread
from typing import Any

import uvicorn
from msgspec.structs import replace
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, PlainTextResponse, RedirectResponse, Response, StreamingResponse
from starlette.routing import Route
from watchfiles import Change, awatch

from wornpage.proof.server import HOST, Guard
from wornpage.store.place import store_of
from wornpage.tree.bugs import said_of
from wornpage.tree.files import as_json
from wornpage.tree.problem import UsageError, WornError
from wornpage.volume.binding import Wish, bind, folder_of, volume_of

_PASSED_OVER = frozenset({"__pycache__", "node_modules", "pressed", "bound"})
_OWN = frozenset({".html", ".pdf", ".docx", ".epub"})


class SiteServer:
    """A folder with a site; with a wish, the volume that it is kept bound from."""

    def __init__(self, folder: Path, port: int, wish: Wish | None = None) -> None:
        self.folder, self.wish = folder.resolve(), wish
        self.token = secrets.token_urlsafe(18)
        self.socket = socket.socket()
        self.socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self.socket.bind((HOST, port))
        self.socket.listen(64)
        self.port = self.socket.getsockname()[1]
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listeners: set[asyncio.Queue[bytes | None]] = set()
        self._wanted, self._over = Event(), False
        self.said: dict[str, object] = {"problems": [], "busy": False}
        """What whoever comes later is told first."""

    @property
    def address(self) -> str:
        """What to open."""
        return f"http://{HOST}:{self.port}/{self.token}/"

    # --- pages --------------------------------------------------------------------------------

    async def page(self, request: Request) -> Response:
        """A file of the site, and nothing outside its folder."""
        name = request.path_params.get("path", "") or "index.html"
        try:
            path = (self.folder / name).resolve()
            is_there = path.is_relative_to(self.folder) and path.is_file()
        except (OSError, ValueError):
            is_there = False
        if not is_there:
            return PlainTextResponse("there is no such page", 404)
        if self.wish is None or path.suffix != ".html":
            return FileResponse(
                path, media_type=mimetypes.guess_type(path.name)[0], headers={"Cache-Control": "no-cache"}
            )
        html = await asyncio.to_thread(path.read_bytes)
        added = f'<script src="/{self.token}/-/live.js" defer></script></body>'.encode()
        return Response(
            html.replace(b"</body>", added, 1), media_type="text/html", headers={"Cache-Control": "no-store"}
        )

    async def top(self, request: Request) -> Response:
        """The front page, under an address that ends so that links lead on from it."""
        return RedirectResponse(f"/{self.token}/index.html")

    async def script(self, request: Request) -> Response:
        """What keeps pages up to date."""
        return Response((files("wornpage.volume") / "live.js").read_bytes(), media_type="text/javascript")

    async def events(self, request: Request) -> Response:
        """What happens, as server-sent events."""
        return StreamingResponse(self._stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})

    async def _stream(self) -> AsyncIterator[bytes]:
        listener: asyncio.Queue[bytes | None] = asyncio.Queue()
        self._listeners.add(listener)
        try:
            yield as_json(f"retry: 500\nevent: state\ndata: {json.dumps(self.said, ensure_ascii=False)}\n\n")
            while (text := await listener.get()) is not None:
                yield text
        finally:
            self._listeners.discard(listener)

    def tell(self, event: str, data: dict[str, object]) -> None:
        """Tell every browser; from any thread."""
        text = as_json(f"event: {event}\ndata: {json.dumps(data, ensure_ascii=False)}\n\n")
        if self._loop is not None:
            with suppress(RuntimeError):  # the server is ending
                self._loop.call_soon_threadsafe(self._send, text)

    def _send(self, text: bytes | None) -> None:
        for listener in self._listeners:
            listener.put_nowait(text)

    # --- binding ------------------------------------------------------------------------------

    def _bind(self) -> None:
        """Bind whenever something was saved, until all is over."""
        while True:
            self._wanted.wait()
            if self._over:
                return
            self._wanted.clear()
            self._state(busy=True)
            self._state(busy=False, problems=self._bound())

    def _bound(self) -> list[str]:
        """Bind once; what was wrong."""
        assert self.wish is not None
        try:
            bound = bind(volume_of(self.wish), self.wish, self._at, lambda entry, report: None)
        except UsageError as error:
            return [str(error)]
        except WornError as error:
            return [str(problem) for problem in error.problems]
        except Exception as bug:  # the next save may mend it
            return [" ".join(said_of(bug))]
        self.tell("changed", {"pages": bound.changed})
        found = [problem for _, report in bound.reports for problem in report.problems]
        return [str(problem) for problem in dict.fromkeys([*found, *bound.problems])]

    def _at(self, place: int, page: str, chunk: str) -> None:
        self.tell("at", {"page": page, "chunk": chunk})

    def _state(self, busy: bool, problems: list[str] | None = None) -> None:
        self.said = {"busy": busy, "problems": self.said["problems"] if problems is None else problems}
        self.tell("state", self.said)

    # --- running ------------------------------------------------------------------------------

    def app(self) -> Any:
        """The application, behind its guard."""
        routes = [
            Route(f"/{self.token}/", self.top),
            Route(f"/{self.token}/-/events", self.events),
            Route(f"/{self.token}/-/live.js", self.script),
            Route(f"/{self.token}/{{path:path}}", self.page),
        ]
        return Guard(Starlette(routes=routes, lifespan=self._life), self.port)

    @asynccontextmanager
    async def _life(self, app: Starlette) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        if self.wish is None:
            yield
            return
        binder = Thread(target=self._bind, daemon=True)
        binder.start()
        self._wanted.set()
        watching = asyncio.create_task(self._watch(self.wish))
        try:
            yield
        finally:
            watching.cancel()
            self._over = True
            self._wanted.set()
            self._send(None)

    async def _watch(self, wish: Wish) -> None:
        """Bind at every save of whatever may matter."""
        folder = wish.file.resolve().parent
        while folder.is_dir():
            with suppress(OSError, RuntimeError):
                async for _ in awatch(folder, watch_filter=self._matters, debounce=80, step=10):
                    self._wanted.set()
            await asyncio.sleep(1)

    def _matters(self, change: Change, path: str) -> bool:
        assert self.wish is not None
        parts = Path(path).parts[len(self.wish.file.resolve().parent.parts) :]
        own = path.endswith((".part", "~", ".swp")) or Path(path).suffix in _OWN
        return not own and not any(part.startswith(".") or part in _PASSED_OVER for part in parts)


def live_wish(wish: Wish) -> Wish:
    """The same, into a folder that is nobody's business."""
    return replace(wish, folder=store_of(wish.file.absolute()).parent.parent / "proofs" / volume_of(wish).called)


def serve(folder: Path, port: int, ready: Callable[[str], None], wish: Wish | None = None) -> None:
    """Serve a folder until it is broken off, or a volume that is kept bound; `ready` hears its address.

    Raises `OSError` if the port is taken, `UsageError`, `PageError` for a volume that cannot be read.
    """
    if wish is not None:
        wish = live_wish(wish)
        folder = folder_of(wish)
        folder.mkdir(parents=True, exist_ok=True)
    server = SiteServer(folder, port, wish)
    config = uvicorn.Config(
        server.app(), log_level="critical", access_log=False, timeout_graceful_shutdown=1, ws="none"
    )
    ready(server.address)
    uvicorn.Server(config).run(sockets=[server.socket])
