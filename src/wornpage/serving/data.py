"""Plain data as servers are sent it and answer with it: JSON, of a bounded size, whatever letters are in it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import TypeVar

import msgspec
from starlette.requests import Request
from starlette.responses import Response

from wornpage.tree.files import as_json

LONGEST = 200_000
"""Bytes of what is asked, where nothing else is said."""
Kind = TypeVar("Kind")


class Misheard(Exception):
    """What was sent cannot be taken; the text says why, `status` is that of the answer (RFC 9110)."""

    def __init__(self, why: str, status: int = 400) -> None:
        super().__init__(why)
        self.status = status


async def sent(request: Request, longest: int = LONGEST) -> bytes:
    """The bytes that were sent. Raises `Misheard` where there are too many, before all of them have come."""
    body = b""
    async for part in request.stream():
        body += part
        if len(body) > longest:
            raise Misheard("this is too long.", 413)
    return body


async def heard(request: Request, kind: type[Kind], longest: int = LONGEST) -> Kind:
    """What was sent, as data of a kind. Raises `Misheard` for what is none, such as text with halves of letters."""
    body = await sent(request, longest)
    try:
        return msgspec.json.decode(body, type=kind)
    except (msgspec.MsgspecError, ValueError, RecursionError):
        raise Misheard("this is not understood.") from None


def answer(data: object, status: int = 200, headers: Mapping[str, str] | None = None) -> Response:
    """Data as an answer; names of files in it need not be text."""
    return Response(as_json(json.dumps(data, ensure_ascii=False)), status, dict(headers or {}), "application/json")


def refusal(wrong: Misheard) -> Response:
    """Why nothing came of it, as the answer."""
    return answer({"why": str(wrong)}, wrong.status)
