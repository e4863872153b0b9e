"""Letters that the bundled fonts lack: where they are had from, and that the record says so."""

import json
import unittest
from pathlib import Path
from unittest import mock

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen

from tests.support import FolderCase
from wornpage.output.pdf import fonts
from wornpage.press import press

RUNE = "\u16a0"


def made(path: Path, family: str, **more: str) -> Path:
    """A font that has one letter, a box; `more` names."""
    pen = TTGlyphPen(None)
    pen.moveTo((50, 0))
    for point in ((50, 500), (450, 500), (450, 0)):
        pen.lineTo(point)
    pen.closePath()
    box = pen.glyph()
    font = FontBuilder(1000, isTTF=True)
    font.setupGlyphOrder([".notdef", "rune"])
    font.setupCharacterMap({ord(RUNE): "rune"})
    font.setupGlyf({".notdef": box, "rune": box})
    font.setupHorizontalMetrics({".notdef": (500, 50), "rune": (500, 50)})
    font.setupHorizontalHeader(ascent=800, descent=-200)
    font.setupNameTable({"familyName": family, "styleName": "Regular", "fullName": family, **more})
    font.setupOS2()
    font.setupPost()
    path.parent.mkdir(parents=True, exist_ok=True)
    font.save(path)
    return path


class Fonts(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.system = self.folder / "system"
        patch = mock.patch.object(fonts, "SYSTEM_FOLDERS", (str(self.system),))
        patch.start()
        self.addCleanup(patch.stop)

    def test_plain_faces_come_first_and_the_pages_own_before_all(self) -> None:
        for name in ("Runes-Bold", "Runes-Italic", "Runes"):
            made(self.system / f"{name}.ttf", "Runes", psName="Runes")
        found = fonts.fonts_for(["a", RUNE], [])
        self.assertEqual([path.name for path in found.files], ["Runes.ttf"])
        self.assertEqual((found.of_system, found.missing), (found.files, frozenset()))
        own = made(self.folder / "own" / "House-Bold.ttf", "House", psName="House")
        found = fonts.fonts_for([RUNE], [own.parent])
        self.assertEqual((found.files, found.of_system), ((own,), ()))
        self.assertEqual(fonts.fonts_for(["plain"], []).files, ())

    def test_one_that_the_typesetter_does_not_take_counts_as_none(self) -> None:
        made(self.system / "Nameless.ttf", "Nameless")
        (self.system / "broken.ttf").write_bytes(b"no font")
        self.assertEqual(fonts.fonts_for([RUNE], []).missing, {RUNE})
        page = self.write("p.md", f"A {RUNE} here.\n")
        self.assertIn(f"no font has the letter '{RUNE}'", " ".join(map(str, press(page, ["pdf"]).warnings)))

    def test_the_record_names_them_and_is_as_before_without(self) -> None:
        made(self.system / "Runes.ttf", "Runes", psName="Runes")
        page = self.write("p.md", f"---\ntitle: t\npress: {{pdf: {{colophon: yes}}}}\n---\n\nA {RUNE} here.\n")
        record = press(page, ["pdf"]).colophon
        self.assertEqual(list(record.fonts), ["Runes.ttf"])
        self.assertIn("Runes.ttf", " ".join(record.weaknesses))
        json.dumps(record.to_data())
        plain = press(page, ["html"]).colophon
        self.assertEqual((plain.fonts, plain.weaknesses), ({}, ()))
        self.write("p.md", "---\ntitle: t\n---\n\nA word here.\n")
        self.assertEqual(press(page, ["pdf"]).colophon.fonts, {})


if __name__ == "__main__":
    unittest.main()
