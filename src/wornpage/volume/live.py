"""A site served on loopback: as it lies in a folder, or kept as its sources are, with every save shown in place."""

from __future__ import annotations

import asyncio
import mimetypes
import time
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from importlib.resources import files
from pathlib import Path
from queue import Empty, SimpleQueue
from threading import Thread
from typing import Any

from msgspec.structs import replace
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route
from watchfiles import Change, awatch

from wornpage.serving.loopback import Guard, Loopback, is_source, stamps
from wornpage.store.place import store_of
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import UsageError, WornError
from wornpage.volume.binding import Wish, bind, folder_of, volume_of
from wornpage.volume.drafting import beyond


class SiteServer(Loopback):
    """A folder with a site; with a wish, the volume that it is kept bound from."""

    def __init__(self, folder: Path, port: int, wish: Wish | None = None) -> None:
        super().__init__(port)
        self.folder, self.wish = folder.resolve(), wish
        self._saves: SimpleQueue[set[str] | None] = SimpleQueue()
        """Files that were saved, a set for each time; None when all is over."""
        self._written: set[str] = set()
        """Files that pages have written themselves: they are no news."""
        self._beyond: set[Path] = set()
        """Files outside the volume's folder that it hangs on."""
        self._begun = 0
        """When the last binding began, in nanoseconds since the epoch."""
        self.said: dict[str, object] = {"problems": [], "busy": False}
        """What whoever comes later is told first."""

    def greeting(self) -> tuple[str, dict[str, object]]:
        """How the volume stands."""
        return "state", self.said

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

    # --- binding ------------------------------------------------------------------------------

    def _bind(self) -> None:
        """Bind at once, and whenever something was saved, until all is over."""
        is_wanted = True
        while is_wanted:
            self._state(busy=True)
            self._state(busy=False, problems=self._bound())
            is_wanted = self._is_wanted()

    def _is_wanted(self) -> bool:
        """Wait for a save that is news; False when all is over."""
        while (saved := self._saves.get()) is not None:
            with suppress(Empty):
                while (more := self._saves.get_nowait()) is not None:
                    saved |= more
                return False
            if saved - self._written:
                return True
        return False

    def _bound(self) -> list[str]:
        """Bind once; what was wrong."""
        assert self.wish is not None
        begun = time.time_ns()
        try:
            volume = volume_of(self.wish)
            bound = bind(volume, self.wish, self._at, lambda entry, report: None)
        except UsageError as error:
            return [str(error)]
        except WornError as error:
            return [str(problem) for problem in error.problems]
        except Exception as bug:  # the next save may mend it
            return [" ".join(said_of(bug))]
        self._written |= {name for _, report in bound.reports for name in report.wrote}
        self._begun, self._beyond = begun, beyond(volume)
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
        Thread(target=self._bind, daemon=True).start()
        watching = asyncio.create_task(self._watch(self.wish.file.resolve().parent))
        try:
            yield
        finally:
            watching.cancel()
            self._saves.put(None)
            self._send(None)

    async def _watch(self, folder: Path) -> None:
        """Tell of every save of whatever may matter; once a second what lies beyond the folder is looked at too."""
        seen: dict[Path, tuple[int, int, int]] = {}
        while folder.is_dir():
            watch = awatch(
                folder, watch_filter=self._matters, debounce=80, step=10, rust_timeout=1000, yield_on_timeout=True
            )
            with suppress(OSError, RuntimeError):  # the folder was moved or taken away: it may come back
                async for changes in watch:
                    now = stamps(self._beyond)
                    saved = {path for _, path in changes}
                    saved |= {str(path) for path, stamp in now.items() if self._is_newer(stamp, seen.get(path))}
                    seen |= now
                    if saved:
                        self._saves.put(saved)
            await asyncio.sleep(1)

    def _is_newer(self, stamp: tuple[int, int, int], before: tuple[int, int, int] | None) -> bool:
        """Whether a file was saved since it was looked at last; one never looked at, since it was bound."""
        return stamp != before if before is not None else stamp[0] > self._begun

    def _matters(self, change: Change, path: str) -> bool:
        assert self.wish is not None
        return is_source(path, self.wish.file.resolve().parent)


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
    SiteServer(folder, port, wish).run(ready)
