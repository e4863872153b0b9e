"""Help within chunks: what code says, and what the page's values had when it last ran."""

from __future__ import annotations

import shutil
from unittest import mock, skipUnless

from tests.support import FolderCase
from wornpage.assist.code import in_code, said_in_code, signatures_at
from wornpage.assist.document import Document
from wornpage.press import press

PAGE = """\
---
given: {limit: 3}
---

Words before.

```python run #load show=nothing
import pandas as pd
def mended(books, much=1):
    '''Books that were mended.'''
    return books
rooms = pd.DataFrame({"room name": [1, 2], "humidity": [3.5, 4.5]})
costs = {"Quayside": {"mean": 3}, "Mill pond": 4}
```

```python run #look show=nothing
room = rooms[rooms.humidity > given.limit]
AT
```

```r run #other
AT
```
"""


class Code(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        patience = mock.patch("wornpage.assist.code._PATIENCE", 90)  # the first time whole libraries are read
        patience.start()
        self.addCleanup(patience.stop)

    def asked(self, text: str, ran: bool = True) -> tuple[Document, int, int]:
        """A page that is being written, at the end of what was written last."""
        path = self.write("page.md", PAGE.replace("AT", "1").partition("```r run")[0])
        if ran:
            press(path, ["html"])
        whole = PAGE.replace("AT", text, 1).replace("AT", "")
        line = whole[: whole.index("room = rooms")].count("\n") + 1
        return Document(path, whole), line + text.count("\n"), len(text.rpartition("\n")[2])

    def offered(self, text: str) -> list[str]:
        """What may stand there."""
        return [one.text for one in in_code(*self.asked(text)) or ()]

    def test_columns_and_keys_of_what_the_page_has_computed(self) -> None:
        self.assertEqual(self.offered('rooms["'), ["room name", "humidity"])
        self.assertEqual(self.offered("rooms.loc[:, ['"), ["room name", "humidity"])
        self.assertEqual(self.offered('costs["Q'), ["Quayside", "Mill pond"])
        with mock.patch("wornpage.assist.code._PATIENCE", 0.01):  # these are there at once
            self.assertEqual(self.offered("room.hum")[:1], ["humidity"])
            self.assertNotIn("room name", self.offered("room.hum"))
        self.assertEqual(self.offered('nothing["'), [])

    @skipUnless(shutil.which("Rscript"), "there is no R here")
    def test_columns_of_r(self) -> None:
        text = "```r run #load\nrooms <- data.frame(`room name` = 1:2, humidity = 3:4, check.names = FALSE)\nfit <- lm(humidity ~ 1, rooms)\nmine <- list(a = 1, 2)\n```\n\n```r run #look\nAT\n```\n"
        path = self.write("r.md", text.replace("AT", "1"))
        press(path, ["html"])
        for written, wanted in (
            ("rooms$hu", ["room name", "humidity"]),
            ('rooms[["', ["room name", "humidity"]),
            ("mine$", ["a"]),
            ("fit$", []),
        ):
            with self.subTest(written):
                found = in_code(Document(path, text.replace("AT", written)), 7, len(written))
                self.assertEqual([one.text for one in found or ()], wanted)

    def test_names_and_attributes_of_the_code_above(self) -> None:
        self.assertIn("mended", self.offered("men"))
        self.assertIn("DataFrame", self.offered("pd.Data"))
        self.assertIsNone(in_code(Document(self.folder / "page.md", PAGE), 4, 3))

    def test_signatures_and_documentation(self) -> None:
        self.assertIn("mended(books, much=1)", said_in_code(*self.asked("mended")))
        self.assertIn("Books that were mended.", said_in_code(*self.asked("mended")))
        self.assertIn("`room name`, `humidity`", said_in_code(*self.asked("rooms")))
        ((text, parameters, which),) = signatures_at(*self.asked("mended(rooms, "))
        self.assertEqual((text, parameters, which), ("mended(books, much=1)", ["books", "much=1"], 1))

    def test_code_that_is_being_written_fails_nothing(self) -> None:
        for text in ("((((", "def f(:", "x = '''", "\x00", "rooms[", "    odd", "class"):
            with self.subTest(text):
                in_code(*self.asked(text, ran=False))
                said_in_code(*self.asked(text, ran=False))
                signatures_at(*self.asked(text, ran=False))
