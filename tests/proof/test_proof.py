"""`worn proof` in a real browser: what is saved shows in place, and nothing else moves; nobody else is served."""

from __future__ import annotations

import http.client
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from tests.browser import chromium
from tests.support import FolderCase

PAGE = """\
---
title: The rooms
given: {more: {default: 1, from: 0, to: 9, title: How many more}}  # chairs
---

# One {#one}

The first words.

FILLER

# Two

```python run #count show=output
import time
total = 3
print("counted", total)
```

There are {= total} chairs.[^n] And {= given.more} more.

[^n]: A note.
"""


class Proofs(FolderCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.browser = chromium()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.quit()

    def setUp(self) -> None:
        super().setUp()
        self.text = PAGE.replace("FILLER", "\n\n".join(f"Paragraph {n} of many." for n in range(60)))
        self.page = self.write("page.md", self.text)
        self.process = subprocess.Popen(
            [sys.executable, "-m", "wornpage", "proof", "page.md", "--no-open", *self.options()],
            cwd=self.folder, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        self.addCleanup(self.end)
        assert self.process.stdout is not None
        self.address = self.process.stdout.readline().strip()
        self.browser.get(self.address)
        self.until(f"document.documentElement?.dataset.wornVersion && {self.shows('There are 3 chairs')}")

    def options(self) -> list[str]:
        """Further words of the command line."""
        return []

    def end(self) -> None:
        """Break it off, and see that it ends."""
        self.process.send_signal(signal.SIGINT)
        try:
            _, said = self.process.communicate(timeout=20)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.communicate()
            raise
        self.assertNotIn("Traceback", said)

    def js(self, script: str) -> Any:
        """What a script finds in the page."""
        return self.browser.execute_script(f"return {script}")

    def until(self, script: str) -> None:
        """Wait until it is so."""
        end = time.monotonic() + 30
        while not self.js(f"!!({script})"):
            self.assertLess(time.monotonic(), end, script)
            time.sleep(0.02)

    def shows(self, words: str) -> str:
        """A script that says whether the page has these words."""
        return f"document.querySelector('main')?.textContent.includes('{words}')"

    def save(self, old: str, new: str) -> None:
        """Write the page with one change from what it was at first."""
        self.assertIn(old, self.text)
        self.page.write_text(self.text.replace(old, new), encoding="utf-8")

    def test_a_save_shows_in_place_and_leaves_everything_else(self) -> None:
        self.until("!document.querySelector('.worn-new')")  # what the first pressing brought has been seen
        self.browser.execute_script("document.querySelector('#one').kept = 1; scrollTo(0, 700)")
        self.save("Paragraph 30 of", "Paragraph thirty of")
        self.until(self.shows("Paragraph thirty of many"))
        self.assertEqual((self.js("document.querySelector('#one').kept"), self.js("scrollY")), (1, 700))
        self.assertEqual(self.js("document.querySelectorAll('.worn-new').length"), 1)
        self.save("total = 3", "total = 4")
        self.until(self.shows("There are 4 chairs"))
        self.until(self.shows("counted 4"))
        self.save("# Two", "# Second")
        self.until("document.querySelector('nav').textContent.includes('Second')")
        self.save("title: The rooms", "title: The halls")
        self.until("document.title === 'The halls'")
        self.assertEqual(self.js("document.querySelector('#one').kept"), 1, "the page was not loaded again")

    def test_an_error_stands_where_it_belongs_and_goes_when_it_is_mended(self) -> None:
        self.save("total = 3", "total = 3 / 0")
        self.until("document.querySelector('.worn-problem')")
        said = self.js("document.querySelector('.worn-problem').textContent")
        line = self.text[: self.text.index("total = 3")].count("\n") + 1
        self.assertIn(f"page.md:{line}", said)
        self.assertIn("ZeroDivisionError", said)
        self.assertTrue(self.js(self.shows("counted 3")), "the old page stays")
        self.assertIn("count", self.js("document.querySelector('.worn-panel').textContent"))
        self.page.write_text(self.text)
        self.until("!document.querySelector('.worn-problem')")
        self.assertTrue(self.js("document.querySelector('.worn-bar').hidden"))

    def test_what_is_no_longer_wanted_is_interrupted(self) -> None:
        self.save("total = 3", "time.sleep(60)\ntotal = 5")
        self.until("document.querySelector('.worn-bar').textContent.includes('running count')")
        begun = time.monotonic()
        self.save("total = 3", "total = 6")
        self.until(self.shows("There are 6 chairs"))
        self.assertLess(time.monotonic() - begun, 20)

    def test_what_is_still_right_goes_on(self) -> None:
        outside = tempfile.TemporaryDirectory(prefix="worn-log-")
        self.addCleanup(outside.cleanup)
        log = Path(outside.name) / "log"
        told = f'import subprocess; subprocess.run(["sh", "-c", "echo ran >> {log}"])'
        self.save("total = 3", f"{told}\ntime.sleep(2)\ntotal = 7")
        self.until("document.querySelector('.worn-bar').textContent.includes('running count')")
        end = time.monotonic() + 30
        while not log.exists():
            self.assertLess(time.monotonic(), end)
            time.sleep(0.02)
        slow = self.page.read_text()
        self.page.write_text(slow.replace("Paragraph 1 of", "Paragraph one of"))
        self.until(self.shows("Paragraph one of"))
        self.until(self.shows("There are 7 chairs"))
        self.assertEqual(log.read_text().split(), ["ran"], "it ran once, to its end")

    def test_a_click_tells_where_a_block_is_written(self) -> None:
        self.browser.execute_script(
            "[...document.querySelectorAll('main p')].find(p => p.textContent.startsWith('The first')).click()"
        )
        self.until("document.querySelector('.worn-said').textContent.includes('page.md:8')")

    def test_given_values_are_tried_and_written_as_defaults(self) -> None:
        self.js("document.querySelector('.worn-open').click()")
        self.until("document.querySelector('#of-more')")
        pick = "const c = document.querySelector('#of-more'); c.value = arguments[0]; c.dispatchEvent(new Event('input', {bubbles: true}))"
        self.browser.execute_script(pick, "7")
        self.until(self.shows("And 7 more"))
        self.assertEqual(self.page.read_text(), self.text)
        self.browser.find_element("css selector", ".worn-values button").click()
        self.until("document.querySelector('.worn-values p[role=status]').textContent.includes('begins with more now')")
        self.assertEqual(self.page.read_text(), self.text.replace("default: 1,", "default: 7,"))
        self.browser.execute_script(pick, "2")
        self.until(self.shows("And 2 more"))

    def test_a_double_click_opens_a_block_and_saving_writes_it_and_nothing_else(self) -> None:
        opens = "document.querySelectorAll('main p')[arguments[0]].dispatchEvent(new MouseEvent('dblclick', {bubbles: true}))"
        self.browser.execute_script(opens, 4)
        self.until("document.querySelector('.worn-edit textarea')")
        text = self.browser.find_element("css selector", ".worn-edit textarea")
        before = text.get_attribute("value")
        self.assertIn(f"\n{before}\n", self.text)
        text.clear()
        text.send_keys("Quite *other* words, {see o")
        self.until("document.querySelector('.worn-help li')?.textContent.startsWith('one')")
        text.send_keys("\ue004}.")  # Tab takes what is offered
        text.send_keys("\ue009\ue007")  # Ctrl and Enter
        self.until(self.shows("Quite other words, Section"))
        self.assertEqual(self.page.read_text(), self.text.replace(before, "Quite *other* words, {see one}.", 1))
        self.browser.execute_script(opens, 5)
        self.until("document.querySelector('.worn-edit textarea')")
        text = self.browser.find_element("css selector", ".worn-edit textarea")
        self.page.write_text(self.text)  # somebody else was quicker
        self.until(self.shows("Paragraph 4 of many") + " && " + f"!{self.shows('Quite other words, ')}")
        self.assertTrue(text.is_displayed(), "what is being written stays")

    def test_labels_and_works_are_found_and_their_marks_written(self) -> None:
        self.write("mine.bib", "@book{lund2019, title={On Shelves}, author={Lund, Ada}, year=2019, publisher={M}}\n")
        self.write("refs.bib", "@book{okafor2020, title={Damp}, author={Okafor, A.}, year=2020, publisher={M}}\n")
        self.save("title: The rooms", "title: The rooms\nbibliography: refs.bib\nlibrary: mine.bib")
        self.until("+document.documentElement.dataset.wornVersion > 0")
        self.js("document.querySelector('.worn-open').click()")
        words = self.browser.find_element("css selector", ".worn-find input")

        def find(text: str) -> Any:
            words.clear()
            words.send_keys(text)
            self.until(
                f"document.querySelector('.worn-find li button')?.textContent.toLowerCase().includes('{text.rsplit(maxsplit=1)[-1]}')"
            )
            return self.browser.find_element("css selector", ".worn-find li button")

        self.assertIn("One", find("one").text)
        opens = "document.querySelectorAll('main p')[4].dispatchEvent(new MouseEvent('dblclick', {bubbles: true}))"
        self.browser.execute_script(opens)
        self.until("document.querySelector('.worn-edit textarea')")
        find("ada shelves").click()
        self.until("document.querySelector('.worn-edit textarea').value.includes('{cite lund2019}')")
        self.until("document.querySelector('.worn-find p').textContent.includes('in the bibliography')")
        self.assertIn("@book{lund2019,", (self.folder / "refs.bib").read_text())

    def test_a_figure_is_set_and_becomes_code(self) -> None:
        drawing = "\n```python run #drawing show=output\nimport matplotlib.pyplot as plt\nfig, ax = plt.subplots(figsize=(3, 2))\nax.plot([1, 2])\n```\n\nCaption: Lines.\n"
        self.page.write_text(self.text + drawing)
        self.until("document.querySelector('main figure .picture')")
        before = self.js("document.querySelector('main figure').innerHTML.length")
        self.js(
            "document.querySelector('main figure .picture').dispatchEvent(new MouseEvent('click', {bubbles: true}))"
        )
        self.until("document.querySelector('.worn-tune')")
        self.browser.find_element("css selector", ".worn-tune [name=x-label]").send_keys("Days")
        self.until("document.querySelector('.worn-tune pre').textContent.includes('set_xlabel(\"Days\")')")
        self.until(f"document.querySelector('main figure').innerHTML.length !== {before}")
        self.assertEqual(self.page.read_text(), self.text + drawing)
        self.browser.find_element("css selector", ".worn-tune button").click()
        self.until("!document.querySelector('.worn-tune')")
        self.assertEqual(
            self.page.read_text(),
            self.text + drawing.replace("ax.plot([1, 2])\n", 'ax.plot([1, 2])\nax.set_xlabel("Days")\n'),
        )

    def test_nobody_else_is_served(self) -> None:
        address = urlsplit(self.address)
        strange = ({"Host": "evil.example"}, {"Origin": "http://evil.example"}, {"Sec-Fetch-Site": "cross-site"})
        for path, headers, status in (
            (address.path, {}, 200), ("/", {}, 404), ("/wrong/", {}, 404), *((address.path, headers, 403) for headers in strange),
        ):  # fmt: skip
            with self.subTest(path=path, headers=headers):
                connection = http.client.HTTPConnection(str(address.hostname), address.port, timeout=10)
                connection.request("GET", path, headers=headers)
                answer = connection.getresponse()
                self.assertEqual(answer.status, status)
                self.assertNotIn("access-control-allow-origin", {name.lower() for name, _ in answer.getheaders()})
                connection.close()
        self.assertEqual(address.hostname, "127.0.0.1")


class WithSheets(Proofs):
    def options(self) -> list[str]:
        """The sheets beside."""
        return ["--as", "pdf"]

    def test_the_sheets_follow(self) -> None:
        self.until("document.querySelector('.worn-sheets')")
        first = self.js("document.querySelector('.worn-sheets').src")
        self.save("The first words", "Other first words")
        self.until(f"document.querySelector('.worn-sheets').src !== '{first}'")
        address = urlsplit(self.address)
        connection = http.client.HTTPConnection(str(address.hostname), address.port, timeout=10)
        connection.request("GET", f"{address.path}page.pdf")
        self.assertTrue(connection.getresponse().read().startswith(b"%PDF"))
        connection.close()


def load_tests(loader: Any, tests: Any, pattern: str | None) -> Any:
    """The tests of `Proofs`, and the one of its own that `WithSheets` has."""
    import unittest

    return unittest.TestSuite([loader.loadTestsFromTestCase(Proofs), WithSheets("test_the_sheets_follow")])
