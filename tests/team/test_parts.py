"""The small parts of a team's store: how long things take, several at once, folders, names."""

from __future__ import annotations

import threading
import time
import unittest
from functools import partial
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.settings.models import TeamStore
from wornpage.team.folder import Folder
from wornpage.team.hurrying import AT_ONCE, all_of
from wornpage.team.names import blob_name, reads_name, run_name, runs_of
from wornpage.team.pace import Pace, pace_of
from wornpage.team.shelf import Away


def gone() -> int:
    """What a shelf does that is away."""
    raise Away("it is gone")


class Hurrying(unittest.TestCase):
    @given(st.lists(st.integers(), max_size=30))
    def test_all_come_in_their_order(self, numbers: list[int]) -> None:
        self.assertEqual(all_of([partial(int, one) for one in numbers], time.monotonic() + 5), numbers)

    def test_several_are_at_work_at_once_and_never_more(self) -> None:
        at_work, most, lock = [0], [0], threading.Lock()

        def act() -> None:
            with lock:
                at_work[0] += 1
                most[0] = max(most[0], at_work[0])
            time.sleep(0.02)
            with lock:
                at_work[0] -= 1

        all_of([act] * 30, time.monotonic() + 10)
        self.assertTrue(1 < most[0] <= AT_ONCE, most)

    def test_the_first_that_fails_ends_it_and_nobody_waits_longer_than_asked(self) -> None:
        with self.assertRaisesRegex(Away, "gone"):
            all_of([partial(int, 1), gone, partial(time.sleep, 9)], time.monotonic() + 5)  # type: ignore[list-item]
        begun = time.monotonic()
        with self.assertRaisesRegex(Away, "in time"):
            all_of([partial(time.sleep, 9)], begun + 0.1)
        self.assertLess(time.monotonic() - begun, 2)
        with self.assertRaisesRegex(Away, "'x'"):  # whatever goes wrong in a thread is told
            all_of([partial(int, "x")], time.monotonic() + 5)


class Paces(FolderCase):
    def test_what_is_measured_counts_and_is_kept(self) -> None:
        path = self.folder / "team" / "a.pace"
        pace = Pace(path)
        before = pace.seconds(1, 100_000_000)
        for _ in range(20):
            pace.note(0.5, 100_000_000)
            pace.note(0.001, 100)
        pace.keep()
        after = Pace(path).seconds(1, 100_000_000)
        self.assertTrue(after < 1 < before, (before, after))
        for damage in (b"", b"[]", b"{}", b'{"latency": "x", "rate": 1}', b'{"latency": -5, "rate": 0}', b"\xff"):
            path.write_bytes(damage)
            self.assertGreater(Pace(path).seconds(3, 10**9), 0, damage)

    def test_folders_are_taken_for_nearer_than_servers(self) -> None:
        near, far = (pace_of(self.folder, TeamStore(at=at)) for at in ("/srv/worn", "s3://lab/x"))
        self.assertLess(near.seconds(1, 10**9), far.seconds(1, 10**9))

    @given(st.integers(0, 1000), st.integers(0, 10**12), st.integers(0, 10**9))
    def test_more_never_takes_less(self, count: int, size: int, more: int) -> None:
        pace = Pace(Path("/nowhere/x"))
        self.assertLessEqual(pace.seconds(count, size), pace.seconds(count + more, size + more))


class Folders(FolderCase):
    def test_things_are_put_whole_and_had_again(self) -> None:
        shelf, large = Folder(self.folder), self.folder / "large"
        large.write_bytes(b"x" * 10_000_000)
        self.assertEqual((shelf.names("runs/"), shelf.get("a"), shelf.has("a")), ({}, None, False))
        self.assertFalse(shelf.fetch("a", self.folder / "got", time.monotonic() + 5))
        shelf.put("runs/a/b", b"one")
        shelf.put("runs/a/b", b"two")
        shelf.put("runs/c", large)
        self.assertEqual(shelf.names("runs/"), {"a/b": 3, "c": 10_000_000})
        self.assertEqual((shelf.get("runs/a/b"), shelf.has("runs/c")), (b"two", True))
        self.assertTrue(shelf.fetch("runs/c", self.folder / "got", time.monotonic() + 5))
        self.assertEqual((self.folder / "got").read_bytes(), large.read_bytes())
        with self.assertRaisesRegex(Away, "slower"):
            shelf.fetch("runs/c", self.folder / "got", time.monotonic() - 1)

    def test_what_is_not_mounted_is_away_and_not_made(self) -> None:
        shelf = Folder(self.folder / "none")
        for act in (partial(shelf.names, ""), partial(shelf.put, "a", b""), partial(shelf.has, "a")):
            with self.assertRaises(Away):
                act()
        self.assertFalse((self.folder / "none").exists())
        (self.folder / "file").write_text("x")
        with self.assertRaises(Away):
            Folder(self.folder / "file").put("a", b"")

    def test_names_lie_below_one_root_and_lead_nowhere_else(self) -> None:
        code, address = "ab" * 20, "cd" * 32
        names = [runs_of(code), reads_name(code, "e" * 40), run_name(f"{code}/{'e' * 40}/{'f' * 40}", "0" * 64), blob_name(address)]  # fmt: skip
        self.assertEqual(len(set(names)), 4)
        self.assertEqual({name.partition("/")[0] for name in names}, {"worn-1"})
        self.assertTrue(all(name.startswith(runs_of(code)) for name in names[:3]))
