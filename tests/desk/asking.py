"""A desk that runs, and somebody who asks it."""

from __future__ import annotations

import http.client
import json
import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any
from urllib.parse import urlencode, urlsplit


class Desk:
    """The real program, serving some pages of a folder."""

    def __init__(self, folder: Path, *arguments: str) -> None:
        self.folder = folder
        self._said = (folder / "desk.log").open("a+")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "desk", *arguments, "--no-open"],
            cwd=folder, stdout=subprocess.PIPE, stderr=self._said, text=True, start_new_session=True,
        )  # fmt: skip
        assert self.process.stdout is not None
        self.address = self.process.stdout.readline().strip()
        if not self.address:
            raise AssertionError(self.said())

    def said(self) -> str:
        """What its owner was told."""
        return (self.folder / "desk.log").read_text()

    def close(self, how: int = signal.SIGINT) -> None:
        """End it."""
        if self.process.poll() is None:
            os.kill(self.process.pid, how)
            self.process.wait(30)
        self.process.stdout.close()  # type: ignore[union-attr]
        self._said.close()


class Visitor:
    """Somebody with a browser, which keeps what it was given."""

    def __init__(self, address: str, **headers: str) -> None:
        self.address = urlsplit(address)
        self.headers = {name.replace("_", "-"): value for name, value in headers.items()}
        self.cookie = ""

    def ask(self, path: str, data: object = None, method: str = "", **headers: str) -> Answer:
        """An answer, read to its end."""
        line = http.client.HTTPConnection(self.address.hostname or "", self.address.port or 80, timeout=60)
        own = {
            "Accept": "text/html",
            **self.headers,
            **{name.replace("_", "-"): value for name, value in headers.items()},
        }
        if self.cookie:
            own["Cookie"] = self.cookie
        body: str | None = None
        if isinstance(data, str):
            body, own["Content-Type"] = data, "application/x-www-form-urlencoded"
        elif data is not None:
            body = json.dumps(data)
            own.setdefault("Content-Type", "application/json")
        where = path if path.startswith("/") else self.address.path + path
        line.request(method or ("POST" if data is not None else "GET"), where, body, own)
        response = line.getresponse()
        if told := response.headers.get("Set-Cookie"):
            self.cookie = told.partition(";")[0]
        answer = Answer(response.status, response.read(), dict(response.headers))
        line.close()
        return answer

    def wish(self, page: str, given: dict[str, object], kind: str = "html", by: str = "tab") -> dict[str, Any]:
        """Wish a report; the answer, or how it is refused."""
        return dict(self.ask(f"p/{page}/wish", {"given": given, "as": kind, "by": by}).data())

    def wait(self, page: str, key: str, by: str = "tab") -> list[dict[str, Any]]:
        """How a wish stands, until it is over."""
        text = self.ask(f"p/{page}/told?{urlencode({'key': key, 'by': by})}").text
        return [json.loads(one) for one in re.findall(r"^data: (.*)$", text, re.M)]

    def report(self, page: str, given: dict[str, object], kind: str = "html", by: str = "tab") -> str:
        """What is shown in the end: the report, or why there is none."""
        asked = self.wish(page, given, kind, by)
        if "key" not in asked:
            return str(asked)
        last = self.wait(page, asked["key"], by)[-1]
        if last["state"] != "done":
            return f"{last['state']}: {last.get('why')}"
        return self.ask(f"p/{page}/made/{asked['place']}/{kind}").text


class Answer:
    """What a server says."""

    def __init__(self, status: int, body: bytes, headers: dict[str, str]) -> None:
        self.status, self.body = status, body
        self.headers = {name.lower(): value for name, value in headers.items()}

    @property
    def text(self) -> str:
        """As text."""
        return self.body.decode("utf-8", "replace")

    def data(self) -> Any:
        """As JSON."""
        return json.loads(self.body)


def until(true: Any, seconds: float = 20.0) -> bool:
    """Wait until something is true; whether it became so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if true():
            return True
        time.sleep(0.05)
    return bool(true())
