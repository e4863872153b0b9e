"""Slides in a real browser: steps, keys, addresses, the speaker's window, drawing kept and saved, without script and on a phone."""

import base64
import json
import subprocess
import time
from pathlib import Path
from typing import Any

from tests.browser import CHECKERS, accessibility_faults, chromium
from tests.support import FolderCase
from wornpage.press import press

PAGE = """
    ---
    title: A talk
    authors: [Ada Lund]
    press: {slides: {chunks: {show: all}, minutes: 20, footer: Foot}}
    ---

    ## First {#first}

    - one
    - two

    {steps=yes}

    ::: speaker
    Only for **me**.
    :::

    ## Code

    ```python run #a pick-out="1 then 2"
    x = 1
    y = x + 1
    ```

    ## Figure {background="#1c5a63"}

    ```python run #plot show=output
    import matplotlib.pyplot as plt
    plt.plot([1, 2])
    ```
    Caption: A line.

    {new slide}

    See {see plot} and [the first](#first).[^n] Again.[^n] $x^2$

    [^n]: A note.

    ## Last {title=no}

    The end `</script>`.
    """
RIGHT, LEFT, ESCAPE, HOME, END, PAGE_DOWN = "\ue014", "\ue012", "\ue00c", "\ue011", "\ue010", "\ue00f"


