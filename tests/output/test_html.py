"""HTML: valid, accessible, whole in one file, and everything as it was written."""

import re
import subprocess
import unittest
from pathlib import Path

from tests.browser import CHECKERS, accessibility_faults, chromium
from tests.support import FolderCase
from wornpage.demo import PAGES, write_demo
from wornpage.press import press

EVERYTHING = Path(__file__).parent / "everything.md"


class Html(FolderCase):
    """One page with everything, and the demo."""

    def test_it_passes_the_checkers_of_html_and_accessibility_in_light_and_dark(self) -> None:
        write_demo(self.folder)
        self.write("everything.md", EVERYTHING.read_bytes())
        for name in (*PAGES, "everything.md"):
            press(self.folder / name)
        pages = [(self.folder / name).with_suffix(".html") for name in (*PAGES, "everything.md")]
        jar = CHECKERS / "vnu-jar/build/dist/vnu.jar"
        checked = subprocess.run(
            ["java", "-jar", jar, "--errors-only", *pages], capture_output=True, text=True, check=False
        )
        self.assertEqual(checked.stderr, "")
        browser = chromium()
        self.addCleanup(browser.quit)
        for page in pages:
            for dark in (False, True):
                self.assertEqual(accessibility_faults(browser, page, dark), [], (page.name, dark))
        browser.set_window_size(400, 800)
        for page in pages:
            browser.get(page.as_uri())
            width = browser.execute_script("return document.documentElement.scrollWidth")
            self.assertLessEqual(
                width, browser.execute_script("return window.innerWidth"), f"{page.name} is wider than a phone"
            )

    def test_letters_come_out_as_written_and_data_is_never_markup(self) -> None:
        html = self.html(
            """
            ---
            title: "<i>T</i> & {= word}"
            ---

            Now: 🙂 שלום 漢字, `a<b`.

            ```python run #a
            import pandas as pd
            word = "<script>x</script> & \\"q\\" 'p' # $ \\\\ @ _"
            print(word)
            pd.DataFrame({"<b>": [word]})
            ```
            Caption: {= word}
            """
        )
        self.assertNotIn("<script>x", html)
        self.assertGreaterEqual(html.count("&lt;script&gt;x&lt;/script&gt; &amp;"), 5)
        self.assertIn("<title>&lt;i&gt;T&lt;/i&gt; &amp; &lt;script", html)
        self.assertIn("🙂 שלום 漢字, <code>a&lt;b</code>", html)

    def test_it_needs_nothing_else_and_ids_are_unique(self) -> None:
        self.write(
            "dot.png",
            bytes.fromhex("89504e470d0a1a0a0000000d4948445200000001000000010802000000907753de0000000049454e44"),
        )
        html = self.html(
            """
            ![dot](dot.png)

            ```python run
            import matplotlib.pyplot as plt
            for i in (1, 2):
                plt.figure(); plt.plot([1, i])
            ```
            """
        )
        self.assertNotRegex(html, r"(?:src|href)=\"(?!data:|#)")
        self.assertNotRegex(html, r"<script|@import|url\((?!#)")
        ids = re.findall(r'\bid="([^"]+)"', html)
        self.assertEqual(len(ids), len(set(ids)))
        for target in re.findall(r'href="#([^"]+)"', html):
            self.assertIn(target, [*ids, "text"])

    def test_links_that_would_run_something_lead_nowhere(self) -> None:
        html = self.html("[x](javascript:alert(1)) [y](<JavaScript:alert(1)>) [z](vbscript:x) [w](data:text/html,x)")
        self.assertNotRegex(html, r"(?i)href=.(javascript|vbscript|data)")


class Shown(FolderCase):
    """What chunks show, as readers see it."""

    def test_show_chooses_what_readers_see(self) -> None:
        for show, code, output in (
            ("all", True, True),
            ("source", True, False),
            ("output", False, True),
            ("nothing", False, False),
        ):
            html = self.html(f"```python run #a show={show}\nprint('printed' + ' words')\n```\n")
            self.assertEqual(
                (
                    "print" in re.sub(r"printed words|@media print|<style>.*</style>", "", html, flags=re.DOTALL),
                    "printed words" in html,
                ),
                (code, output),
            )

    def test_captions_letters_and_pointers(self) -> None:
        html = self.html(
            """
            See {see two}, {see one, two} and {see one as number}.

            ```python run #one
            import matplotlib.pyplot as plt
            for i in (1, 2):
                plt.figure(); plt.plot([1, i])
            ```
            Caption: Of {= i} parts.

            ```python run #two
            plt.plot([1])
            ```
            Caption: Another.
            """
        )
        self.assertIn(
            'See <a href="#two">Figure\u00a02</a>, Figures\u00a0<a href="#one">1</a> and <a href="#two">2</a>', html
        )
        self.assertEqual(re.findall(r'<div class="letter">\((.)\)', html), ["a", "b"])
        self.assertIn("Of 2 parts.", html)

    def test_captions_that_fit_nothing_are_faults(self) -> None:
        pandas = "import pandas as pd, matplotlib.pyplot as plt\n"
        cases = {
            f"```python run\n{pandas}plt.plot([1]); pd.DataFrame({{'a': [1]}})\n```\nCaption: Which?\n": 5,
            "```python run\n1\n```\nCaption: None.\n": 4,
            f"```python run\n{pandas}pd.DataFrame({{'a': [1]}})\n```\nCaption: One.\nCaption: Two.\n": 6,
        }
        for text, line in cases.items():
            self.assertEqual([place[0] for place in self.fault_places(text)], [line])

    def test_long_prints_are_cut_and_say_so(self) -> None:
        html = self.html("```python run max-lines=3\nfor i in range(5000): print('n', i)\n```\n")
        self.assertIn("n 2", html)
        self.assertNotIn("n 3", html)
        self.assertIn("4,997 more lines", html)

    def test_an_error_may_be_shown_in_page_lines(self) -> None:
        html = self.html(
            "Text.\n\n```python run on-error=show\ndef f(): return 1 / 0\nf()\n```\n\n```python run\nprint('goes on')\n```\n"
        )
        self.assertIn("page.md:5", html.replace(str(self.folder) + "/", ""))
        self.assertIn("ZeroDivisionError: division by zero", html)
        self.assertIn("goes on", html)
        self.assertNotIn(str(self.folder), html)


if __name__ == "__main__":
    unittest.main()
