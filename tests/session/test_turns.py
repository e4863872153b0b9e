"""A session that runs ahead of its turn: it reads what it likes, and ends before others could see that it was there."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import unittest
from pathlib import Path

from tests.support import FolderCase
from wornpage.session.process import ProcessSession
from wornpage.session.tasks import CannotFork, ChunkTask, Environment, Ran

ACTS = (
    "open('made.txt', 'w')",
    "import os; os.mkdir('made')",
    "import os; os.write(os.open('page.md', os.O_RDWR), b'x')",
    "import os; os.truncate('page.md', 1)",
    "import os; os.chmod('page.md', 0o600)",
    "import pathlib; pathlib.Path('made').touch()",
    "import shutil; shutil.copy('page.md', 'made.md')",
    "import tempfile; tempfile.NamedTemporaryFile()",
    "import numpy as np; np.save('made.npy', np.ones(3))",
    "import numpy as np; np.memmap('page.md', mode='r+')",
    "import logging; logging.FileHandler('made.log')",
    "import sqlite3; sqlite3.connect('made.sqlite')",
    "import duckdb; duckdb.connect('made.duckdb').execute('create table t (n int)')",
    "import polars; polars.DataFrame({'a': [1]}).write_csv('made.csv')",
    "import fcntl; fcntl.flock(open('page.md'), fcntl.LOCK_SH)",
    "import fcntl; fcntl.lockf(open('page.md'), fcntl.LOCK_SH)",
    "import os; os.utime('page.md')",
    "import subprocess; subprocess.run(['true'])",
    "import multiprocessing as m; m.get_context('spawn').Process(target=print).start()",
    "import multiprocessing.shared_memory as m; m.SharedMemory(create=True, size=10)",
    "import os; os.fork()",
    "import os; os.kill(os.getppid(), 0)",
    "import socket; socket.create_connection(('127.0.0.1', 9))",
    "import ctypes; ctypes.CDLL(None).creat(b'made.c', 0o600)",
    "try: open('made.txt', 'a')\nexcept BaseException: print('caught')",
)
"""What others could see."""
QUIET = (
    "import sqlite3; sqlite3.connect(':memory:').execute('select 1')",
    "open('page.md').read()",
    "import io, os; io.open_code('page.md'); os.listdir('.'); os.path.exists('made.txt')",
    "import mmap; mmap.mmap(-1, 100)",
    "from concurrent.futures import ThreadPoolExecutor as T\nwith T(2) as t: list(t.map(abs, [1, -2]))",
    "import os; os.environ['SHELF'] = 'high'",
)
"""What they could not."""
SHARED = (
    "file = open('page.md')",
    "import socket; ends = socket.socketpair()",
    "import mmap, os; shared = mmap.mmap(-1, 100)",
)
"""What a fork would have in common with the session it comes from."""


def run(session: ProcessSession, code: str) -> Ran:
    return session.run(ChunkTask("c", code, 1, None))


@unittest.skipUnless(sys.platform == "linux", "sessions are forked for it")
class Turns(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.write("page.md", "text")
        self.session = ProcessSession()
        self.addCleanup(self.session.close)
        self.session.open(Environment(self.folder, "page.md", store=str(self.folder / ".worn/blobs")))
        run(self.session, "held = [1, 2]")

    def fork(self) -> ProcessSession:
        forked = self.session.fork({}, ahead=True)
        self.addCleanup(forked.close)
        return forked

    def test_it_ends_before_others_could_see_anything(self) -> None:
        before = sorted(path.name for path in self.folder.iterdir())
        for code in ACTS:
            with self.subTest(code):
                failure = run(self.fork(), code).result.failure
                self.assertEqual(failure and failure.kind, "crash")
        self.assertEqual(sorted(path.name for path in self.folder.iterdir()), before)
        self.assertEqual((self.folder / "page.md").read_text(), "text")
        self.assertEqual(run(self.session, "print(len(held))").found.effects, "")

    def test_it_may_do_what_nobody_sees(self) -> None:
        for code in QUIET:
            with self.subTest(code):
                ran = run(self.fork(), code)
                self.assertIsNone(ran.result.failure)
                self.assertEqual((ran.found.effects, ran.found.written), ("", ()))

    def test_what_is_done_at_the_end_is_done_by_the_one_that_set_it_up(self) -> None:
        shown = run(
            self.session, "import tempfile\nplace = tempfile.TemporaryDirectory()\nprint(place.name)"
        ).result.shown[0]
        place = Path(str(getattr(shown, "text", "")).strip())
        self.session.fork({}).close()
        self.assertTrue(place.is_dir())
        run(self.session, "import atexit, pathlib\natexit.register(pathlib.Path('ended').touch)")
        with self.assertRaises(CannotFork):  # each would have to call it, at another end
            self.session.fork({})
        forked = self.session.fork({}, ahead=True)
        run(forked, "print(1)")
        forked.close()
        self.assertTrue(place.is_dir())
        self.assertFalse((self.folder / "ended").exists())
        self.session.close()
        self.assertFalse(place.exists())

    def test_a_session_forked_from_a_forked_one_can_be_forked_so_too(self) -> None:
        run(self.session, "import subprocess")
        child = self.session.fork({})
        self.addCleanup(child.close)
        ran = run(child.fork({}, ahead=True), "import subprocess\nprint(len(held))")
        self.assertEqual((ran.result.failure, ran.found.effects), (None, ""))

    def test_there_is_none_where_it_would_share_what_either_can_change(self) -> None:
        for code in SHARED:
            with self.subTest(code), ProcessSession() as session:
                session.open(Environment(self.folder, "page.md"))
                session.fork({}, ahead=True).close()
                self.assertIsNone(run(session, code).result.failure)
                with self.assertRaises(CannotFork):
                    session.fork({}, ahead=True)

    def test_where_there_is_no_room_for_one_the_session_goes_on(self) -> None:
        no_room = "import errno, os\ndef no_fork():\n    raise OSError(errno.EAGAIN, 'no room')\nkept = os.fork\nos.fork = no_fork"
        run(self.session, no_room)
        for ahead in (False, True):
            with self.assertRaises(CannotFork):
                self.session.fork({}, ahead=ahead)
        run(self.session, "os.fork = kept")
        self.fork()
        self.assertIsNone(run(self.session, "print(len(held))").result.failure)

    def test_it_is_nobodys_child_and_ends_with_whoever_asked_for_it(self) -> None:
        code = (
            "import os, sys, pathlib\nfrom wornpage.session.process import ProcessSession\n"
            "from wornpage.session.tasks import ChunkTask, Environment\nsession = ProcessSession()\n"
            "session.open(Environment(pathlib.Path('.').resolve(), 'page.md'))\n"
            "session.run(ChunkTask('a', 'import subprocess', 1, None))\nforked = session.fork({}, ahead=True)\n"
            "print(forked._process.pid, session.run(ChunkTask('b', 'x = 1', 1, None)).found.effects, flush=True)\n"
            "forked._send({'do': 'run', 'label': 'c', 'code': 'while True: pass', 'seed': 1, 'options': {}, 'version': '1', 'keep': False, 'binds': '', 'query': None, 'table': {}, 'gone': [], 'ambient': {}, 'order': None})\n"
            "os.kill(os.getpid(), 9)\n"
        )  # fmt: skip
        done = subprocess.run(
            [sys.executable, "-c", code], cwd=self.folder, capture_output=True, text=True, check=False
        )
        pid, _, effects = done.stdout.strip().partition(" ")
        self.assertEqual(effects, "", done.stderr)
        for _ in range(100):
            if not Path(f"/proc/{pid}").exists() or "Z" in Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1][:3]:
                return
            time.sleep(0.05)
        os.kill(int(pid), 9)
        self.fail("it goes on though nobody asks for it")
