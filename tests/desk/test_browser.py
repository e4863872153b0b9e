"""The desk in a browser: by mouse and keys, on a phone, in light and dark, for those who hear it read."""

from __future__ import annotations

from typing import Any

from selenium.common.exceptions import NoSuchElementException, StaleElementReferenceException

from tests.browser import CHECKERS, chromium
from tests.desk.asking import until
from tests.desk.test_desk import TRIAL, DeskCase


class InBrowser(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.served = self.desk(trial=TRIAL.replace("must: {type: text, required: yes}", "must: first"))
        self.browser = chromium()
        self.addCleanup(self.browser.quit)

    def find(self, how: str) -> Any:
        """An element."""
        return self.browser.find_element("css selector", how)

    def shows(self, *words: str) -> None:
        """Wait until the report shows words."""

        def there() -> bool:
            if self.find("#shown").get_attribute("hidden") is not None:
                return False
            self.browser.switch_to.frame(self.find("#shown"))
            try:
                text = self.find("body").text
            except (NoSuchElementException, StaleElementReferenceException):  # the report is just being put in
                return False
            finally:
                self.browser.switch_to.default_content()
            return all(word in text for word in words)

        self.assertTrue(until(there), words)

    def test_picking_keeping_and_taking_along(self) -> None:
        self.browser.get(self.served.address)
        self.shows("Room Quayside, above 60", "must FIRST")
        self.assertEqual(self.browser.title, "Trial of Quayside")
        self.assertIn("room=Quayside", self.browser.current_url)
        slider = self.find("#of-above")
        slider.send_keys("\ue014\ue014")  # the key to the right, twice
        self.shows("above 70")
        self.assertEqual(self.find(".slider output").text, "70")
        must = self.find("#of-must")
        must.clear()
        must.send_keys("fail\n")
        self.assertTrue(until(lambda: "could not be made" in self.find("#wrong").text))
        self.assertFalse(self.find("[data-kind=pdf]").is_enabled())
        must.clear()
        must.send_keys("good\n")
        self.shows("must GOOD")
        self.find("#keep-name").send_keys("My <b>set</b>\n")
        self.assertTrue(until(lambda: "My <b>set</b>" in self.find("#sets").text))
        address = self.browser.current_url
        self.find(".quiet").click()
        self.shows("above 60", "must FIRST")
        self.find("#sets a").click()
        self.shows("above 70", "must GOOD")
        self.browser.execute_cdp_cmd(
            "Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(self.folder / "taken")}
        )
        self.find("button[data-kind=pdf]").click()
        self.assertTrue(until((self.folder / "taken/trial.pdf").exists))
        self.browser.get(address)
        self.shows("above 70", "must GOOD")
        self.assertEqual([one["message"] for one in self.browser.get_log("browser") if one["level"] == "SEVERE"], [])

    def test_what_cannot_be_taken_is_said_beside_it(self) -> None:
        self.browser.get(f"{self.served.address}p/trial/?above=63")
        self.assertIn("in steps of 5", self.find("#wrong-above").text)
        self.assertEqual(self.find("#of-above").get_attribute("aria-invalid"), "true")
        self.assertTrue(self.find("#hint").is_displayed())

    def test_it_is_accessible_in_light_and_dark_and_fits_a_phone(self) -> None:
        for width, scheme in ((1280, "light"), (1280, "dark"), (380, "dark")):
            with self.subTest(width=width, scheme=scheme):
                metrics = {"width": width, "height": 800, "deviceScaleFactor": 1, "mobile": width < 500}
                self.browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
                media = {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
                self.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", media)
                self.browser.get(self.served.address)
                self.shows("Room Quayside")
                self.assertLessEqual(self.browser.execute_script("return document.documentElement.scrollWidth"), width)
                self.browser.execute_script((CHECKERS / "axe-core/axe.min.js").read_text(encoding="utf-8"))
                found = self.browser.execute_async_script(
                    "axe.run({iframes: false}).then(arguments[arguments.length - 1])"
                )
                self.assertEqual([f"{one['id']}: {one['nodes'][0]['html']}" for one in found["violations"]], [])
