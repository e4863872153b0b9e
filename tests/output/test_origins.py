"""Pages whose readers may ask where things come from: in a real browser, from a file, by mouse and by keys."""

from __future__ import annotations

from typing import Any

from tests.browser import accessibility_faults, chromium
from tests.support import FolderCase
from wornpage.press import press

PAGE = """
    ---
    title: Books
    press: {html: {origins: yes}}
    ---

    ```python run #load show=nothing
    # </script><b>
    import pandas as pd
    books = pd.read_csv("books.csv")
    share = books.acid.mean()
    ```

    Of {= len(books)} books {= share as percent} are acid; see {see costs}.[^n]

    [^n]: As {= len(books)} say.

    ```python run #costs show=output
    page.table(books.describe(), caption="All {= len(books)}.", label="costs")
    ```
    """


class Origins(FolderCase):
    browser: Any

    @classmethod
    def setUpClass(cls) -> None:
        cls.browser = chromium()

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.quit()

    def js(self, script: str) -> Any:
        return self.browser.execute_script(f"return {script}")

    def panel(self) -> str:
        said: str = self.js("document.querySelector('.origin-panel').innerText")
        return said

    def test_readers_ask_by_mouse_and_by_keys(self) -> None:
        self.write("books.csv", "acid\n1\n0\n0\n")
        page = self.write("page.md", PAGE)
        press(page, ["html"])
        made = (self.folder / "page.html").read_bytes()
        press(page, ["html"], afresh=True)
        self.assertEqual(made, (self.folder / "page.html").read_bytes())
        self.assertNotIn(b"# </script>", made)
        self.browser.get((self.folder / "page.html").as_uri())
        self.assertTrue(self.js("document.querySelector('.origin-panel').hidden"))
        self.browser.execute_script("document.querySelector('main [data-from]').click()")
        self.assertTrue(self.js("document.querySelector('.origin-panel').hidden"), "nobody asks as yet")
        self.browser.execute_script("document.querySelector('.origin-switch').click()")
        self.browser.execute_script(
            "[...document.querySelectorAll('[data-from]')].find((one) => one.textContent === '33.3%').click()"
        )
        self.until("33.3%")
        for piece in (
            "{= share } = 0.3333333333333333",
            "share ← load",
            "page.md:",
            "books.csv",
            "columns acid",
            "libraries:",
            "pandas",
        ):
            self.assertIn(piece, self.panel())
        self.browser.execute_script("document.querySelector('#costs td').click()")
        self.until("costs")
        self.assertIn("books ← load", self.panel())
        self.browser.execute_script(
            "const one = document.querySelector('.notes [data-from]'); one.focus(); one.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true, cancelable: true}))"
        )
        self.until("len(books)")
        self.browser.execute_script(
            "document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'Escape', bubbles: true}))"
        )
        self.assertTrue(self.js("document.querySelector('.origin-panel').hidden"))
        self.assertEqual(self.js("document.querySelectorAll('[data-from][tabindex]').length"), 0)
        self.assertEqual(self.browser.get_log("browser"), [])
        self.assertEqual(accessibility_faults(self.browser, self.folder / "page.html"), [])

    def until(self, words: str) -> None:
        for _ in range(100):
            if words in self.panel():
                return
        self.fail(self.panel())

    def test_pages_that_were_not_asked_to_tell_nothing(self) -> None:
        self.write("books.csv", "acid\n1\n")
        press(self.write("page.md", PAGE.replace("press: {html: {origins: yes}}", "language: en")), ["html"])
        made = (self.folder / "page.html").read_text()
        self.assertFalse([word for word in ("data-from", "worn-origins", "books.csv") if word in made])
