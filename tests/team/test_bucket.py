"""A shelf on a real server that speaks S3, and servers that say anything else."""

from __future__ import annotations

import contextlib
import os
import socket
import threading
import time
from unittest.mock import patch

from tests.served import free_port, serve
from tests.team.test_runs import TeamCase
from wornpage.team.s3 import Bucket, credentials
from wornpage.team.shelf import Away


class Buckets(TeamCase):
    def setUp(self) -> None:
        super().setUp()
        (self.folder / "served" / "laboratory").mkdir(parents=True)
        port = serve(self, "s3", self.folder / "served", "--auth-key", "marlow,street")
        self.endpoint = f"http://127.0.0.1:{port}"

    def bucket(self, **changed: str) -> Bucket:
        told = {"bucket": "laboratory", "prefix": "worn/x", "endpoint": self.endpoint} | changed
        return Bucket(**told)

    def test_things_are_put_and_had_again(self) -> None:
        bucket, large = self.bucket(), self.folder / "large"
        large.write_bytes(os.urandom(12_000_000))
        self.assertEqual((bucket.names("runs/"), bucket.get("a"), bucket.has("a")), ({}, None, False))
        self.assertFalse(bucket.fetch("a", self.folder / "got", time.monotonic() + 9))
        bucket.put("runs/a/b", b"one")
        bucket.put("runs/c", large)
        self.assertEqual(bucket.names("runs/"), {"a/b": 3, "c": 12_000_000})
        self.assertEqual((bucket.get("runs/a/b"), bucket.has("runs/c")), (b"one", True))
        self.assertTrue(bucket.fetch("runs/c", self.folder / "got", time.monotonic() + 30))
        self.assertEqual((self.folder / "got").read_bytes(), large.read_bytes())

    def test_a_page_goes_from_one_to_the_other(self) -> None:
        store = f"{{at: 's3://laboratory/books', endpoint: '{self.endpoint}'}}"
        self.press_as("imke", store)
        self.assertEqual(self.send_as("imke").runs, 2)
        self.press_as("rei", store)
        self.trust_as("zoe", "imke")
        self.assertEqual(self.had(self.press_as("zoe", store)), ["model", "told"])
        self.assertEqual(self.html("zoe"), self.html("imke"))

    def test_what_is_wrong_is_said_in_few_words(self) -> None:
        with patch.dict(os.environ, {"AWS_SECRET_ACCESS_KEY": "wrong"}):
            self.wrong(self.bucket, "403 Forbidden")
        self.wrong(lambda: self.bucket(bucket="none"), "404 Not Found")
        self.wrong(lambda: self.bucket(endpoint=f"http://127.0.0.1:{free_port()}"), "refused")
        for bad in ({"bucket": ""}, {"bucket": "../x"}, {"endpoint": "ftp://x"}, {"endpoint": "http://a b"}):
            self.wrong(lambda bad=bad: self.bucket(**bad), "")  # type: ignore[misc]

    def wrong(self, make, words: str) -> None:  # type: ignore[no-untyped-def]
        with self.assertRaises(Away) as raised:
            make().names("x/")
        self.assertIn(words, str(raised.exception))
        self.assertLess(len(str(raised.exception)), 200)

    def test_servers_that_are_none(self) -> None:
        page = b"<html>Sign in</html>"
        for said in (b"\0\xff" * 300, b"HTTP/1.1 200 OK\r\nContent-Length: %d\r\n\r\n" % len(page) + page, b"HTTP/1.1 302 Found\r\nLocation: /x\r\nContent-Length: 0\r\n\r\n", b""):  # fmt: skip
            server = socket.create_server(("127.0.0.1", 0))

            def answer(server: socket.socket = server, said: bytes = said) -> None:
                while True:
                    try:
                        one, _ = server.accept()
                    except OSError:
                        return
                    with one:
                        one.recv(9_999)
                        one.sendall(said)

            threading.Thread(target=answer, daemon=True).start()
            with contextlib.suppress(Away):
                bucket = self.bucket(endpoint=f"http://127.0.0.1:{server.getsockname()[1]}")
                self.assertEqual(bucket.names("x/"), {})
            server.close()

    def test_who_one_is_stands_in_the_usual_file(self) -> None:
        path = self.write(
            "credentials", "[default]\naws_access_key_id = a\naws_secret_access_key = b%c\n[lab]\naws_access_key_id=d\n"
        )
        with patch.dict(os.environ, {"AWS_SHARED_CREDENTIALS_FILE": str(path)}):
            self.assertEqual(credentials(), {})
            del os.environ["AWS_ACCESS_KEY_ID"]
            self.assertEqual(credentials(), {"access_key_id": "a", "secret_access_key": "b%c"})
            os.environ["AWS_PROFILE"] = "lab"
            self.assertEqual(credentials(), {"access_key_id": "d"})
            path.write_text("nonsense")
            self.assertEqual(credentials(), {})
