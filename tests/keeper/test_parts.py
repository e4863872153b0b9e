"""Messages between commands and keepers, their doors, and who may come in."""

from __future__ import annotations

import os
import socket
import threading
from pathlib import Path
from unittest.mock import patch

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.keeper.door import Door
from wornpage.keeper.place import address, folder, is_own
from wornpage.keeper.talking import is_of_this_user, reach, receive, send

JSON = st.recursive(st.none() | st.booleans() | st.integers(-9, 9) | st.text(), lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner), max_leaves=8)  # fmt: skip


class Talking(FolderCase):
    @given(st.dictionaries(st.text(), JSON, max_size=4))
    def test_messages_arrive_as_they_were_sent(self, message: dict[str, object]) -> None:
        ours, theirs = socket.socketpair()
        with ours, theirs:
            send(ours, message)
            send(ours, {"again": 1})
            self.assertEqual(receive(theirs)[0], message)

    def test_long_messages_come_with_their_files(self) -> None:
        ours, theirs = socket.socketpair()
        with ours, theirs, (self.folder / "x").open("w") as file:
            long = {"text": "é" * 300_000}
            sending = threading.Thread(target=send, args=(ours, long, (file.fileno(),)))
            sending.start()
            message, handles = receive(theirs, 1)
            sending.join()
            self.assertEqual((message, len(handles)), (long, 1))
            os.write(handles[0], b"through another number")
            os.close(handles[0])
        self.assertEqual((self.folder / "x").read_text(), "through another number")

    def test_what_ends_or_is_too_long_is_no_message(self) -> None:
        for data in (b"", b"\0\0", b"\0\0\0\x09{}"):
            ours, theirs = socket.socketpair()
            with theirs:
                ours.sendall(data)
                ours.close()
                self.assertIsNone(receive(theirs)[0])
        for data in (b"\xff\xff\xff\xff{}", b"\0\0\0\x02no"):
            ours, theirs = socket.socketpair()
            with ours, theirs:
                ours.sendall(data)
                with self.assertRaises(ValueError):
                    receive(theirs)


class Doors(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        changed = patch.dict(os.environ, {"XDG_RUNTIME_DIR": str(self.folder)})
        changed.start()
        self.addCleanup(changed.stop)
        self.address = folder() / "a.warm"

    def test_one_is_there_until_another_takes_its_place(self) -> None:
        first = Door(self.address).open()
        self.assertEqual((first.is_there, self.address.stat().st_mode & 0o777, is_own(folder())), (True, 0o600, True))
        with socket.socket(socket.AF_UNIX) as channel:
            reach(channel, self.address)
            come = first.next(1)
            assert come is not None
            with come:
                self.assertTrue(is_of_this_user(come))
        self.assertIsNone(first.next(0))
        second = Door(self.address).open()
        self.assertEqual((first.is_there, second.is_there), (False, True))
        first.close()
        self.assertTrue(second.is_there, "it is not the first one's to take away")
        second.close()
        self.assertEqual(list(folder().iterdir()), [])

    def test_one_that_nobody_is_at_is_taken_away(self) -> None:
        door = Door(self.address).open()
        door._listener.close()
        with socket.socket(socket.AF_UNIX) as channel, self.assertRaises(OSError):
            reach(channel, self.address)
        self.assertFalse(self.address.exists())

    def test_folders_that_others_may_look_into_are_not_ones_own(self) -> None:
        place = self.folder / "p"
        place.mkdir(mode=0o700)
        self.assertTrue(is_own(place))
        for mode in (0o755, 0o770, 0o701):
            place.chmod(mode)
            self.assertFalse(is_own(place))
        place.chmod(0o700)
        (self.folder / "link").symlink_to(place)
        self.assertFalse(is_own(self.folder / "link"))
        self.assertFalse(is_own(self.folder / "none"))

    def test_other_surroundings_have_another_address(self) -> None:
        before = address()
        self.assertEqual(before, address())
        for name in ("PYTHONPATH", "LC_ALL", "TZ", "LD_LIBRARY_PATH"):
            with patch.dict(os.environ, {name: "x"}):
                self.assertNotEqual(address(), before, name)
        with patch.dict(os.environ, {"MARLOW": "x", "PWD": "/"}):
            self.assertEqual(address(), before)
        self.assertEqual(before.parent, Path(self.folder) / "wornpage")
