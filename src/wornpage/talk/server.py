"""The server of a talk: the speaker's slides under an address that nobody else knows, the audience's under one for all."""

from __future__ import annotations

import asyncio
import datetime
import io
import json
from collections.abc import AsyncIterator, Callable, Mapping
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from msgspec import Struct
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response
from starlette.routing import Route

from wornpage.output.deck.parting import deck_of
from wornpage.output.kind import Job
from wornpage.output.outputs import options_in
from wornpage.output.slides.file import Talk as Told
from wornpage.output.slides.file import write_slides
from wornpage.press.orders import Order
from wornpage.press.story import composed_for, proof_of, stop_with
from wornpage.serving.loopback import Guard, Loopback
from wornpage.talk.standing import Standing, Unfit
from wornpage.tree.files import as_json
from wornpage.tree.nodes import Composed
from wornpage.tree.problem import Problem

_LONGEST = 4_000_000
"""Bytes of one message: a slide full of drawings."""


class Talk(Struct, frozen=True):
    """A page that is about to be shown."""

    page: Composed
    job: Job
    warnings: tuple[Problem, ...]


def prepare(page: Path, given: Mapping[str, object]) -> Talk:
    """Run what must run of a page. Raises `PageError`."""
    today = datetime.date.today()
    proof = proof_of(Order(page, str(page), ("slides",), given=given), today=today)
    composed, problems = composed_for("slides", proof, today)
    stop_with(problems, proof.warnings, ())
    job = Job(proof.settings.page, proof.source.path.parent, proof.source.name, proof.source.text)
    written = write_slides(composed, job)
    stop_with(written.problems, proof.warnings, ())
    return Talk(composed, job, (*proof.warnings, *problems, *written.problems))


class TalkServer(Loopback):
    """One talk."""

    def __init__(self, talk: Talk, port: int, host: str) -> None:
        super().__init__(port, host)
        deck, _ = deck_of(talk.page, options_in(talk.job.settings, "slides"), "slides")
        self.standing = Standing([slide.label for slide in deck.slides])
        self._of_speaker = write_slides(talk.page, talk.job, Told(self.base)).data
        self._of_audience = write_slides(talk.page, talk.job, Told()).data

    def greeting(self) -> tuple[str, dict[str, object]]:
        """How the talk stands."""
        return "all", self.standing.everything()

    # --- what is asked for ------------------------------------------------------------------------

    async def speaker(self, request: Request) -> Response:
        """The speaker's slides."""
        return HTMLResponse(self._of_speaker)

    async def audience(self, request: Request) -> Response:
        """The audience's."""
        return HTMLResponse(self._of_audience)

    async def code(self, request: Request) -> Response:
        """The audience's address as a square that cameras read."""
        return Response(square(self.base), media_type="image/svg+xml")

    async def nothing(self, request: Request) -> Response:
        """What browsers ask for unasked."""
        return Response(status_code=204)

    async def say(self, request: Request) -> Response:
        """What the speaker has done."""
        body = b""
        async for part in request.stream():
            body += part
            if len(body) > _LONGEST:
                return JSONResponse({"why": "too long"}, 413)
        try:
            message = json.loads(body)
            told = [self.standing.take(one) for one in message["all"]]
            by = str(message.get("by", ""))[:40]
        except (ValueError, TypeError, KeyError, AttributeError, Unfit):
            return JSONResponse({"why": "no message of a speaker's page"}, 400)
        for event, data in told:
            self.tell(event, {"by": by, **data})
        return JSONResponse({})

    # --- running ----------------------------------------------------------------------------------

    def app(self) -> Any:
        """The application, behind its guard."""
        routes = [
            Route("/", self.audience),
            Route("/events", self.events),
            Route("/favicon.ico", self.nothing),
            Route(f"/{self.token}/", self.speaker),
            Route(f"/{self.token}/events", self.events),
            Route(f"/{self.token}/audience.svg", self.code),
            Route(f"/{self.token}/say", self.say, methods=["POST"]),
        ]
        is_open = self.host not in {"127.0.0.1", "localhost", "::1"}
        return Guard(Starlette(routes=routes, lifespan=self._life), self.port, is_open)

    @asynccontextmanager
    async def _life(self, app: Starlette) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        try:
            yield
        finally:
            self._send(b"event: end\ndata: {}\n\n")
            self._send(None)


def square(address: str) -> bytes:
    """An address as a QR code (ISO/IEC 18004) in SVG."""
    import segno

    made = io.BytesIO()
    segno.make(address, error="m", micro=False).save(
        made, kind="svg", scale=10, border=3, xmldecl=False, light="#ffffff"
    )
    return as_json(made.getvalue().decode())


def square_in_words(address: str) -> str:
    """So for a terminal."""
    import segno

    made = io.StringIO()
    segno.make(address, error="l", micro=False).terminal(out=made, compact=True, border=2)
    return made.getvalue()


def serve(talk: Talk, port: int, host: str, ready: Callable[[str, str], None]) -> None:
    """Serve a talk until it is broken off; `ready` hears the speaker's address and the audience's. Raises `OSError` where it cannot be."""
    server = TalkServer(talk, port, host)
    server.run(lambda address: ready(address, server.base))
