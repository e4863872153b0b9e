"""The server of a desk."""

from __future__ import annotations

import asyncio
import contextlib
import hashlib
import hmac
import json
import re
import secrets
import threading
from collections.abc import AsyncIterator, Callable, Mapping, Sequence
from contextlib import asynccontextmanager
from functools import lru_cache
from html import unescape
from pathlib import Path
from typing import Any
from urllib.parse import quote

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, RedirectResponse, Response, StreamingResponse
from starlette.routing import Route

from wornpage.desk import kept, looks
from wornpage.desk.doorway import Act, Doorway, Handler, page_of
from wornpage.desk.hands import Hands
from wornpage.desk.line import Full, Line, Standing, Ticket
from wornpage.desk.offers import Faults, Offer, Shelf
from wornpage.desk.people import Allowance, Door, Rates
from wornpage.desk.results import Results
from wornpage.desk.wishes import Wish
from wornpage.desk.work import Report
from wornpage.output.outputs import output_of
from wornpage.serving.data import Misheard, answer, heard
from wornpage.serving.loopback import Guard, Loopback, is_own
from wornpage.settings.givens import GivenFault, as_written
from wornpage.tree.bugs import said_of
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

_REPORT_POLICY = (
    "sandbox allow-scripts allow-popups allow-popups-to-escape-sandbox allow-modals; default-src 'none'; script-src 'unsafe-inline' 'unsafe-eval' blob:; style-src 'unsafe-inline'; "
    "img-src data: blob:; font-src data:; media-src data: blob:; frame-src data: blob:; child-src data: blob:; worker-src blob:; "
    "form-action 'none'; base-uri 'none'; frame-ancestors 'self'"
)
"""Reports are pages of their own, without a way to the desk: what code put into them reaches neither it nor the network."""
_OUTWARD = b'<script>for (const a of document.querySelectorAll(\'a[href^="http"]\')) { a.target = "_blank"; a.rel = "noopener"; }</script>'
"""Ways out of a report open beside the desk, which shows nothing but reports."""
_OWNER_KNOWS = "Whoever keeps the desk has been told."
_AWAY = 90.0
"""Seconds after a restart in which those who waited may come back."""
_SILENCE = 15.0
_TITLE = re.compile(rb"<title>(.*?)</title>", re.DOTALL)
Told = Callable[[Wish, Report | Sequence[Problem]], None]
"""Hears in full what went wrong."""


