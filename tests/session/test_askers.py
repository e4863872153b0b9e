"""Who asks what lies at a path, and which names of a folder a search goes by."""

import glob
import os
import sys
from collections.abc import Callable
from functools import partial
from types import FrameType
from typing import Any
from unittest.mock import patch

from tests.support import FolderCase
from wornpage.session.python.askers import Asker, asker_of, pattern_asked
from wornpage.session.python.relay import Relay
from wornpage.store.files import entry, listing_of, matching


class Askers(FolderCase):
    def told(self, name: str, act: Callable[[], object], judge: Callable[[FrameType], Any]) -> list[Any]:
        """What is made of the calls of a function of `os` while something is done."""
        told: list[Any] = []
        original = getattr(os, name)

        def noted(*arguments: object, **options: object) -> object:
            told.append(judge(sys._getframe(1)))
            return original(*arguments, **options)

        with patch.object(os, name, noted):
            act()
        return told

    def test_asking_whether_is_told_from_asking_what(self) -> None:
        path = self.write("a.txt", "a")
        for ask in (partial(os.path.isdir, str(path)), path.exists, path.is_file):
            self.assertEqual(self.told("stat", ask, asker_of), [Asker(only_whether=True, is_library=True, makes=False)])
        (asker,) = self.told("stat", path.stat, asker_of)
        self.assertFalse(asker.only_whether)

    def test_folders_that_may_be_there_already(self) -> None:
        whole = self.folder / "a" / "b"
        made = [
            *self.told("mkdir", partial(os.makedirs, str(whole), exist_ok=True), asker_of),
            *self.told("mkdir", partial(whole.with_name("c").mkdir, parents=True, exist_ok=True), asker_of),
        ]
        self.assertEqual([(asker.makes, asker.with_others) for asker in made], [(True, True)] * 3)
        (asker,) = self.told("mkdir", partial(whole.with_name("e").mkdir, exist_ok=True), asker_of)
        self.assertEqual((asker.makes, asker.with_others), (True, False))
        made = self.told("mkdir", partial(os.makedirs, str(whole.with_name("d"))), asker_of)
        self.assertEqual([asker.makes for asker in made], [False])

    def test_a_search_goes_by_what_its_pattern_fits(self) -> None:
        for name in ("a.csv", "b.txt", "in/c.csv"):
            self.write(name, "")
        places = [str(self.folder), str(self.folder / "in")]
        for pattern, fits in {"*.csv": [["a.csv"]], "*/*.csv": [["in/"], ["c.csv"]]}.items():
            for search in (
                partial(glob.glob, f"{self.folder}/{pattern}"),
                lambda of=pattern: list(self.folder.glob(of)),
            ):
                asked = self.told("scandir", search, pattern_asked)
                self.assertEqual([matching(*one) for one in zip(places, asked, strict=False)], fits)
        self.assertEqual(self.told("scandir", lambda: list(os.walk(places[1])), pattern_asked), [""])

    def test_what_lies_at_a_path(self) -> None:
        self.write("a.csv", "")
        told = [entry(str(self.folder / name)) for name in ("a.csv", ".", "none")]
        self.assertEqual(told, ["file", "folder", "absent"])
        self.assertEqual(listing_of(matching(str(self.folder / "none"), ".*")), "absent")

    def test_a_forked_process_tells_of_its_looks_whatever_its_end(self) -> None:
        relay = Relay()
        self.assertEqual((list(relay.take()), relay.tell("file", "a")), ([], False))
        relay.make_ready()
        if not (child := os.fork()):
            relay.is_forked = True
            relay.tell("file", "ä b\n")
            relay.tell("listing", "c")
            os._exit(9)
        os.waitpid(child, 0)
        self.assertEqual(list(relay.take()), [("file", "ä b\n"), ("listing", "c")])
        self.assertEqual(list(relay.take()), [])
