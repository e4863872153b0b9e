"""Who is let in, and how often they may ask."""

from __future__ import annotations

import stat
from unittest.mock import patch

from tests.support import FolderCase
from wornpage.desk.people import Allowance, Passes, Rates, Users, is_password, let_in, read_people
from wornpage.tree.problem import UsageError


class People(FolderCase):
    def test_passwords_are_kept_hashed_and_for_the_owner_alone(self) -> None:
        file = self.folder / "people.txt"
        let_in(file, "ann", "a long secret")
        let_in(file, "bo@marlow.example", "another secret")
        let_in(file, "ann", "a newer secret")
        self.assertNotIn("secret", file.read_text().replace("# ", ""))
        self.assertEqual(stat.S_IMODE(file.stat().st_mode), 0o600)
        users = Users(file)
        tries = [
            ("ann", "a newer secret"),
            ("ann", "a long secret"),
            ("bo@marlow.example", "another secret"),
            ("nobody", "x"),
            ("", ""),
        ]
        self.assertEqual([users.knows(*one) for one in tries], [True, False, True, False, False])

    def test_what_is_no_person_is_told_with_its_line(self) -> None:
        file = self.write("people.txt", "# these\nann:plain password\n")
        with self.assertRaisesRegex(UsageError, "people.txt:2"):
            read_people(file)
        for name, password in (("a:b", "long enough"), ("ann", "short"), ("x\ny", "long enough")):
            with self.assertRaises(UsageError):
                let_in(self.folder / "new.txt", name, password)

    def test_who_is_taken_out_of_the_file_is_let_in_no_longer(self) -> None:
        file = self.folder / "people.txt"
        let_in(file, "ann", "a long secret")
        let_in(file, "bo", "a long secret")
        users, passes = Users(file), Passes(b"k" * 32)
        shown = passes.made("ann", users.known["ann"])
        self.assertEqual(passes.name(shown, users.known), "ann")
        file.write_text("\n".join(line for line in file.read_text().splitlines() if not line.startswith("ann:")) + "\n")
        self.assertIsNone(passes.name(shown, users.known))
        let_in(file, "ann", "another secret")  # a new password ends what was opened with the old one
        self.assertIsNone(passes.name(shown, users.known))

    def test_passes_of_others_and_old_ones_are_none(self) -> None:
        mine = Passes(b"k" * 32)
        shown = mine.made("visitor 1")
        self.assertEqual(mine.name(shown), "visitor 1")
        self.assertIsNone(Passes(b"j" * 32).name(shown))
        for bad in ("", ".", "x.y", shown[:-1], "é" + shown, shown.replace(".", "")):
            self.assertIsNone(mine.name(bad))
        with patch("time.time", return_value=1e12):
            self.assertIsNone(mine.name(shown))

    def test_the_same_password_is_kept_otherwise_each_time(self) -> None:
        file = self.folder / "people.txt"
        let_in(file, "ann", "a long secret")
        let_in(file, "bo", "a long secret")
        one, two = read_people(file).values()
        self.assertNotEqual(one, two)
        self.assertTrue(is_password("a long secret", one) and is_password("a long secret", two))

    def test_who_asks_too_often_waits(self) -> None:
        rates = Rates(Allowance(at_once=3, a_minute=60))
        with patch("time.monotonic", return_value=100.0):
            self.assertEqual([rates.take("a") for _ in range(3)], [0, 0, 0])
            self.assertGreater(rates.take("a"), 0.9)
            self.assertEqual(rates.take("b"), 0)
        with patch("time.monotonic", return_value=102.1):
            self.assertEqual([rates.take("a") == 0 for _ in range(3)], [True, True, False])