class DeskServer(Loopback):
    """Some pages, their readers, and those who press for them."""

    def __init__(self, pages: Sequence[Path], door: Door, jobs: int, port: int, host: str, told: Told) -> None:
        super().__init__(port, host)
        self.shelf, self.door = Shelf(pages), door
        self.results = Results(self.shelf.path(self.shelf.keys[0]))
        key = self.results.key()
        self.token = hmac.new(key, b"address", hashlib.sha256).hexdigest()[:24]
        self.doorway = Doorway(door, key, self._prefix())
        self._jobs, self._told = jobs, told
        self._asking = Rates(Allowance(120, 120))
        self.line = Line(self._changed)
        self._events: dict[str, set[asyncio.Event]] = {}
        self._keeping = threading.Lock()
        self._said_wrong: dict[str, object] = {}

    @property
    def address(self) -> str:
        """What to open."""
        return f"{self.base}{self.token}/" if self.door.is_by_address else self.base

    def greeting(self) -> tuple[str, dict[str, object]]:
        """Nobody listens to everything here."""
        return "hello", {}

    # --- pages ------------------------------------------------------------------------------------

    async def front(self, request: Request, person: str) -> Response:
        """All pages; the one there is, if there is but one."""
        if len(self.shelf.keys) == 1:
            return RedirectResponse(f"p/{quote(self.shelf.keys[0])}/", 302)
        offers = [await asyncio.to_thread(self._shown, key) for key in self.shelf.keys]
        return page_of(looks.front(offers, self._named(person)))

    def _shown(self, key: str) -> looks.Shown:
        try:
            offer = self.shelf.offer(key)
        except PageError as error:
            self._page_is_wrong(key, error)
            return looks.Shown(key, self.shelf.path(key).stem, wrong=True)
        return looks.Shown(key, offer.title, offer.abstract, offer.language)

    def _page_is_wrong(self, key: str, error: PageError) -> None:
        """Tell the owner, once as long as it is wrong in the same way."""
        if self._said_wrong.get(key) != error.problems:
            self._said_wrong[key] = error.problems
            self._told(Wish(key, {}), error.problems)

    def _lets(self, act: Act) -> Handler:
        """What those who are let in may ask; what they cannot help is told to the owner."""

        async def guarded(request: Request, person: str) -> Response:
            key = str(request.path_params.get("key", ""))
            try:
                return await act(request, person)
            except (KeyError, Misheard):
                raise
            except PageError as error:
                self._page_is_wrong(key, error)
                return self.doorway.sorry(request, f"This report cannot be made just now. {_OWNER_KNOWS}", 503)
            except Exception as bug:
                self._broken(key, bug)
                return self.doorway.sorry(request, f"Something went wrong here. {_OWNER_KNOWS}", 500)

        return self.doorway.lets(guarded)

    def _broken(self, key: str, bug: Exception) -> None:
        """Tell the owner of a fault of ours, once as long as it is the same."""
        about = f"{key} {type(bug).__name__} {bug}"
        if self._said_wrong.get("") != about:
            self._said_wrong[""] = about
            self._told(Wish(key, {}), [Problem(Span(key or "desk", 1), *said_of(bug))])

    def _offer(self, request: Request) -> Offer:
        return self.shelf.offer(request.path_params["key"])

    async def desk(self, request: Request, person: str) -> Response:
        """One page, its fields and its report."""
        offer = await asyncio.to_thread(self._offer, request)
        written = _picked(offer, request)
        faults: dict[str, str] = {}
        try:
            offer.wished(written)
        except Faults as wrong:
            faults = _in_words(wrong) if written else {}
        sets = kept.kept_sets(offer.path)
        query = f"?{request.url.query}" if request.url.query else ""
        given = looks.shown_values(offer, written)
        several = len(self.shelf.keys) > 1
        return page_of(looks.desk(offer, given, faults, sets, query, self._named(person), several))

    def _named(self, person: str) -> str:
        return "" if self.door.users is None else person

    async def script(self, request: Request) -> Response:
        """The script of the desk."""
        return Response(looks.script(), media_type="text/javascript")

    async def style(self, request: Request) -> Response:
        """Its looks."""
        return Response(looks.style(), media_type="text/css")

    async def nothing(self, request: Request) -> Response:
        """What browsers ask for unasked."""
        return Response(status_code=204)

    def _prefix(self) -> str:
        return f"/{self.token}/" if self.door.is_by_address else "/"

    # --- wishes -----------------------------------------------------------------------------------

    async def wish(self, request: Request, person: str) -> Response:
        """Somebody wishes a report."""
        asked = await _asked(request)
        if wait := self._asking.take(person):
            why = f"you have asked for very many reports. Wait {wait + 1:.0f} seconds."
            return answer({"why": why}, 429, {"Retry-After": f"{wait + 1:.0f}"})
        try:
            wish = await asyncio.to_thread(self._wished, request, asked)
            ticket = self.line.join(wish, person, str(asked.get("by", ""))[:60])
        except Faults as wrong:
            return answer({"why": str(wrong), "faults": _in_words(wrong)}, 422)
        except Full as full:
            return answer({"why": str(full)}, 503)
        return answer({"key": ticket.wish.key, "place": wish.place})

    def _wished(self, request: Request, asked: dict[str, Any]) -> Wish:
        offer = self._offer(request)
        kind = str(asked.get("as", "html"))
        if kind not in offer.kinds:
            raise KeyError(kind)
        return Wish(offer.key, offer.wished(_texts(asked)), (kind,))

    async def told(self, request: Request, person: str) -> Response:
        """How a wish stands, as server-sent events, until it is over."""
        key, watcher = request.query_params.get("key", ""), request.query_params.get("by", "")[:60]
        self.line.here(key, watcher)
        return StreamingResponse(
            self._stream_of(key, watcher),
            media_type="text/event-stream",
            headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
        )

    async def _stream_of(self, key: str, watcher: str) -> AsyncIterator[bytes]:
        event = asyncio.Event()
        self._events.setdefault(key, set()).add(event)
        before = b""
        try:
            while True:
                event.clear()
                standing = self.line.standing(key)
                told = b"event: standing\ndata: " + json.dumps(self._plain(key, standing)).encode() + b"\n\n"
                if told != before:
                    before = told
                    yield told
                if standing is None or standing.state in {"done", "failed", "stopped"}:
                    return
                with contextlib.suppress(TimeoutError):
                    await asyncio.wait_for(event.wait(), _SILENCE)
                    continue
                yield b": still here\n\n"
        finally:
            self.line.away(key, watcher)
            self._events[key].discard(event)
            if not self._events[key]:
                del self._events[key]

    def _plain(self, key: str, standing: Standing | None) -> dict[str, object]:
        """How it stands, as the reader may know it: nothing of the code."""
        if standing is None:
            return {"state": "unknown"}
        plain: dict[str, object] = {
            "state": standing.state, "ahead": standing.ahead, "part": standing.part, "parts": standing.parts, "done": standing.done, "of": standing.of,
        }  # fmt: skip
        if standing.state == "failed":
            plain["why"] = _why(standing.report)
        if standing.state == "done" and standing.report is not None:
            plain |= _mark_and_title(standing.report)
        return plain

    async def made(self, request: Request, person: str) -> Response:
        """What came of a wish: shown, or to be taken along."""
        path, place, kind = (
            self.shelf.path(request.path_params["key"]),
            request.path_params["place"],
            request.path_params["kind"],
        )
        if kind not in self._offer(request).kinds or not place.isalnum():
            raise KeyError(kind)
        suffix = output_of(kind).suffix
        file = self.results.file(path, place, suffix)
        if not file.is_file():
            raise KeyError(place)
        headers = {"Content-Security-Policy": _REPORT_POLICY, "Cache-Control": "no-store"}
        if kind != "html" or "take" in request.query_params:
            headers["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(path.stem + suffix)}"
            return FileResponse(file, 200, headers, "application/octet-stream")
        data = await asyncio.to_thread(_to_show, str(file), *_stamp(str(file)))
        return Response(data, 200, headers, "text/html; charset=utf-8")

    async def report(self, request: Request, person: str) -> Response:
        """The report itself, for browsers without scripts: it comes when it is done."""
        offer = await asyncio.to_thread(self._offer, request)
        if self._asking.take(person):
            return page_of(
                looks.words(offer.title, "You have asked for very many reports. Wait a minute.", "../../"), 429
            )
        watcher = secrets.token_hex(8)
        try:
            wish = Wish(offer.key, offer.wished(_picked(offer, request)))
            self.line.join(wish, person, watcher)
        except Faults as wrong:
            return page_of(looks.words(offer.title, " ".join(_in_words(wrong).values()), "../../"), 422)
        except Full as full:
            return page_of(looks.words(offer.title, str(full), "../../"), 503)
        self.line.here(wish.key, watcher)
        async for _ in self._stream_of(wish.key, watcher):
            pass
        standing = self.line.standing(wish.key)
        if standing is None or standing.state != "done":
            return page_of(looks.words(offer.title, _why(standing.report if standing else None), "../../"), 500)
        return RedirectResponse(f"made/{wish.place}/html", 303)

    async def keep(self, request: Request, person: str) -> Response:
        """Keep values under a name, or no longer."""
        asked = await _asked(request)
        if self._asking.take(person):
            return answer({"why": "wait a moment."}, 429)
        try:
            return answer({"sets": await asyncio.to_thread(self._kept, request, asked)})
        except Faults as wrong:
            return answer({"why": str(wrong), "faults": _in_words(wrong)}, 422)
        except kept.NotKept as why:
            return answer({"why": str(why)}, 409)

    def _kept(self, request: Request, asked: dict[str, Any]) -> dict[str, dict[str, object]]:
        offer = self._offer(request)
        with self._keeping:
            if "drop" in asked:
                kept.take_away(offer.path, str(asked["drop"]))
            else:
                kept.keep(offer.path, str(asked.get("name", "")), offer.wished(_texts(asked)))
            return kept.kept_sets(offer.path)

    # --- what happens -----------------------------------------------------------------------------

    def _changed(self, key: str) -> None:
        """A wish stands otherwise, or all do; from any thread."""
        if self._loop is not None:
            with contextlib.suppress(RuntimeError):
                self._loop.call_soon_threadsafe(self._wake, key)

    def _wake(self, key: str) -> None:
        for one, events in self._events.items():
            if not key or one == key:
                for event in events:
                    event.set()

    def _heard(self, ticket: Ticket, report: Report) -> None:
        """Tell the owner of what failed."""
        if report.failed:
            self._told(ticket.wish, report)

    # --- running ----------------------------------------------------------------------------------

    def app(self) -> Any:
        """The application, behind its guard."""
        start = self._prefix()
        page = f"{start}p/{{key}}/"
        routes = [
            Route(start, self._lets(self.front)),
            Route(page, self._lets(self.desk)),
            Route(f"{page}wish", self._lets(self.wish), methods=["POST"]),
            Route(f"{page}told", self._lets(self.told)),
            Route(f"{page}kept", self._lets(self.keep), methods=["POST"]),
            Route(f"{page}report", self._lets(self.report)),
            Route(f"{page}made/{{place}}/{{kind}}", self._lets(self.made)),
            Route(f"{start}desk.js", self.script),
            Route(f"{start}desk.css", self.style),
            Route("/favicon.ico", self.nothing),
        ]
        if self.door.users is not None:
            routes += [
                Route("/enter", self.doorway.enter, methods=["POST"]),
                Route("/leave", self.doorway.leave, methods=["POST"]),
            ]
        is_open = not is_own(self.host) or not self.door.is_by_address
        return Guard(Starlette(routes=routes, lifespan=self._life), self.port, is_open)

    @asynccontextmanager
    async def _life(self, app: Starlette) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        self._take_up()
        hands = Hands(self.line, self.shelf, self.results, self._jobs, self._heard)
        looking = asyncio.create_task(self._look_after())
        try:
            yield
        finally:
            looking.cancel()
            self.results.save_line(self.line.open_wishes())
            self.line.close()
            self._send(None)
            self._changed("")
            await asyncio.to_thread(hands.close)

    def _take_up(self) -> None:
        """Go on where the desk ended."""
        for wish, person in self.results.saved_line():
            if wish.page in self.shelf.keys:
                with contextlib.suppress(Full):
                    self.line.join(wish, person, f"before {wish.key}")

    async def _look_after(self) -> None:
        """Let go of what is no longer wanted, and keep the line, so that it is there after a restart however the desk ends."""
        kept_before: object = None
        begun = asyncio.get_running_loop().time()
        while True:
            await asyncio.sleep(1)
            is_young = asyncio.get_running_loop().time() - begun < _AWAY
            self.line.tidy(*((_AWAY,) if is_young else ()))
            wishes = self.line.open_wishes()
            if wishes != kept_before:
                kept_before = wishes
                await asyncio.to_thread(self.results.save_line, wishes)


def _picked(offer: Offer, request: Request) -> dict[str, object]:
    """Values in an address, as written."""
    found: dict[str, object] = {}
    for name, one in offer.declared.items():
        texts = request.query_params.getlist(name)
        if texts:
            found[name] = (
                [text for text in texts if text] if one.kind == "list" and (one.one_of or len(texts) > 1) else texts[-1]
            )
    return found


def _texts(asked: Mapping[str, object]) -> dict[str, object]:
    """Values that were picked, as written. Raises `Faults` for what is neither a text nor a list of texts."""
    given = asked.get("given")
    values = given if isinstance(given, dict) else {}
    strange = {
        name: GivenFault("this is no value.")
        for name, value in values.items()
        if not all(isinstance(item, str | int | float) for item in (value if isinstance(value, list) else [value]))
    }
    if strange:
        raise Faults(strange)
    return {name: as_written(value) for name, value in values.items()}


def _in_words(wrong: Faults) -> dict[str, str]:
    """What is wrong with values, for whoever picked them."""
    said = {name: f"{fault.what} {fault.hint}".strip() for name, fault in wrong.faults.items()}
    return {name: text[:1].upper() + text[1:] for name, text in said.items()}


def _why(report: Report | None) -> str:
    """Why there is no report, without code."""
    is_late = report is not None and report.is_too_long
    what = "It took longer than reports may take here" if is_late else "This report could not be made with these values"
    return f"{what}. {_OWNER_KNOWS}"


def _mark_and_title(report: Report) -> dict[str, object]:
    """What tells a file from others in its place, and what a report calls itself."""
    found = [_told_of(path, *_stamp(path)) for path in report.files.values()]
    marks = hashlib.sha256(" ".join(mark for mark, _ in found).encode()).hexdigest()
    return {"mark": marks[:16], "title": next((title for _, title in found if title), "")}


def _stamp(path: str) -> tuple[int, int]:
    try:
        stat = Path(path).stat()
    except OSError:
        return 0, 0
    return stat.st_mtime_ns, stat.st_ino


@lru_cache(2_000)
def _told_of(path: str, changed: int, number: int) -> tuple[str, str]:
    """A digest of a file that was changed then, and the title that it has; read once, not for each who asks."""
    try:
        data = Path(path).read_bytes()
    except OSError:
        return "", ""
    found = _TITLE.search(data, 0, 20_000) if path.endswith(".html") else None
    return hashlib.sha256(data).hexdigest(), unescape(found[1].decode("utf-8", "replace")).strip() if found else ""


@lru_cache(24)
def _to_show(path: str, changed: int, number: int) -> bytes:
    """A report as it is shown; kept for those who ask next, so that many who ask need no memory of their own each."""
    try:
        data = Path(path).read_bytes()
    except OSError:
        return b""
    before, end, after = data.rpartition(b"</body>")
    return before + _OUTWARD + end + after if end else data


async def _asked(request: Request) -> dict[str, Any]:
    """What the desk's own page asks. Raises `Misheard` for anything else: other sites' pages can send no such type unasked."""
    if request.headers.get("content-type", "").partition(";")[0] != "application/json":
        raise Misheard("this is no question of the desk's own page.", 415)
    return await heard(request, dict[str, Any])
