"""Figures that live: in a browser, in the libraries' own bytes once a page, and as pictures everywhere else."""

from __future__ import annotations

import re
import shutil
import zipfile
from typing import Any
from unittest import mock, skipUnless

from tests.browser import chromium
from tests.desk.asking import until
from tests.support import FolderCase
from wornpage.press import press

PAGE = """
---
title: Living figures
---

```python run #first show=output width=10cm
import plotly.graph_objects as go
go.Figure(go.Bar(x=["a", "b"], y=[3, 5]), layout={"title": {"text": "Loans </script> & co"}})
```

Caption: Loans.

```python run #second show=output
go.Figure(go.Scatter(x=[1, 2], y=[3, 5]))
```

```python run #moving show=output
import matplotlib.pyplot as plt
from matplotlib.animation import FuncAnimation
fig, ax = plt.subplots(figsize=(4, 2))
bar, = ax.bar([0], [1])
ax.set_ylim(0, 5)
FuncAnimation(fig, lambda k: [bar.set_height(k)], frames=5)
```

Caption: It grows.

```python run #tall show=output
class Tall:
    def _repr_html_(self):
        return "<p style='height: 611px; margin: 0' onclick='1'>Tall</p>"
Tall()
```

See {see #first} and {see #moving}.
"""


class Living(FolderCase):
    def test_in_a_browser_they_live(self) -> None:
        press(self.write("page.md", PAGE), ["html"])
        text = (self.folder / "page.html").read_text()
        self.assertEqual(len(re.findall(r'id="live-[0-9a-f]{16}"', text)), 1)  # one library for both
        self.assertNotRegex(text, r'<script[^>]+src=|<link[^>]+href="http')
        browser = chromium(1280, 900)
        self.addCleanup(browser.quit)
        browser.get((self.folder / "page.html").as_uri())

        def shown(which: int) -> Any:
            frame = browser.find_elements("css selector", "iframe")[which]
            browser.execute_script("arguments[0].scrollIntoView()", frame)
            browser.switch_to.frame(frame)
            try:
                return browser.find_element("css selector", "body").text
            finally:
                browser.switch_to.default_content()

        self.assertTrue(until(lambda: len(browser.find_elements("css selector", ".live.lives iframe")) >= 1))
        self.assertTrue(until(lambda: "Loans </script> & co" in shown(0)))
        frame = browser.find_element("css selector", ".live iframe")
        self.assertEqual(frame.get_attribute("sandbox"), "allow-scripts")
        self.assertAlmostEqual(frame.size["width"], 10 / 2.54 * 96, delta=2)
        tall = browser.find_element("css selector", "iframe.framed")
        browser.execute_script("arguments[0].scrollIntoView()", tall)
        self.assertTrue(until(lambda: 605 < tall.size["height"] < 650), tall.size)
        where = browser.find_element("css selector", ".moving input")
        self.assertTrue(until(lambda: where.get_attribute("max") == "4"))
        seen = []
        for at in ("0", "4"):  # which also holds it still
            browser.execute_script(
                "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input'))", where, at
            )
            seen.append(browser.find_element("css selector", ".moving > img").get_attribute("src"))
        self.assertNotEqual(hash(seen[0]), hash(seen[1]))
        self.assertEqual([one["message"] for one in browser.get_log("browser") if one["level"] == "SEVERE"], [])

    @skipUnless(shutil.which("chromium"), "no browser to draw with")
    def test_in_print_they_are_pictures(self) -> None:
        told = press(self.write("page.md", PAGE), ["docx"]).warnings
        self.assertEqual([str(one) for one in told if "picture" in str(one)], [])
        with zipfile.ZipFile(self.folder / "page.docx") as archive:
            pictures = [archive.read(name) for name in archive.namelist() if name.endswith(".png")]
        wide = [int.from_bytes(one[16:20], "big") for one in pictures]
        self.assertIn(round(10 / 2.54 * 96) * 3, wide)
        high = {int.from_bytes(one[16:20], "big"): int.from_bytes(one[20:24], "big") for one in pictures}
        self.assertEqual(high[round(10 / 2.54 * 96) * 3], round(10 * 450 / 700 / 2.54 * 96) * 3)

    def test_where_none_can_be_drawn_it_is_told_with_its_place(self) -> None:
        page = self.write("page.md", PAGE)
        with mock.patch("wornpage.output.stills._browser", return_value=None):
            told = [str(one) for one in press(page, ["pdf", "html"]).warnings]
        self.assertEqual(len([one for one in told if "no browser on this machine" in one]), 2)
        self.assertRegex(told[0], r"page\.md:5:1: warning: this figure cannot be drawn as a picture")
        self.assertEqual(press(page, ["html"]).warnings, ())

    def test_the_same_bytes_again(self) -> None:
        page = self.write("page.md", PAGE)
        press(page, ["html"])
        first = (self.folder / "page.html").read_bytes()
        press(page, ["html"], afresh=True)
        self.assertEqual((self.folder / "page.html").read_bytes(), first)
