"""A talk with a speaker and followers: the real program, real browsers, and many followers at once."""

import asyncio
import contextlib
import json
import os
import re
import signal
import statistics
import subprocess
import sys
import time
import urllib.error
import urllib.request
from typing import Any

from tests.browser import chromium
from tests.support import FolderCase, worn
from wornpage.serving.loopback import own_name

PAGE = """
    # First

    - one
    - two

    {steps=yes}

    ::: speaker
    Secret words.
    :::

    # Second

    Words.
    """


class Talk(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("talk.md", PAGE)
        command = [sys.executable, "-m", "wornpage", "talk", "talk.md", "--no-open"]
        self.program = subprocess.Popen(
            command,
            cwd=self.folder,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env={**os.environ, "NO_COLOR": "1"},
        )
        self.addCleanup(self.end)
        assert self.program.stdout is not None
        self.speaker = self.program.stdout.readline().split()[1]
        self.audience = self.program.stdout.readline().split()[1]

    def end(self) -> None:
        self.program.send_signal(signal.SIGINT)
        self.program.communicate(timeout=10)

    def get(self, address: str, data: object = None, **headers: str) -> tuple[int, str]:
        body = None if data is None else data if isinstance(data, bytes) else json.dumps(data).encode()
        try:
            with urllib.request.urlopen(urllib.request.Request(address, body, headers), timeout=10) as answer:
                return answer.status, answer.read().decode()
        except urllib.error.HTTPError as error:
            return error.code, ""

    def test_the_audience_can_only_read_and_is_told_nothing_of_the_speakers(self) -> None:
        status, page = self.get(self.audience)
        self.assertEqual(status, 200)
        self.assertNotIn("Secret words", page)
        self.assertNotIn(self.speaker.rstrip("/").rpartition("/")[2], page)
        self.assertIn("Secret words", self.get(self.speaker)[1])
        self.assertIn("<svg", self.get(f"{self.speaker}audience.svg")[1])
        said = {"by": "me", "all": [{"state": {"at": 1, "step": 0}}]}
        self.assertEqual(self.get(f"{self.audience}say", said)[0], 404)
        self.assertEqual(self.get(f"{self.audience}wrong-token/say", said)[0], 404)
        self.assertEqual(self.get(f"{self.speaker}say", said)[0], 200)
        for unfit in (b"{", b"\xff", {"all": 1}, {"all": [{"state": {"at": 99, "step": 0}}]}):
            self.assertEqual(self.get(f"{self.speaker}say", unfit)[0], 400)
        self.assertEqual(self.get(f"{self.speaker}say", b"x" * 4_100_000)[0], 413)
        self.assertEqual(self.get(f"{self.speaker}say", said, Origin="http://evil.example")[0], 403)
        self.assertEqual(self.get(self.speaker, None, Host="evil.example")[0], 403)

    def test_followers_go_along_look_back_and_join_again(self) -> None:
        speaker, follower = chromium(), chromium()
        self.addCleanup(speaker.quit)
        self.addCleanup(follower.quit)

        def keys(browser: Any, *pressed: str) -> None:
            for key in pressed:
                browser.find_element("tag name", "body").send_keys(key)

        def stands(browser: Any, *wanted: int) -> None:
            for _ in range(50):
                state = browser.execute_script("return worn.state")
                if [state["at"], state["step"]] == list(wanted):
                    return
                time.sleep(0.1)
            self.fail(f"{state} and not {wanted}")

        speaker.get(self.speaker)
        follower.get(self.audience)
        waiting = "return document.querySelector('.apart')?.innerText"
        time.sleep(0.5)
        self.assertIn("has not begun", follower.execute_script(waiting))
        keys(speaker, "\ue014")
        stands(follower, 0, 1)
        keys(speaker, "\ue014", "\ue014")
        stands(follower, 1, 0)
        keys(follower, "\ue012")
        stands(follower, 0, 2)
        self.assertIn("Join again", follower.execute_script(waiting))
        keys(speaker, "b")
        time.sleep(0.4)
        stands(follower, 0, 2)
        keys(follower, "j")
        stands(follower, 1, 0)
        self.assertEqual(follower.execute_script("return worn.state.black"), True)
        speaker.execute_script(
            "worn.tell('drawn', {name: 'second', strokes: [{t: 'pen', c: '#c0392b', w: 4, p: [1, 2, .5, 90, 90, .5]}]}, 'here')"
        )
        drawn = "return document.querySelectorAll('.drawn path').length"
        time.sleep(0.5)
        self.assertEqual(follower.execute_script(drawn), 1)
        late = chromium()
        self.addCleanup(late.quit)
        late.get(self.audience)
        stands(late, 1, 0)
        self.assertEqual(late.execute_script(drawn), 1)
        self.assertEqual(late.execute_script("return document.querySelectorAll('.tools [aria-label=Draw]').length"), 0)

    def test_three_hundred_follow(self) -> None:
        port = int(re.findall(r":(\d+)/", self.audience)[0])

        sent = [0.0]

        async def follower(begun: asyncio.Semaphore, delays: list[float]) -> None:
            reader, writer = await asyncio.open_connection("127.0.0.1", port)
            writer.write(f"GET /events HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode())
            async for line in reader:
                if line.startswith(b"event: all"):
                    begun.release()
                elif line.startswith(b"data: ") and b'"sent"' in line:
                    delays.append(time.perf_counter() - sent[0])
                    break
            writer.close()

        async def all_of_them() -> list[float]:
            begun, delays = asyncio.Semaphore(0), list[float]()
            tasks = [asyncio.create_task(follower(begun, delays)) for _ in range(300)]
            for _ in tasks:
                await begun.acquire()
            sent[0] = time.perf_counter()
            told = {"by": "sent", "all": [{"state": {"at": 1, "step": 0}}]}
            status, _ = await asyncio.to_thread(self.get, f"{self.speaker}say", told)
            self.assertEqual(status, 200)
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(asyncio.gather(*tasks), 20)
            return delays

        delays = asyncio.run(all_of_them())
        self.assertEqual(len(delays), 300)
        print(f"300 followers: median {statistics.median(delays) * 1000:.0f} ms", file=sys.stderr)


class Words(FolderCase):
    def test_mistakes_are_told(self) -> None:
        self.assertEqual(worn("talk", "none.md", folder=self.folder).returncode, 2)
        self.write("talk.md", "# A\n\n{see nothing}\n")
        told = worn("talk", "talk.md", folder=self.folder)
        self.assertEqual((told.returncode, told.stderr[:11]), (1, "talk.md:3:1"))
        self.write("talk.md", "# A\n")
        told = worn("talk", "talk.md", "--listen", "203.0.113.9", folder=self.folder)
        self.assertEqual(told.returncode, 2)
        self.assertIn("cannot be used", told.stderr)

    def test_what_others_call_this_machine_by(self) -> None:
        self.assertEqual(own_name("127.0.0.1"), "127.0.0.1")
        self.assertNotEqual(own_name("0.0.0.0"), "0.0.0.0")
