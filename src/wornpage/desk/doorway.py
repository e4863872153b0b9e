"""Where people come in: who asks, what they see who are not let in, and how they log in and out."""

from __future__ import annotations

import asyncio
import secrets
from collections.abc import Awaitable, Callable
from urllib.parse import parse_qs

from starlette.requests import Request
from starlette.responses import RedirectResponse, Response

from wornpage.desk import looks
from wornpage.desk.people import COOKIE, Allowance, Door, Passes, Rates
from wornpage.serving.data import Misheard, answer, refusal, sent

_OWN_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; connect-src 'self'; frame-src 'self'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
Handler = Callable[[Request], Awaitable[Response]]
Act = Callable[[Request, str], Awaitable[Response]]
"""Hears who asks, too."""


def page_of(data: bytes, status: int = 200) -> Response:
    """A page of the desk's own."""
    headers = {"Content-Security-Policy": _OWN_POLICY, "Cache-Control": "no-store"}
    return Response(data, status, headers, "text/html; charset=utf-8")


class Doorway:
    """Stands before everything that only those who are let in may ask."""

    def __init__(self, door: Door, key: bytes, prefix: str) -> None:
        """`key` signs passes; `prefix` is what all ways of the desk begin with."""
        self.door, self._prefix = door, prefix
        self._passes = Passes(key)
        self._of_one, self._from_one = Rates(Allowance(8, 8)), Rates(Allowance(60, 60))

    def lets(self, act: Act) -> Handler:
        """What only those who are let in may ask; `act` hears who it is."""

        async def handler(request: Request) -> Response:
            person = self._person(request)
            if person is None:
                return self._not_let_in(request)
            is_new = not person
            person = person or f"visitor {secrets.token_hex(6)}"
            try:
                response = await act(request, person)
            except KeyError:
                response = self.sorry(request, "There is no such thing at this desk.", 404)
            except Misheard as wrong:
                response = refusal(wrong)
            if is_new:
                self._give_pass(request, response, self._passes.made(person))
            return response

        return handler

    def _person(self, request: Request) -> str | None:
        """Who asks: empty for somebody new who knew the address, None for somebody who is not let in."""
        shown = request.cookies.get(COOKIE, "")
        if self.door.is_by_address:
            return self._passes.name(shown) or ""
        if self.door.users is not None:
            return self._passes.name(shown, self.door.users.known)
        name = request.headers.get(self.door.header, "").strip()
        return name[:80] or None if _client(request) in self.door.proxies else None

    def sorry(self, request: Request, said: str, status: int) -> Response:
        """Why there is nothing: the same words for scripts and for people."""
        if request.method != "GET":
            return answer({"why": said[:1].lower() + said[1:]}, status)
        return page_of(looks.words("Not here", said, self._root(request)), status)

    def _not_let_in(self, request: Request) -> Response:
        if request.method != "GET" or "text/html" not in request.headers.get("accept", ""):
            return answer({"why": "you are not logged in."}, 401)
        if self.door.users is None:
            said = "Whoever keeps this desk lets people in by name, and no name came with this."
            return page_of(looks.words("Not let in", said, self._root(request)), 403)
        to = request.url.path.removeprefix(self._prefix) + (f"?{request.url.query}" if request.url.query else "")
        return page_of(looks.door(to, "", self._root(request)), 401)

    def _root(self, request: Request) -> str:
        """The way back to the front page."""
        return "../" * request.url.path.removeprefix(self._prefix).count("/")

    def _give_pass(self, request: Request, response: Response, shown: str) -> None:
        is_safe = request.url.scheme == "https" or request.headers.get("x-forwarded-proto") == "https"
        response.set_cookie(
            COOKIE, shown, max_age=14 * 86_400, path="/", httponly=True, samesite="strict", secure=is_safe
        )

    async def enter(self, request: Request) -> Response:
        """Somebody says who they are."""
        try:
            form = parse_qs((await sent(request)).decode("utf-8", "replace"), max_num_fields=10)
        except (ValueError, Misheard):
            form = {}
        name, password, to = ((form.get(one) or [""])[0] for one in ("who", "password", "to"))
        assert self.door.users is not None
        if max(self._from_one.take(_client(request)), self._of_one.take(name[:80])) > 0:
            return page_of(looks.door(to, "Too many tries. Wait a minute.", ""), 429)
        if not await asyncio.to_thread(self.door.users.knows, name, password):
            return page_of(looks.door(to, "Name and password do not go together.", ""), 401)
        response = RedirectResponse(_inner(to), 303)
        self._give_pass(request, response, self._passes.made(name, self.door.users.known.get(name, "")))
        return response

    async def leave(self, request: Request) -> Response:
        """They go."""
        response = RedirectResponse("./", 303)
        response.delete_cookie(COOKIE, path="/")
        return response


def _client(request: Request) -> str:
    return request.client.host if request.client else ""


def _inner(to: str) -> str:
    """A way within the desk, whatever was said."""
    return f"./{to.lstrip('./')}" if to and "\\" not in to and ":" not in to.partition("?")[0] else "./"
