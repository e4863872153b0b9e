"""What presses a proof: whatever is saved while chunks run, the last save shows; prose shows at once."""

import random
import re
import shutil
import time
import unittest
from collections.abc import Callable
from threading import Thread
from typing import Any
from unittest import mock

from tests.support import FolderCase
from wornpage.proof.presser import Presser
from wornpage.proof.server import ProofServer

PAGE = """\
# Page

```python run #slow show=output
import time
import unittest
time.sleep({seconds})
print("code {code}")
```

Words {words}: {{= {code} + 1}}.
"""


class Pressing(FolderCase):
    def until(self, holds: Callable[[], bool], seconds: float = 20.0) -> None:
        """Wait for something."""
        end = time.monotonic() + seconds
        while not holds():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.01)

    def presser(self, text: str) -> Presser:
        """One with a page."""
        self.page = self.write("page.md", text)
        presser = Presser(self.page, {}, "mark", False, lambda event, data: None)
        self.addCleanup(presser.close)
        return presser

    def shows(self, presser: Presser, *words: str) -> bool:
        """Whether the page says all of that now."""
        said = "".join(part.html for part in presser.parts.parts) if presser.parts else ""
        said = re.sub(r"</?(?:data|span)\b[^>]*>", "", said)
        return all(one in said for one in words)

    @unittest.skipUnless(shutil.which("R"), "R is not installed")
    def test_a_session_that_stands_at_the_same_place_is_ready_for_the_next_save(self) -> None:
        """Packages are attached in it already, wherever on the page the same are."""
        page = "```r run #a\nlibrary(MASS)\nk <- 1\n```\n\n```r run #b\n'package:MASS' %in% search() && {b} > k\n```\n\n```r run #c\ncat('C', k + {c})\n```\n"
        presser, taken = self.presser(page.format(b=0, c=0)), []
        take = presser._nursery._spares.take

        def counted(*asked: Any) -> Any:
            taken.append(take(*asked))
            return taken[-1]

        with mock.patch.object(presser._nursery._spares, "take", counted):
            self.until(lambda: self.shows(presser, "C 1"))
            self.until(lambda: bool(presser._nursery._spares._beings))
            for b, c, shown in ((2, 0, "TRUE"), (-1, 0, "FALSE"), (3, 0, "TRUE"), (3, 4, "C 5"), (3, 5, "C 6")):
                self.page.write_text(page.format(b=b, c=c))
                presser.press()
                self.until(lambda shown=shown: self.shows(presser, shown))  # type: ignore[misc]
        self.assertEqual([one is not None for one in taken[-5:]], [True, True, True, True, True])

    @unittest.skipUnless(shutil.which("R"), "R is not installed")
    def test_a_session_that_is_ready_was_given_what_the_page_is_given_now(self) -> None:
        page = "---\ngiven: {{n: {n}}}\n---\n\n```r run #a\nx <- 1\n```\n\n```r run #b\ncat('N', given$n + {k})\n```\n"
        presser = self.presser(page.format(n=1, k=0))
        for n, k, shown in ((1, 0, "N 1"), (1, 10, "N 11"), (5, 10, "N 15")):
            self.page.write_text(page.format(n=n, k=k))
            presser.press()
            self.until(lambda shown=shown: self.shows(presser, f"{shown}<"))  # type: ignore[misc]
            self.until(lambda: bool(presser._nursery._spares._beings))

    def test_a_latex_source_is_set_anew_at_every_save_and_its_faults_are_told_in_its_lines(self) -> None:
        page = (
            "\\documentclass{{article}}\n\\begin{{document}}\nWords {words}: \\worn{{{code} + 1}}.\n\\end{{document}}\n"
        )
        self.page = self.write("page.tex", page.format(words="one", code=1).encode())
        presser = Presser(self.page, {}, "mark", True, lambda event, data: None)
        self.addCleanup(presser.close)
        self.until(lambda: bool(presser.pdf))
        for words, code in (("two", 1), ("two", 4)):
            before = presser.pdf
            self.page.write_bytes(page.format(words=words, code=code).encode())
            presser.press()
            self.until(lambda before=before: presser.pdf != before)  # type: ignore[misc]
        self.until(lambda: self.shows(presser, "5"))
        self.page.write_bytes(page.format(words="\\nosuch", code=4).encode())
        presser.press()
        self.until(lambda: bool(presser.problems))
        self.assertEqual((presser.problems[0]["line"], "Undefined control" in presser.problems[0]["what"]), (3, True))

    def test_the_last_of_a_thousand_saves_shows(self) -> None:
        chance = random.Random(7)
        presser = self.presser(PAGE.format(seconds=0.02, code=0, words=0))
        code = 0
        for number in range(1_000):
            code += chance.random() < 0.3
            text = PAGE.format(seconds=chance.choice([0, 0.02, 0.05]), code=code, words=number)
            if chance.random() < 0.5:
                self.page.write_text(text)
            else:
                self.write("page.new", text)
                (self.folder / "page.new").replace(self.page)
            presser.press()
            if chance.random() < 0.1:
                time.sleep(chance.random() / 10)
        self.until(lambda: self.shows(presser, "Words 999", f"code {code}", f": {code + 1}."))

    def test_prose_shows_beside_a_chunk_that_runs_on(self) -> None:
        presser = self.presser(PAGE.format(seconds=0, code=1, words="before"))
        self.until(lambda: self.shows(presser, "code 1"))
        slow = PAGE.format(seconds=3, code=2, words="before")
        self.page.write_text(slow)
        presser.press()
        self.until(lambda: presser.busy == "slow")
        begun = time.monotonic()
        self.page.write_text("New at the top.\n\n" + slow.replace("Words before", "Words after"))
        presser.press()
        self.until(lambda: self.shows(presser, "New at the top.", "Words after", "code 1"))
        self.assertLess(time.monotonic() - begun, 2)
        self.assertEqual(presser.busy, "slow")
        self.until(lambda: self.shows(presser, "New at the top.", "Words after", "code 2", ": 3."))

    def test_a_fault_does_not_make_it_deaf(self) -> None:
        presser = self.presser(PAGE.format(seconds=0, code=1, words="before"))
        self.until(lambda: self.shows(presser, "code 1"))
        told, presser.tell = presser.tell, lambda event, data: 1 // 0  # type: ignore[assignment, return-value]
        self.page.write_text(PAGE.format(seconds=0, code=1, words="lost"))
        presser.press()
        time.sleep(0.5)
        presser.tell = told
        self.page.write_text(PAGE.format(seconds=0, code=1, words="found"))
        presser.press()
        self.until(lambda: self.shows(presser, "Words found"))

    def test_saves_are_seen_however_they_are_made(self) -> None:
        self.page = self.write("page.md", PAGE.format(seconds=0, code=1, words="first"))
        other = self.write("data/d.csv", "a\n1\n")
        server = ProofServer(self.page, {}, False, 0)
        self.addCleanup(server.socket.close)
        import asyncio

        loop = asyncio.new_event_loop()
        server._loop = loop
        server.workshop.presser = presser = Presser(self.page, {}, "mark", False, lambda event, data: None)
        self.addCleanup(presser.close)
        thread = Thread(target=lambda: loop.run_until_complete(server._watch()), daemon=True)
        thread.start()
        self.until(lambda: self.shows(presser, "Words first"))
        time.sleep(0.5)
        for number, save in enumerate((self.in_place, self.replaced, self.deleted_and_restored, self.moved_back)):
            save(PAGE.format(seconds=0, code=1, words=f"save {number}"))
            self.until(lambda number=number: self.shows(presser, f"Words save {number}"))  # type: ignore[misc]
        other.write_text("a\n2\n")

    def in_place(self, text: str) -> None:
        self.page.write_text(text)

    def replaced(self, text: str) -> None:
        self.write(".page.md.tmp", text)
        (self.folder / ".page.md.tmp").replace(self.page)

    def deleted_and_restored(self, text: str) -> None:
        self.page.unlink()
        time.sleep(0.3)
        self.page.write_text(text)

    def moved_back(self, text: str) -> None:
        self.page.rename(self.folder / "page.md~")
        self.page.write_text(text)

    def test_open_comments_stand_where_their_words_do(self) -> None:
        self.write(
            "page.comments.yaml",
            "comments:\n- {author: Ada Lund, text: Which?, quote: river}\n- {author: B, text: Done., done: true}\n",
        )
        presser = self.presser("# A\n\nThe river rises.\n")
        presser.press()
        self.until(lambda: bool(presser.problems))
        self.assertEqual([(one["line"], one["what"]) for one in presser.problems], [(3, "Ada Lund on “river”: Which?")])
