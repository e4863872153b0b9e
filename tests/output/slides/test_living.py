"""Figures that live on slides: as large as their room, with the deck's keys, and as pictures for the speaker, on paper and in saved copies."""

from __future__ import annotations

import time
from typing import Any

import msgspec

from tests.browser import chromium
from tests.support import FolderCase
from wornpage.compose.language import language_of
from wornpage.output.kind import Job
from wornpage.output.writing import write_as
from wornpage.settings import PageSettings
from wornpage.tree import nodes as n
from wornpage.tree.live import Live
from wornpage.tree.span import Span

AT = Span("talk.md", 3)
STILL = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 3" width="200" height="150"><rect width="4" height="3"/></svg>'
TALL = Live(html=b'<div style="height: 300px; width: 200px"><input></div>')
FITS = Live(html=b'<div style="height: 100%; background: teal"></div>', fits=True)
TURNS = Live(frames=(b"\x89PNG", b"\x89PNG"))
SEEN = "return [...document.querySelectorAll('.deck .slide.now .live > *')].map(e => [e.tagName, getComputedStyle(e).visibility])"


def slide(title: str, live: Live) -> tuple[n.Heading, n.Figure]:
    """A slide with a figure of 200 by 150 pixels."""
    picture = n.Picture("svg", STILL, 5.2917, 3.9688, title, live=live)
    return n.Heading(AT, 1, (n.Text(AT, title),), label=title.lower()), n.Figure(AT, (picture,))


class Living(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        blocks = (*slide("Tall", TALL), *slide("Fits", FITS), *slide("Turns", TURNS))
        page = n.Composed(n.TitleBlock(), blocks, (), "Talk", language_of("en"))
        made = write_as("slides", page, Job(msgspec.convert({}, PageSettings), self.folder, "talk.md"))
        (self.folder / "talk.slides.html").write_bytes(made.data)
        self.browser = chromium(1280, 860)
        self.addCleanup(self.browser.quit)
        self.browser.get((self.folder / "talk.slides.html").as_uri() + "#tall")

    def ask(self, script: str) -> Any:
        return self.browser.execute_script(script)

    def until(self, script: str) -> Any:
        for _ in range(60):
            if found := self.ask(script):
                return found
            time.sleep(0.1)
        raise AssertionError(script)

    def test_they_take_their_room_and_leave_the_deck_its_keys(self) -> None:
        for name, ratio in (("tall", 200 / 300), ("fits", 4 / 3)):
            self.ask(f"location.hash = '{name}'")
            self.until("return document.querySelector('.deck .slide.now .lives')")
            time.sleep(0.3)
            room, frame = self.ask("const i = document.querySelector('.deck .slide.now iframe'); return [i.parentNode, i].map(e => { const b = e.getBoundingClientRect(); return [b.x, b.y, b.width, b.height] })")  # fmt: skip
            self.assertAlmostEqual(frame[2] / frame[3], ratio, delta=0.02)
            self.assertTrue(abs(frame[2] - room[2]) < 2 or abs(frame[3] - room[3]) < 2, (room, frame))
            self.assertAlmostEqual(frame[0] + frame[2] / 2, room[0] + room[2] / 2, delta=2)
        self.ask("location.hash = 'tall'")
        self.browser.switch_to.frame(self.browser.find_element("css selector", ".slide.now iframe"))
        self.browser.find_element("tag name", "input").send_keys("3 o", "\ue014")  # its own field keeps its keys
        self.browser.find_element("tag name", "div").click()
        self.browser.find_element("tag name", "body").send_keys("\ue014")
        self.browser.switch_to.default_content()
        self.until("return worn.slides[worn.state.at].dataset.address === 'fits'")

    def test_pictures_stand_for_them_on_paper_beside_the_speaker_and_in_copies(self) -> None:
        self.until("return document.querySelector('.deck .slide.now .lives')")
        self.assertEqual(self.ask(SEEN)[0], ["svg", "hidden"])
        self.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
        self.assertEqual(self.ask(SEEN)[0], ["svg", "visible"])
        self.browser.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
        self.ask("worn.turn(1); worn.turn(1)")
        self.until("return document.querySelector('.deck .slide.now .moves')")
        folder = self.folder / "downloads"
        self.browser.execute_cdp_cmd("Page.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(folder)})
        self.browser.find_element("tag name", "body").send_keys("d")
        self.ask("document.querySelector('.tools [aria-label=\"Save with drawings\"]').click()")
        for _ in range(50):
            if (folder / "talk.slides.html").is_file():
                break
            time.sleep(0.1)
        saved = (folder / "talk.slides.html").read_text().partition("<main")[2].partition("</main>")[0]
        for trace in ("<iframe", "data-known", "moving-tools", 'class="live lives"'):
            self.assertTrue(saved and trace not in saved, trace)
        self.browser.get(self.browser.current_url.split("#")[0] + "?speaker#tall")
        self.until("return document.querySelector('.ahead .slide')")
        self.assertEqual(self.ask("return document.querySelectorAll('.ahead iframe').length"), 0)
        self.assertEqual(
            self.ask("return getComputedStyle(document.querySelector('.ahead svg')).visibility"), "visible"
        )
