"""The server of a talk: the speaker's slides under an address that nobody else knows, the audience's under one for all."""

from __future__ import annotations

import asyncio
import datetime
import io
from collections.abc import AsyncIterator, Mapping
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from msgspec import Struct
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, Response
from starlette.routing import Route

from wornpage.output.deck.options import DeckPress
from wornpage.output.deck.parting import deck_of
from wornpage.output.kind import Job
from wornpage.output.outputs import options_in
from wornpage.output.slides.file import Talk, deck_file
from wornpage.output.writing import fit_for
from wornpage.press.orders import Order
from wornpage.press.story import composed_for, proof_of, stop_with
from wornpage.serving.data import Misheard, answer, heard, refusal
from wornpage.serving.loopback import Guard, Loopback, is_own
from wornpage.talk.standing import Standing, Unfit
from wornpage.tree.files import as_json
from wornpage.tree.problem import Problem

_LONGEST = 4_000_000
"""Bytes of one message: a slide full of drawings."""


class _Said(Struct, frozen=True):
    """What a speaker's page tells: all that was done since it told the last, and which page it is."""

    all: list[Any]
    by: str = ""


class TalkServer(Loopback):
    """One talk."""

    warnings: tuple[Problem, ...] = ()
    """What is to be said of its page."""

    def prepare(self, page: Path, given: Mapping[str, object]) -> None:
        """Run what must run of a page, and write its slides for both sides. Raises `PageError`."""
        today = datetime.date.today()
        proof = proof_of(Order(page, str(page), ("slides",), given=given), today=today)
        composed, problems = composed_for("slides", proof, today)
        stop_with(problems, proof.warnings, ())
        job = Job(proof.settings.page, proof.source.path.parent, proof.source.name, source=proof.source.text)
        options: DeckPress = options_in(job.settings, "slides")
        fit = fit_for("slides", composed)
        deck, found = deck_of(fit.page, options, "slides")
        written = deck_file(deck, options, job, Talk(self.base))
        stop_with((*found, *written.problems), proof.warnings, ())
        self.warnings = (*proof.warnings, *problems, *fit.problems, *found, *written.problems)
        self.standing = Standing([slide.label for slide in deck.slides])
        self._of_speaker, self._of_audience = written.data, deck_file(deck, options, job, Talk()).data

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
        try:
            message = await heard(request, _Said, _LONGEST)
            told = [self.standing.take(one) for one in message.all]
        except Misheard as wrong:
            return refusal(wrong)
        except Unfit:
            return answer({"why": "no message of a speaker's page"}, 400)
        by = message.by[:40]
        for event, data in told:
            self.tell(event, {"by": by, **data})
        return answer({})

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
        is_open = not is_own(self.host)
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
