"""What is said between processes that press side by side, as lines of JSON; names of files in it may be no text."""

from __future__ import annotations

import json
from typing import TypeVar

import msgspec

T = TypeVar("T")


def wired(what: msgspec.Struct) -> bytes:
    """A struct as one line, without its end. Halves of letters go by their numbers."""
    return json.dumps(msgspec.to_builtins(what)).encode("ascii")


def unwired(line: bytes, kind: type[T]) -> T:
    """The reverse. Raises `ValueError` for anything else."""
    try:
        return msgspec.convert(json.loads(line), kind)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
