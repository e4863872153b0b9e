"""A page that holds what comes of other values, and its switch for code: as pressed, and as readers use it."""

from __future__ import annotations

import re
from typing import Any

from tests.browser import chromium
from tests.support import FolderCase, worn
from wornpage.press import press
from wornpage.tree.problem import PageError

PAGE = """
---
title: "Room {= given.room}"
abstract: "About {= given.room}."
press: {html: {controls: [room, above], code-switch: hidden}}
given:
  room: {default: Quayside, one-of: [Quayside, Mill & pond]}
  above: {default: 2, from: 1, to: 3}
---

[^a]: A note on {= given.room}.

## Same for all {#same}

These words are shared, and {see #same} too: $x^2$.

```python run #shared
open("shared.txt", "a").close()
print("shared")
```

## Of {= given.room} {#own}

```python run #own
print(given.room, given.above)
```

Above[^a] {= given.above} in {= given.room}.
"""


class States(FolderCase):
    def test_what_is_shared_is_there_once(self) -> None:
        made = self.html(PAGE)
        held = re.search(r'id="worn-states">([^<]+)<', made)
        assert held is not None
        import base64
        import zlib

        text = zlib.decompress(base64.b64decode(held[1]), -15).decode()
        self.assertNotIn("These words are shared", text)
        self.assertEqual(text.count('"About Mill') + text.count("About Mill &amp; pond"), 1)
        self.assertEqual(len(re.findall(r"Mill &amp; pond 3", text)), 1)

    def test_what_is_shared_runs_once_and_then_there_is_nothing_to_do(self) -> None:
        self.write(
            "page.md",
            PAGE.replace("print(given.room", "import os; print(os.getpid() > 0, given.room"),
        )
        first = worn("press", "page.md", folder=self.folder)
        self.assertEqual(first.returncode, 0, first.stderr)
        self.assertIn("5/5  room=Mill & pond, above=3", first.stderr)
        self.assertIn("nothing to do", worn("press", "page.md", folder=self.folder).stderr)
        self.assertIn("pressed:", worn("press", "page.md", "--afresh", folder=self.folder).stderr)

    def test_what_fails_says_with_which_values(self) -> None:
        page = PAGE.replace("print(given.room, given.above)", "assert given.above < 3")
        with self.assertRaises(PageError) as caught:
            press(self.write("page.md", page), ["html"])
        self.assertIn("with room=Quayside, above=3: in chunk `own`", str(caught.exception.problems[0]))

    def test_too_large_a_page_is_told(self) -> None:
        told = self.faults(PAGE.replace("code-switch: hidden", "most-size: 0.01 MB"))
        self.assertRegex(str(told[0]), r"page\.md:4:.*no more than 0 MB may be")


class Readers(FolderCase):
    """In a browser, from a file."""

    def setUp(self) -> None:
        super().setUp()
        press(self.write("page.md", PAGE), ["html"])
        self.browser = chromium()
        self.addCleanup(self.browser.quit)
        self.browser.get((self.folder / "page.html").as_uri())

    def pick(self, name: str, value: str) -> None:
        """Pick a value, as a reader does."""
        script = "const c = document.getElementById('of-' + arguments[0]); c.value = arguments[1]; c.dispatchEvent(new Event('input', {bubbles: true}))"
        self.browser.execute_script(script, name, value)

    def shows(self, *words: str) -> None:
        """Wait until the page shows words."""
        from selenium.webdriver.support.wait import WebDriverWait

        def there(browser: Any) -> bool:
            text = browser.find_element("css selector", "main").text
            return all(word in text for word in words)

        WebDriverWait(self.browser, 10).until(
            there, f"{words} in {self.browser.find_element('css selector', 'main').text}"
        )

    def test_values_are_picked_and_all_of_the_page_goes_along(self) -> None:
        before = self.browser.find_element("css selector", "main").text
        self.pick("room", "Mill & pond")
        self.shows(
            "Room Mill & pond",
            "About Mill & pond.",
            "Of Mill & pond",
            "Mill & pond 2",
            "A note on Mill & pond.",
            "These words are shared",
        )
        self.assertEqual(self.browser.title, "Room Mill & pond")
        self.pick("above", "3")
        self.shows("3 in Mill & pond")
        address = self.browser.current_url
        ids = self.browser.execute_script("return [...document.querySelectorAll('[id]')].map((one) => one.id)")
        self.assertEqual(len(ids), len(set(ids)))
        self.pick("room", "Quayside")
        self.pick("above", "2")
        self.shows("2 in Quayside")
        self.assertEqual(self.browser.find_element("css selector", "main").text, before)
        self.browser.get("about:blank")
        self.browser.get(address)
        self.shows("3 in Mill & pond")

    def test_each_state_is_the_page_pressed_with_these_values_alone(self) -> None:
        shown = "const m = document.querySelector('main').cloneNode(true); m.querySelectorAll('.readers').forEach((one) => one.remove()); return [document.title, m.innerText.replace(/\\s+/g, '').replace(/Page[0-9a-f]{12}/, '')]"
        whole = PAGE.replace("code-switch: hidden", "colophon: yes, contents: above")
        press(self.write("page.md", whole), ["html"])
        alone = self.write("alone.md", whole.replace("controls: [room, above], ", ""))
        sets = [{"room": room, "above": above} for room in ("Mill & pond", "Quayside") for above in ("1", "3", "2")]
        for given in sets:
            self.browser.get((self.folder / "page.html").as_uri())
            for name, value in given.items():
                self.pick(name, value)
            self.shows(f"{given['above']} in {given['room']}")
            found = self.browser.execute_script(shown)
            press(alone, ["html"], given=given)
            self.browser.get((self.folder / "alone.html").as_uri())
            self.assertEqual(found, self.browser.execute_script(shown), given)

    def test_code_is_hidden_shown_and_beside(self) -> None:
        code = self.browser.find_element("css selector", ".chunk .code")
        self.assertFalse(code.is_displayed())
        self.browser.find_element("css selector", "[value=shown]").click()
        self.assertTrue(code.is_displayed())
        self.browser.find_element("css selector", "[value=beside]").click()
        output = self.browser.find_element("css selector", ".chunk .output")
        self.assertGreater(output.location["x"], code.location["x"] + code.size["width"])
        self.assertLess(abs(output.location["y"] - code.location["y"]), 30)
