"""Keys, signatures and those who are trusted; and the commands for them."""

from __future__ import annotations

import os
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase, worn
from wornpage.team.keys import distrust, own_key, own_secret, trust, trusted, whose_are_taken
from wornpage.team.signed import checked, signed
from wornpage.tree.problem import UsageError

KEY, OTHER = "ab" * 32, "cd" * 32


class Keys(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        changed = patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder)})
        changed.start()
        self.addCleanup(changed.stop)

    def test_who_is_trusted(self) -> None:
        self.assertEqual((trusted(), whose_are_taken()), ({}, {}))
        trust(f"ed25519:{KEY.upper()}", "Imke  Sandoval")
        trust(OTHER, "Rei")
        self.assertEqual({key: one.name for key, one in trusted().items()}, {KEY: "Imke Sandoval", OTHER: "Rei"})
        trust(KEY, "Imke")
        self.assertEqual(distrust("rei").key, OTHER)
        self.assertEqual([one.name for one in trusted().values()], ["Imke"])
        for bad in ("", "ed25519:", "ab", f"{KEY}0", f"rsa:{KEY}", "../x"):
            with self.assertRaises(UsageError):
                trust(bad, "x")
        with self.assertRaises(UsageError):
            distrust("nobody")
        (self.folder / "wornpage" / "trusted").write_text(f"nonsense\n\n{KEY}\n{OTHER} A B\n")
        self.assertEqual({key: one.name for key, one in trusted().items()}, {KEY: "", OTHER: "A B"})
        own_key()
        self.assertEqual(whose_are_taken()[own_key()].name, "you")
        self.assertEqual((self.folder / "wornpage" / "team-key").stat().st_mode & 0o777, 0o600)

    @given(st.binary(max_size=60), st.text(max_size=8), st.text(max_size=8), st.integers(0, 500))
    def test_a_signature_holds_for_what_and_where(self, body: bytes, place: str, elsewhere: str, at: int) -> None:
        raw, key = signed(body, place, own_secret()), own_key()
        self.assertEqual(checked(raw, place, key), body)
        broken = bytearray(raw)
        broken[at % len(raw)] ^= 1
        wrong = [(bytes(broken), place, key), (raw, place, KEY), (raw[:70], place + "x", key)]
        for one in wrong + ([(raw, elsewhere, key)] if elsewhere != place else []):
            with self.assertRaises(ValueError):
                checked(*one)

    def test_addresses_that_lead_nowhere_are_told_before_anything_is_asked(self) -> None:
        for store, told in (
            ("gs://x/y", "cannot be at gs://"), ("s3:///x", "names no bucket"), ("{at: 's3://lab', endpoint: 'https://imke:geheim@x'}", "endpoint"),
            ("{region: x}", "does not say where"), ("5", "cannot be 5"), ("{att: x}", "'at'"),
        ):  # fmt: skip
            self.write("page.md", f"---\nstore: {store}\n---\n\nWords.\n")
            done = worn("check", "page.md", folder=self.folder)
            self.assertEqual(done.returncode, 1, store)
            self.assertRegex(done.stdout, r"page\.md:2:\d+: error")
            self.assertIn(told, done.stdout)
            self.assertNotIn("geheim", done.stdout + done.stderr)

    def test_the_commands(self) -> None:
        key = worn("store", "key", folder=self.folder).stdout.strip()
        self.assertRegex(key, r"^ed25519:[0-9a-f]{64}$")
        self.assertIn("trust nobody", worn("store", "trust", folder=self.folder).stderr)
        worn("store", "trust", key, "--name", "Imke", folder=self.folder)
        self.assertEqual(worn("store", "trust", folder=self.folder).stdout, f"{key}  Imke\n")
        self.assertEqual(worn("store", "distrust", "Imke", folder=self.folder).returncode, 0)
        self.assertEqual(worn("store", "trust", "abc", folder=self.folder).returncode, 2)
        self.write("page.md", "```python run #a\nimport time\ntime.sleep(0.3)\nn = 1\n```\n")
        self.assertIn("names no store", worn("store", "send", "page.md", folder=self.folder).stderr)
        self.write("worn.yaml", "store: shelf\n")
        worn("press", "page.md", folder=self.folder)
        done = worn("store", "send", "page.md", folder=self.folder)
        self.assertEqual((done.returncode, "No such file" in done.stderr, "Traceback" in done.stderr), (2, True, False))
        (self.folder / "shelf").mkdir()
        self.assertIn("1 run sent", worn("store", "send", "page.md", folder=self.folder).stderr)
