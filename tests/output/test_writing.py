"""Between a page and its outputs: no figure is lost, whoever asks for it and in whatever part."""

from __future__ import annotations

import re
import zipfile
from pathlib import Path
from unittest import mock

import msgspec
from msgspec.structs import replace

from tests.support import FolderCase
from wornpage.compose.language import language_of
from wornpage.output.kind import Controls, Job, State, Written
from wornpage.output.outputs import names
from wornpage.output.writing import fit_for, write_as
from wornpage.settings import PageSettings
from wornpage.talk.server import TalkServer
from wornpage.tree import nodes as n
from wornpage.tree.live import Live
from wornpage.tree.span import Span

MOVES = Live(html=b"<p>It moves</p>")


def page_with(live: Live | None, line: int = 7) -> n.Composed:
    """A page with a figure in a box, which its library could not draw."""
    at = Span("page.md", line)
    picture = n.Picture("png", b"", 8, 5, "Loans", live=live, undrawn="the library lacks a part")
    box = n.Container(at, "note", n.Attributes(), (n.Figure(at, (picture,)),))
    return n.Composed(n.TitleBlock(), (box,), (), "Loans", language_of("en"))


class Whole(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        nothing = mock.patch("wornpage.output.stills._browser", return_value=None)
        nothing.start()
        self.addCleanup(nothing.stop)

    def job(self) -> Job:
        return Job(msgspec.convert({}, PageSettings), self.folder, "page.md")

    def test_every_output_shows_a_frame_in_place_of_what_cannot_be_drawn_and_says_so(self) -> None:
        for kind in names():
            for live in (None, MOVES):
                with self.subTest(kind, lives=live is not None):
                    made = write_as(kind, page_with(live), self.job())
                    told = [str(one) for one in made.problems if "cannot be drawn" in str(one)]
                    self.assertEqual(len(told), 0 if kind in {"html", "slides"} and live else 1)
                    for one in told:
                        self.assertIn("page.md:7", one)
                    if made.data[:2] == b"PK" and kind != "xlsx":  # which has figures only where they are wanted
                        with zipfile.ZipFile(self.write_bytes("made.zip", made.data)) as archive:
                            sizes = [one.file_size for one in archive.infolist() if re.search("[.](png|svg)$", one.filename)]  # fmt: skip
                        self.assertTrue(sizes and all(sizes), sizes)
                    elif b"<html" in made.data[:300]:
                        self.assertNotRegex(made.data.decode(), r'src="data:[^,]*,"')

    def write_bytes(self, name: str, data: bytes) -> Path:
        path = self.folder / name
        path.write_bytes(data)
        return path

    def test_a_figure_that_comes_of_other_values_is_not_forgotten(self) -> None:
        states = (State({"branch": "North"}, page_with(None, 9)),)
        job = replace(self.job(), controls=Controls({}, {}, states))
        with mock.patch("wornpage.output.html.kind.Html.write") as writing:
            writing.return_value = Written(b"")
            made = write_as("html", page_with(MOVES), job)
        ((page, held), _) = writing.call_args
        self.assertEqual([str(one.span) for one in made.problems], ["page.md:9:1"])
        self.assertIs(page.blocks[0].blocks[0].pictures[0].live, MOVES)
        (state,) = held.controls.states
        self.assertIn(b"no still picture", state.page.blocks[0].blocks[0].pictures[0].data)

    def test_a_page_that_lacks_nothing_stays_the_very_same(self) -> None:
        page = page_with(MOVES)
        self.assertIs(fit_for("html", page).page, page)

    def test_the_slides_of_a_talk_show_it_too(self) -> None:
        code = "import plotly.graph_objects as go\ngo.Figure(go.Bar(x=['a'], y=[3]))"
        page = self.write("talk.md", f"# Loans\n\n```python run #loans\n{code}\n```\n\nCaption: Loans.\n")
        server = TalkServer(0)
        server.prepare(page, {})
        for shown in (server._of_speaker, server._of_audience):
            self.assertIn('class="live"', shown.decode())
            self.assertIn('id="live-script"', shown.decode())
        self.assertFalse(server.warnings)
