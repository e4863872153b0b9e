"""The site of a volume, opened from its folder in a real browser."""

import re
import subprocess
import time
from typing import Any

from tests.browser import CHECKERS, accessibility_faults, chromium
from tests.volume.made import VolumeCase


class Site(VolumeCase):
    def setUp(self) -> None:
        super().setUp()
        self.bound()
        self.browser = chromium()
        self.addCleanup(self.browser.quit)

    def open(self, name: str) -> None:
        self.browser.get((self.folder / "bound" / name).resolve().as_uri())

    def run_script(self, script: str) -> Any:
        return self.browser.execute_script(script)

    def found(self, text: str) -> list[str]:
        """What a search for some words finds, in its order."""
        field = self.browser.switch_to.active_element
        field.clear()
        field.send_keys(text)
        for _ in range(40):
            found = self.browser.find_elements("css selector", ".searching li")
            if found:
                return [re.sub(r"\s+", " ", one.text) for one in found]
            time.sleep(0.1)
        return []

    def test_searching_from_a_folder(self) -> None:
        self.open("chapters/paper.html")
        self.browser.find_element("tag name", "body").send_keys("/")
        self.assertRegex(self.found("wet")[0], "^2.1 Intro 2 Rain Wet words")
        self.assertRegex(self.found("shets")[0], "Kinds 1 Paper .*Sheets", "an error of typing")
        self.assertRegex(self.found("fog")[0], "^3 Fog", "titles come first")
        self.assertRegex(self.found("grossmutter")[0], "Terms")
        self.assertRegex(self.found("naive")[0], "Terms", "accents count for nothing")
        self.assertRegex(self.found("検索")[0], "Terms", "letters of scripts that part no words")
        self.assertEqual(self.found("qqqq"), ["Nothing found"])
        self.assertRegex(self.found("north")[0], "North Gate")
        field = self.browser.switch_to.active_element
        field.send_keys("\ue007")
        time.sleep(0.3)
        self.assertTrue(self.browser.current_url.endswith("branch/North-Gate.html"))

    def test_keys_and_links_lead_from_page_to_page(self) -> None:
        self.open("chapters/damp-2.html")
        self.browser.find_element("tag name", "body").send_keys("\ue014")
        time.sleep(0.3)
        self.assertTrue(self.browser.current_url.endswith("chapters/damp-10.html"))
        broken = self.run_script(
            "return [...document.querySelectorAll('a[href]')].map(a => a.href).filter(h => h.startsWith('file:'))"
        )
        for address in {one.partition("#")[0] for one in broken}:
            self.assertTrue(
                (self.folder / "bound" / address.rpartition("/bound/")[2].replace("%20", " ")).is_file(), address
            )
        source = self.run_script("return document.querySelector('h2 .source').href")
        self.assertEqual(source, "https://marlow.example/edit/chapters/damp-10.md#L5")
        self.assertIn(
            "chapters%2Fdamp-10.md%23intro", self.run_script("return document.querySelector('h2 .report').href")
        )

    def test_light_and_dark_as_the_reader_chooses(self) -> None:
        self.open("index.html")
        paper = "return getComputedStyle(document.documentElement).getPropertyValue('--paper').trim()"
        light = self.run_script(paper)
        self.browser.find_element("css selector", ".look").click()
        self.assertNotEqual(self.run_script(paper), light)

    def test_it_passes_the_checkers_on_a_phone_and_without_script(self) -> None:
        names = ["index.html", "chapters/paper.html", "chapters/damp-10.html", "index-of-terms.html", "references.html"]
        pages = [self.folder / "bound" / name for name in names]
        jar = CHECKERS / "vnu-jar/build/dist/vnu.jar"
        checked = subprocess.run(["java", "-jar", jar, "--errors-only", *pages], capture_output=True, text=True, check=False)  # fmt: skip
        self.assertEqual(checked.stderr, "")
        for page in pages:
            for dark in (False, True):
                self.assertEqual(accessibility_faults(self.browser, page, dark), [], (page.name, dark))
        self.browser.set_window_size(400, 800)
        for page in pages:
            self.browser.get(page.as_uri())
            self.assertLessEqual(self.run_script("return document.documentElement.scrollWidth - window.innerWidth"), 0, page.name)  # fmt: skip
        self.browser.execute_cdp_cmd("Emulation.setScriptExecutionDisabled", {"value": True})
        self.browser.get(pages[1].as_uri())
        self.assertTrue(self.browser.find_element("css selector", ".folded summary").is_displayed())
        self.assertFalse(self.browser.find_element("css selector", ".find").is_displayed())
