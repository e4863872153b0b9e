"""A bucket of a server that speaks the S3 protocol."""

from __future__ import annotations

import configparser
import os
import re
import time
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any, TypeVar

from wornpage.team.addresses import is_bucket, is_endpoint
from wornpage.team.shelf import Away

T = TypeVar("T")
_CONNECT, _ANSWER = timedelta(seconds=2), timedelta(seconds=3)
"""After which a server that says nothing counts as away."""
_LARGE = timedelta(hours=1)
"""For all of a large thing; whoever waits for it gives up sooner."""
_PIECE = 1_000_000
_MOST = 10_000
"""Names that are read of one place."""


class Bucket:
    """What lies in a bucket below a prefix. Who the user is, is found where the protocol's programs look for it: in the environment, in the file of credentials, from the machine."""

    def __init__(self, bucket: str, prefix: str, endpoint: str = "", region: str = "") -> None:
        try:
            from obstore import exceptions
            from obstore.store import S3Store
        except ImportError:
            raise Away("the package obstore is missing; install Worn Page with its extra `team`") from None
        endpoint = endpoint or os.environ.get("AWS_ENDPOINT_URL_S3") or os.environ.get("AWS_ENDPOINT_URL", "")
        if not is_bucket(bucket) or (
            endpoint and not is_endpoint(endpoint)
        ):  # which a library would take for its own fault
            raise Away(f"{bucket!r} at {endpoint!r} is no bucket of a server")
        said = {"prefix": prefix, "endpoint": endpoint, "region": region, **credentials()}
        told: dict[str, Any] = {name: value for name, value in said.items() if value}
        told["virtual_hosted_style_request"] = not endpoint
        retries = {"max_retries": 1, "retry_timeout": _ANSWER}

        def client(answer: timedelta) -> Any:
            options = {"connect_timeout": _CONNECT, "timeout": answer, "allow_http": endpoint.startswith("http://")}
            return S3Store(bucket, **told, client_options=options, retry_config=retries)  # type: ignore[arg-type]

        self._missing = (exceptions.NotFoundError, FileNotFoundError)
        self._client = self._told(lambda: client(_ANSWER))
        self._patient = self._told(lambda: client(_LARGE))

    def names(self, below: str) -> dict[str, int]:
        """As `Shelf` has it."""
        place = below.strip("/")
        found: dict[str, int] = {}
        lists = self._told(lambda: iter(self._client.list(place)))
        while len(found) < _MOST and (some := self._told(lambda: next(lists, None))) is not None:
            for one in some:
                name = str(one["path"])
                found[name[name.index(place) + len(place) :].lstrip("/")] = int(one["size"])
        return found

    def has(self, name: str) -> bool:
        """As `Shelf` has it."""
        return self._there(lambda: self._client.head(name)) is not None

    def get(self, name: str) -> bytes | None:
        """As `Shelf` has it."""
        return self._there(lambda: bytes(self._client.get(name).bytes()))

    def fetch(self, name: str, path: Path, until: float) -> bool:
        """As `Shelf` has it."""
        pieces = self._there(lambda: iter(self._patient.get(name).stream(min_chunk_size=_PIECE)))
        if pieces is None:
            return False
        with path.open("wb") as target:
            while (piece := self._told(lambda: next(pieces, None))) is not None:
                target.write(piece)
                if time.monotonic() > until:
                    raise Away("it is slower than running the code")
        return True

    def put(self, name: str, data: bytes | Path) -> None:
        """As `Shelf` has it."""
        self._told(lambda: self._patient.put(name, data))

    def _there(self, act: Callable[[], T]) -> T | None:
        """What a call gives; None where there is nothing of the name."""

        def asked() -> T | None:
            try:
                return act()
            except self._missing:
                return None

        return self._told(asked)

    def _told(self, act: Callable[[], T]) -> T:
        """What a call gives. Raises `Away` for whatever the library finds wrong: servers may answer anything."""
        try:
            return act()
        except (KeyboardInterrupt, SystemExit):
            raise
        except BaseException as error:  # a fault within the library is no exception of the usual kind
            raise Away(_words(error)) from None


def credentials() -> dict[str, str]:
    """What the file of credentials says of the profile that is asked for; nothing where the environment says it, or there is none."""
    if os.environ.get("AWS_ACCESS_KEY_ID"):
        return {}
    path = Path(os.environ.get("AWS_SHARED_CREDENTIALS_FILE") or "~/.aws/credentials").expanduser()
    read = configparser.RawConfigParser()
    try:
        read.read(path, encoding="utf-8")
    except (OSError, configparser.Error, UnicodeDecodeError):
        return {}
    profile = os.environ.get("AWS_PROFILE", "default")
    known = {"aws_access_key_id": "access_key_id", "aws_secret_access_key": "secret_access_key", "aws_session_token": "session_token"}  # fmt: skip
    return {ours: read[profile][theirs] for theirs, ours in known.items() if read.has_option(profile, theirs)}


_SYSTEM = re.compile(r'message: "([^"]+)"')
_STATUS = re.compile(r"status code: (\d+ [A-Za-z ]+\w)")
_CODE = re.compile(r"<Code>(\w+)</Code>")


def _words(error: BaseException) -> str:
    """What is wrong, without the addresses of the library's own story: what the system says, what the server answers, or the end of the story."""
    said, _, source = str(error).partition("Debug source:")
    if (found := _SYSTEM.search(source)) is not None:
        return found[1]
    if "TimedOut" in source or "kind: Timeout" in source:
        return "it does not answer in time"
    if (found := _STATUS.search(said)) is not None:
        code = _CODE.search(said)
        return f"the server answers {found[1]}" + (f" ({code[1]})" if code else "")
    story = " ".join(said.split()).rpartition(" - ")[2].rpartition(": ")[2]
    return story[:200].rstrip(" .:") or type(error).__name__
