"""A server on this machine's loopback alone, under an address that nobody else knows, and the browsers that listen to it."""

from __future__ import annotations

import asyncio
import json
import secrets
import socket
from collections.abc import AsyncIterator, Callable, Iterable
from contextlib import suppress
from pathlib import Path
from typing import Any

import uvicorn
from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response, StreamingResponse

from wornpage.tree.files import as_json

_HOST = "127.0.0.1"
_PASSED_OVER = frozenset({"__pycache__", "node_modules", "pressed", "bound"})
_OWN = (".part", "~", ".swp", ".html", ".pdf", ".docx", ".epub")
_POLICY = "default-src 'self' data: 'unsafe-inline'; frame-ancestors 'self'; form-action 'none'"


class Loopback:
    """The address, and what is told to whoever looks at it."""

    def __init__(self, port: int) -> None:
        """Take a port, any if it is 0. Raises `OSError` if it is taken."""
        self.token = secrets.token_urlsafe(18)
        self.socket = socket.socket()
        self.socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self.socket.bind((_HOST, port))
        self.socket.listen(64)  # whoever is quicker than the server waits
        self.port = self.socket.getsockname()[1]
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listeners: set[asyncio.Queue[bytes | None]] = set()

    @property
    def address(self) -> str:
        """What to open."""
        return f"http://{_HOST}:{self.port}/{self.token}/"

    def app(self) -> Any:
        """What answers."""
        raise NotImplementedError

    def greeting(self) -> tuple[str, dict[str, object]]:
        """The event that whoever comes is told first, and its data."""
        raise NotImplementedError

    def run(self, ready: Callable[[str], None]) -> None:
        """Serve until it is broken off; `ready` hears the address."""
        config = uvicorn.Config(
            self.app(), log_level="critical", access_log=False, timeout_graceful_shutdown=1, ws="none"
        )
        ready(self.address)
        uvicorn.Server(config).run(sockets=[self.socket])

    # --- events -------------------------------------------------------------------------------

    def tell(self, event: str, data: dict[str, object]) -> None:
        """Tell every browser; from any thread."""
        if self._loop is not None:
            with suppress(RuntimeError):  # the server is ending
                self._loop.call_soon_threadsafe(self._send, _event(event, data))

    def _send(self, text: bytes | None) -> None:
        """Send an event to all; None ends it."""
        for listener in self._listeners:
            listener.put_nowait(text)

    async def events(self, request: Request) -> Response:
        """What happens, as server-sent events."""
        return StreamingResponse(self._stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})

    async def _stream(self) -> AsyncIterator[bytes]:
        listener: asyncio.Queue[bytes | None] = asyncio.Queue()
        self._listeners.add(listener)
        try:
            yield b"retry: 500\n" + _event(*self.greeting())
            while (text := await listener.get()) is not None:
                yield text
        finally:
            self._listeners.discard(listener)


def _event(name: str, data: dict[str, object]) -> bytes:
    return as_json(f"event: {name}\ndata: {json.dumps(data, ensure_ascii=False)}\n\n")


def is_source(path: str, folder: Path) -> bool:
    """Whether a file below a folder may be one that pages are made from: no output of ours, nothing hidden."""
    parts = Path(path).parts[len(folder.parts) :]
    return not path.endswith(_OWN) and not any(part.startswith(".") or part in _PASSED_OVER for part in parts)


def stamps(paths: Iterable[Path]) -> dict[Path, tuple[int, int, int]]:
    """What tells saves of files; one that is on its way, in a save that replaces it, is left out."""
    found = {}
    for path in paths:
        with suppress(OSError):
            stat = path.stat()
            found[path] = (stat.st_mtime_ns, stat.st_size, stat.st_ino)
    return found


class Guard:
    """Lets through what comes from this machine's browser and knows the address; nobody else, whatever they claim."""

    def __init__(self, app: Any, port: int) -> None:
        self._app = app
        self._hosts = {f"{name}:{port}" for name in (_HOST, "localhost")}

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
