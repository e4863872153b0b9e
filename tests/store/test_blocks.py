"""What is kept between pressings: signed for its place, a miss when it is damaged, never more than is used."""

import unittest
from threading import Thread
from unittest import mock

from tests.support import FolderCase
from wornpage.store import blocks
from wornpage.store.blocks import BlockCache, Shelf, keep_in, save_all
from wornpage.store.signing import body_of, opened, resealed, sealed


class Signing(unittest.TestCase):
    def test_a_signature_holds_for_its_place_alone(self) -> None:
        data = {"a": [1, None, "é\ud800"], "b": 1.5}
        raw = sealed(data, "here")
        self.assertEqual(opened(raw, "here"), data)
        for damaged in (
            raw[:-1],
            raw[1:],
            raw.replace(b"1.5", b"2.5"),
            b"",
            b"\n",
            raw.partition(b"\n")[2],
            raw + b" ",
        ):
            with self.subTest(damaged[:20]), self.assertRaises(ValueError):
                opened(damaged, "here")
        with self.assertRaises(ValueError):
            opened(raw, "there")
        self.assertEqual(opened(resealed(raw, "there"), "there"), data)
        self.assertEqual(body_of(raw), raw.partition(b"\n")[2])

    def test_another_key_is_somebody_else(self) -> None:
        raw = sealed([1], "here")
        with mock.patch("wornpage.store.signing.user_key", return_value=b"x" * 32), self.assertRaises(ValueError):
            opened(raw, "here")


class Blocks(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(blocks._in_use.reset, blocks._in_use.set(Shelf(None)))
        self.cache = BlockCache("test")

    def test_what_is_kept_is_found_by_its_whole_key(self) -> None:
        keep_in(self.folder)
        self.cache.put({"a": 1}, "code", "python")
        save_all()
        self.afresh()
        self.assertEqual(self.cache.get("code", "python"), {"a": 1})
        self.assertIsNone(self.cache.get("codepython"))
        self.assertIsNone(self.cache.get("code", "python", ""))
        self.assertIsNone(BlockCache("other").get("code", "python"))

    def afresh(self) -> None:
        """As another process has it."""
        blocks._in_use.set(Shelf(self.folder / "cache"))

    def test_a_damaged_file_is_a_miss(self) -> None:
        keep_in(self.folder)
        self.cache.put(1, "a")
        save_all()
        (path,) = (self.folder / "cache").glob("test-*.json")
        whole = path.read_bytes()
        for damaged in (b"", whole[:-3], b"{}", whole.replace(b"1", b"2"), b"\xff\xfe"):
            path.write_bytes(damaged)
            self.afresh()
            self.assertIsNone(self.cache.get("a"))
        path.unlink()
        path.mkdir()
        self.afresh()
        self.assertIsNone(self.cache.get("a"))

    def test_beyond_a_bound_only_what_was_used_stays(self) -> None:
        keep_in(self.folder)
        for number in range(6):
            self.cache.put(number, str(number))
        save_all()
        self.afresh()
        self.assertEqual(self.cache.get("3"), 3)
        self.cache.put("new", "new")
        with mock.patch.object(blocks, "_MOST", 4):
            save_all()
        self.afresh()
        self.assertEqual([self.cache.get(key) for key in ("3", "new", "0", "5")], [3, "new", None, None])

    def test_nothing_new_is_not_written_and_no_folder_is_no_fault(self) -> None:
        keep_in(self.folder)
        self.cache.get("a")
        save_all()
        self.assertEqual(list(self.folder.iterdir()), [])
        keep_in(None)
        self.cache.put(1, "a")
        save_all()
        self.assertEqual((self.cache.get("a"), list(self.folder.iterdir())), (1, []))

    def test_what_others_have_written_is_seen_and_each_thread_keeps_in_its_own_folder(self) -> None:
        keep_in(self.folder)
        self.assertIsNone(self.cache.get("a"))

        def elsewhere() -> None:
            (self.folder / "other").mkdir()
            keep_in(self.folder / "other")
            self.cache.put(2, "a")
            save_all()

        thread = Thread(target=elsewhere)
        thread.start()
        thread.join()
        self.assertIsNone(self.cache.get("a"))
        (written,) = (self.folder / "other" / "cache").glob("test-*.json")
        (self.folder / "cache").mkdir()
        written.rename(self.folder / "cache" / written.name)
        self.assertIsNone(self.cache.get("a"), "within one pressing it stays as it was read")
        keep_in(self.folder)
        self.assertEqual(self.cache.get("a"), 2)


if __name__ == "__main__":
    unittest.main()
