"""A server on this machine's loopback, unless another network is named, under an address that nobody else knows; and the browsers that listen to it."""

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
_MOST_WAITING = 200
"""Events that wait for one browser."""
_SILENCE = 20.0
"""Seconds."""
_PASSED_OVER = frozenset({"__pycache__", "node_modules", "pressed", "bound"})
_OWN = (".part", "~", ".swp", ".html", ".pdf", ".docx", ".pptx", ".epub")
_POLICY = "default-src 'self' data: blob: 'unsafe-inline' 'unsafe-eval'; frame-ancestors 'self'; form-action 'none'"


class Loopback:
    """The address, and what is told to whoever looks at it."""

    def __init__(self, port: int, host: str = _HOST) -> None:
        """Take a port of `host`, any if it is 0. Raises `OSError` if it cannot be had."""
        self.token = secrets.token_urlsafe(18)
        self.host = host
        self.socket = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
        self.socket.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self.socket.bind((host, port))
        self.socket.listen(512)  # whoever is quicker than the server waits
        self.port = self.socket.getsockname()[1]
        self._loop: asyncio.AbstractEventLoop | None = None
        self._listeners: set[asyncio.Queue[bytes | None]] = set()

    @property
    def address(self) -> str:
        """What to open."""
        return f"{self.base}{self.token}/"

    @property
    def base(self) -> str:
        """What all its addresses begin with, as others would call this machine."""
        name = own_name(self.host)
        return f"http://{f'[{name}]' if ':' in name else name}:{self.port}/"

    def app(self) -> Any:
        """What answers."""
        raise NotImplementedError

    def greeting(self) -> tuple[str, dict[str, object]]:
        """The event that whoever comes is told first, and its data."""
        raise NotImplementedError

    def run(self, ready: Callable[[str], None]) -> None:
        """Serve until it is broken off; `ready` hears the address."""
        config = uvicorn.Config(
            self.app(),
            log_level="critical",
            access_log=False,
            timeout_graceful_shutdown=1,
            ws="none",
            proxy_headers=False,
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
        """Send an event to all; None ends it. Who is far behind is told anew how things stand instead."""
        for listener in self._listeners:
            if listener.qsize() >= _MOST_WAITING and text is not None:
                while not listener.empty():
                    listener.get_nowait()
                text_now = _event(*self.greeting())
                listener.put_nowait(text_now)
            else:
                listener.put_nowait(text)

    async def events(self, request: Request) -> Response:
        """What happens, as server-sent events."""
        return StreamingResponse(self._stream(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})

    async def _stream(self) -> AsyncIterator[bytes]:
        listener: asyncio.Queue[bytes | None] = asyncio.Queue()
        self._listeners.add(listener)
        try:
            yield b"retry: 500\n" + _event(*self.greeting())
            while (text := await _next(listener)) is not None:
                yield text
        finally:
            self._listeners.discard(listener)


async def _next(listener: asyncio.Queue[bytes | None]) -> bytes | None:
    """The next event; a remark where there is none for long, so that it shows who has gone."""
    try:
        return await asyncio.wait_for(listener.get(), _SILENCE)
    except TimeoutError:
        return b": still here\n\n"


def is_own(host: str) -> bool:
    """Whether only this machine itself reaches what listens there."""
    return host in {_HOST, "localhost", "::1"}


def own_name(host: str) -> str:
    """What others call this machine by, where it listens to whoever can reach it: the address it has in its own network."""
    if host not in {"0.0.0.0", "::"}:
        return host
    with suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        probe.connect(("192.0.2.1", 9))  # nothing is sent: the system only says which of its addresses it would use
        return str(probe.getsockname()[0])
    return socket.gethostname()


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
    """Lets through what comes from this machine's browser and knows the address; nobody else, whatever they claim.

    Where others are let in on purpose (`is_open`), no page of another site may still ask for anything in their name.
    """

    def __init__(self, app: Any, port: int, is_open: bool = False) -> None:
        self._app, self._is_open = app, is_open
        self._hosts = {f"{name}:{port}" for name in (_HOST, "localhost", "[::1]")}

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = {name.lower(): value.decode("latin-1") for name, value in scope["headers"]}
        origin = headers.get(b"origin")
        site = headers.get(b"sec-fetch-site", "none")
        hosts = {headers.get(b"host", "")} if self._is_open else self._hosts
        strange = headers.get(b"host") not in hosts or site not in {"none", "same-origin"}
        if strange or (origin is not None and origin.partition("://")[2] not in hosts):
            await PlainTextResponse("this page is served to its own browser alone", 403)(scope, receive, send)
            return

        async def guarded(message: Any) -> None:
            if message["type"] == "http.response.start":
                named = {name.lower() for name, _ in message["headers"]}
                own = () if b"content-security-policy" in named else ((b"content-security-policy", _POLICY.encode()),)
                message["headers"] += [
                    *own,
                    (b"referrer-policy", b"no-referrer"),
                    (b"x-content-type-options", b"nosniff"),
                ]
            await send(message)

        await self._app(scope, receive, guarded)
