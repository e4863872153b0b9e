"""What is kept between pressings: signed for its place, a miss when it is damaged, never more than is used."""

import unittest
from unittest import mock

from tests.support import FolderCase
from wornpage.store import blocks
from wornpage.store.blocks import BlockCache
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
    def cache(self, folder: object = None) -> BlockCache:
        made = BlockCache("test")
        self.addCleanup(blocks._ALL.remove, made)
        made.open(self.folder)
        return made

    def test_what_is_kept_is_found_by_its_whole_key(self) -> None:
        cache = self.cache()
        cache.put({"a": 1}, "code", "python")
        cache.save()
        other = self.cache()
        self.assertEqual(other.get("code", "python"), {"a": 1})
        self.assertIsNone(other.get("codepython"))
        self.assertIsNone(other.get("code", "python", ""))

    def test_a_damaged_file_is_a_miss(self) -> None:
        cache = self.cache()
        cache.put(1, "a")
        cache.save()
        (path,) = self.folder.glob("test-*.json")
        whole = path.read_bytes()
        for damaged in (b"", whole[:-3], b"{}", whole.replace(b"1", b"2"), b"\xff\xfe"):
            path.write_bytes(damaged)
            self.assertIsNone(self.cache().get("a"))
        path.unlink()
        path.mkdir()
        self.assertIsNone(self.cache().get("a"))

    def test_beyond_a_bound_only_what_was_used_stays(self) -> None:
        cache = self.cache()
        for number in range(6):
            cache.put(number, str(number))
        cache.save()
        other = self.cache()
        self.assertEqual(other.get("3"), 3)
        other.put("new", "new")
        with mock.patch.object(blocks, "_MOST", 4):
            other.save()
        third = self.cache()
        self.assertEqual([third.get(key) for key in ("3", "new", "0", "5")], [3, "new", None, None])

    def test_nothing_new_is_not_written_and_no_folder_is_no_fault(self) -> None:
        cache = self.cache()
        cache.save()
        self.assertEqual(list(self.folder.iterdir()), [])
        cache.open(None)
        cache.put(1, "a")
        cache.save()
        self.assertEqual((cache.get("a"), list(self.folder.iterdir())), (1, []))


if __name__ == "__main__":
    unittest.main()
