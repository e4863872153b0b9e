"""Libraries of the system by the names of their files, and what of them is another."""

from __future__ import annotations

import sys
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.handover.needs import Needs, Package
from wornpage.handover.system import _named, different, libraries_of

HELD = st.dictionaries(st.text(max_size=4), st.text(max_size=3), max_size=5)


class System(unittest.TestCase):
    def test_names_and_versions_are_in_the_names_of_files(self) -> None:
        self.assertEqual(
            _named(
                [
                    "/usr/lib/libstdc++.so.6.0.30",
                    "/lib/libz.so.1.2.13",
                    "/usr/lib/libopenblas-r0.3.21.so",
                    "/x/libblas.so.3",
                    "/x/plain.so",
                    "/lib/libc.so.6",
                    "/lib/libm.so.6",
                    "/lib64/ld-linux-x86-64.so.2",
                    "/x/readme.txt",
                ]
            ),
            {
                "libstdc++": "6.0.30",
                "libz": "1.2.13",
                "libopenblas-r0": "3.21",
                "libblas": "3",
                "plain": "present",
            },
        )

    @given(HELD, HELD)
    def test_what_is_another_is_told_once_and_nothing_else(self, before: dict[str, str], now: dict[str, str]) -> None:
        told = different(before, now)
        wanted = {name for name in {*before, *now} if before.get(name) != now.get(name)}
        self.assertEqual(len(told), len(wanted))
        self.assertEqual(different(now, now), [])

    def test_a_program_that_is_none_tells_of_nothing(self) -> None:
        self.assertEqual(libraries_of(Needs("3", "/no/such/python", "x", (Package("pandas", "1", ("a",)),))), {})

    @unittest.skipUnless(sys.platform == "linux", "maps of memory are Linux's")
    def test_what_is_loaded_here(self) -> None:
        found = libraries_of(Needs("3", sys.executable, "x", (Package("numpy", "1", ("a",)),)))
        self.assertRegex(found["glibc"], r"^\d+\.\d+")
        self.assertNotIn("libm", found, "it is a part of that")
        self.assertFalse([name for name in found if "numpy" in name.lower()], "what packages bring along is theirs")