class Slides(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        press(self.write("talk.md", PAGE), ["slides"])
        self.file = self.folder / "talk.slides.html"
        self.browser = chromium(1280, 860)
        self.addCleanup(self.browser.quit)

    def open(self, hash_: str = "") -> None:
        self.browser.get("about:blank")
        self.browser.get(self.file.resolve().as_uri() + hash_)

    def ask(self, script: str) -> Any:
        return self.browser.execute_script(f"return {script}")

    def keys(self, *keys: str) -> list[int]:
        """Press keys; the slide and the step afterwards."""
        for key in keys:
            self.browser.find_element("tag name", "body").send_keys(key)
        state = self.ask("worn.state")
        return [state["at"], state["step"]]

    def drag(self, *points: tuple[int, int]) -> None:
        """Draw with the mouse."""
        from selenium.webdriver.common.actions.action_builder import ActionBuilder

        actions = ActionBuilder(self.browser)
        mouse = actions.pointer_action
        mouse.move_to_location(*points[0])
        mouse.pointer_down()
        for point in points[1:]:
            mouse.move_to_location(*point)
        mouse.pointer_up()
        actions.perform()

    def test_steps_keys_numbers_and_addresses(self) -> None:
        self.open()
        visible = "[...document.querySelectorAll('.slide.now li')].map(e => getComputedStyle(e).visibility)"
        self.assertEqual(self.keys(RIGHT), [1, 0])
        self.assertEqual(self.ask(visible), ["hidden", "hidden"])
        self.assertEqual(self.keys(" "), [1, 1])
        self.assertEqual(self.ask(visible), ["visible", "hidden"])
        self.assertTrue(self.browser.current_url.endswith("#first"))
        self.assertEqual(self.keys(PAGE_DOWN, PAGE_DOWN), [2, 0])
        turns = "[...document.querySelectorAll('.slide.now .line')].map(e => e.classList.contains('in-turn'))"
        self.assertEqual(self.ask(turns), [True, False])
        self.assertEqual(self.keys("n"), [2, 1])
        self.assertEqual(self.ask(turns), [False, True])
        self.assertEqual(self.keys(LEFT, LEFT), [1, 2])
        self.assertEqual(self.keys("4", "\ue007"), [3, 0])
        self.assertEqual(self.keys(END), [5, 0])
        self.assertEqual(self.keys("b"), [5, 0])
        self.assertEqual(self.ask("getComputedStyle(document.querySelector('.black-screen')).display"), "block")
        self.keys("b")
        self.assertEqual(self.keys("o", HOME, "\ue007"), [0, 0])
        self.open("#code")
        self.assertEqual(self.ask("worn.state.at"), 2)
        self.open("#plot")
        self.assertEqual(self.ask("worn.state.at"), 3, "a place within a slide")
        self.open("#5")
        self.browser.execute_script("document.querySelector('.slide.now a[href=\"#first\"]').click()")
        time.sleep(0.2)
        self.assertEqual(self.ask("worn.state.at"), 1)
        self.keys("?")
        self.assertIn("Full screen", self.ask("document.querySelector('dialog').innerText"))

    def test_a_slide_fills_the_window_and_figures_what_is_left(self) -> None:
        for width, height in ((1280, 720), (800, 700), (844, 390)):
            self.browser.execute_cdp_cmd(
                "Emulation.setDeviceMetricsOverride",
                {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
            )
            self.open("#figure")
            box = self.ask(
                "(r => [r.left, r.top, r.right, r.bottom])(document.querySelector('.slide.now').getBoundingClientRect())"
            )
            self.assertTrue(box[0] >= -1 and box[1] >= -1 and box[2] <= width + 1 and box[3] <= height + 1, box)
            self.assertTrue(abs(box[2] - box[0] - width) < 2 or abs(box[3] - box[1] - height) < 2, box)
            shown = self.ask(
                "[...document.querySelectorAll('.slide.now .picture svg')].map(e => e.getBoundingClientRect().height)"
            )
            self.assertGreater(shown[0], (box[3] - box[1]) * 0.55)

    def test_the_speakers_window_is_kept_in_step(self) -> None:
        self.open("#first")
        main = self.browser.current_window_handle
        self.keys("s")
        time.sleep(1)
        (other,) = set(self.browser.window_handles) - {main}
        self.browser.switch_to.window(other)
        self.assertIn("Only for me.", self.ask("document.querySelector('.words').innerText"))
        ahead = "[...document.querySelectorAll('.ahead li')].map(e => e.classList.contains('later'))"
        self.assertEqual(self.ask(ahead), [False, True], "the next step")
        self.keys(RIGHT, RIGHT)
        time.sleep(0.3)
        self.assertIn("19:5", self.ask("document.querySelector('.clocks').innerText"))
        self.browser.switch_to.window(main)
        self.assertEqual(self.ask("[worn.state.at, worn.state.step]"), [1, 2])
        self.keys(RIGHT)
        self.drag_with_pen((300, 300), (400, 350), (450, 300))
        time.sleep(0.3)
        self.browser.switch_to.window(other)
        self.assertEqual(self.ask("worn.state.at"), 2)
        self.assertEqual(self.ask("document.querySelectorAll('.deck > .slide.now .drawn path').length"), 1)
        text = self.file.read_text(encoding="utf-8")
        self.assertEqual(text.count("Only for"), 1)

    def drag_with_pen(self, *points: tuple[int, int]) -> None:
        if not self.ask("document.documentElement.classList.contains('drawing')"):
            self.keys("d")
        self.drag(*points)

    def test_drawing_is_kept_undone_rubbed_saved_and_loaded(self) -> None:
        downloads = self.folder / "downloads"
        self.browser.execute_cdp_cmd("Page.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(downloads)})
        self.open("#first")
        count = "document.querySelectorAll('.slide.now .drawn path').length"
        self.drag_with_pen((200, 300), (300, 300), (400, 300), (500, 300))
        self.drag((200, 500), (300, 520))
        self.assertEqual(self.ask(count), 2)
        self.keys("u")
        self.assertEqual(self.ask(count), 1)
        self.keys("y")
        self.assertEqual(self.ask(count), 2)
        self.browser.execute_script("document.querySelector('.tools [aria-label=Rubber]').click()")
        self.drag((350, 250), (350, 350))
        self.assertEqual(self.ask(count), 3, "a stroke in two")
        self.keys(END)
        self.assertEqual(self.ask(count), 0)
        self.browser.execute_script("document.querySelector('.tools [aria-label=Marker]').click()")
        self.keys("w")
        self.drag((200, 300), (600, 320))
        self.browser.execute_script("document.querySelector('.tools [aria-label=\"New sheet\"]').click()")
        self.assertEqual(self.ask("[worn.state.board, document.querySelectorAll('.board.now path').length]"), [1, 0])
        self.keys(LEFT)
        self.assertEqual(self.ask("[worn.state.board, document.querySelectorAll('.board.now path').length]"), [0, 1])
        self.keys("w", "k")
        saved = self.downloaded(downloads, "talk.drawn.json")
        drawn = json.loads(saved.read_text(encoding="utf-8"))
        self.assertEqual([len(drawn["slides"]["first"]), len(drawn["boards"])], [3, 2])
        self.browser.execute_script("document.querySelector('.tools [aria-label=\"Save with drawings\"]').click()")
        page = self.downloaded(downloads, "talk.slides.html")
        self.browser.get(page.as_uri() + "#first")
        self.assertEqual(self.ask(count), 3)
        self.assertEqual(self.ask("worn.slides.length"), 6)
        self.open("#first")
        self.browser.find_element("css selector", "input[type=file]").send_keys(str(saved))
        time.sleep(0.4)
        self.assertEqual(self.ask(count), 3)
        self.write("page.json", saved.read_bytes())
        with_drawn = PAGE.replace("minutes: 20", "minutes: 20, drawn: page.json")
        press(self.write("drawn.md", with_drawn), ["slides", "slides-pdf"])
        self.file = self.folder / "drawn.slides.html"
        self.open("#first")
        self.assertEqual(self.ask(count), 3, "pressed with what was drawn")

    def downloaded(self, folder: Path, name: str) -> Path:
        for _ in range(50):
            if (folder / name).is_file():
                return folder / name
            time.sleep(0.1)
        raise AssertionError(f"{name} was not saved")

    def test_without_script_on_a_phone_and_on_paper(self) -> None:
        self.browser.execute_cdp_cmd(
            "Emulation.setDeviceMetricsOverride", {"width": 390, "height": 844, "deviceScaleFactor": 2, "mobile": True}
        )
        self.open()
        self.assertIn("listed", self.ask("document.documentElement.className"))
        self.assertLessEqual(self.ask("document.documentElement.scrollWidth"), 390)
        self.browser.execute_cdp_cmd("Emulation.setScriptExecutionDisabled", {"value": True})
        self.open()
        shown = self.browser.find_elements("css selector", ".slide")
        self.assertEqual([one.is_displayed() for one in shown], [True] * 6)
        self.assertNotIn("Only for", self.browser.find_element("tag name", "body").text)
        self.browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        self.browser.execute_cdp_cmd("Emulation.setScriptExecutionDisabled", {"value": False})
        self.open()
        printed = self.browser.execute_cdp_cmd("Page.printToPDF", {"preferCSSPageSize": True})["data"]
        (self.folder / "printed.pdf").write_bytes(base64.b64decode(printed))
        told = subprocess.run(["pdfinfo", self.folder / "printed.pdf"], capture_output=True, text=True, check=True)
        self.assertRegex(told.stdout, r"Pages:\s+6\n")

    def test_checkers_find_nothing(self) -> None:
        self.assertEqual(accessibility_faults(self.browser, self.file), [])
        checker = ["java", "-jar", CHECKERS / "vnu-jar/build/dist/vnu.jar", "--errors-only", self.file]
        made = subprocess.run(checker, capture_output=True, text=True, check=False)
        self.assertEqual(made.stderr, "")
        asked = [
            one
            for one in self.ask("performance.getEntriesByType('resource').map(e => e.name)")
            if "data:" not in one[:5]
        ]
        self.assertEqual(asked, [])


class Strangers(FolderCase):
    """A file of drawings that somebody made up bends nothing."""

    def test_files_that_hold_no_drawing_are_told(self) -> None:
        for text in (
            "[]",
            "{",
            '{"slides": {"a": [{"t": "pen"}]}}',
            '{"slides": {"a": [{"t":"pen","c":"</script>","w":3,"p":[1,2,3]}]}}',
        ):
            with self.subTest(text):
                self.write("d.json", text)
                told = self.faults("---\npress: {slides: {drawn: d.json}}\n---\n\n# A\n", ("slides",))
                self.assertIn("holds no drawing", str(told[0]))
        self.write("d.json", '{"slides": {"gone</script>": [{"t":"pen","c":"#000000","w":3,"p":[1,2,0.5]}]}}')
        pressing = press(self.write("page.md", "---\npress: {slides: {drawn: d.json}}\n---\n\n# A\n"), ["slides"])
        self.assertIn("no slide any more", str(pressing.warnings[0]))
        self.assertNotIn("gone</script>", (self.folder / "page.slides.html").read_text(encoding="utf-8"))
