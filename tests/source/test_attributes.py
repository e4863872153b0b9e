"""Attribute lists in braces, and `<img>` tags that stand for images."""

import unittest

from wornpage.source.attributes import TAKES, in_centimetres, read_attributes
from wornpage.source.tags import image_of
from wornpage.tree.nodes import Attributes
from wornpage.tree.span import Span

SPAN = Span("p.md", 3, 5)


class Lists(unittest.TestCase):
    def told(self, raw: str, kind: str = "images") -> tuple[Attributes, list[str]]:
        """What is read, and what is said of the rest."""
        found, problems = read_attributes(raw, SPAN, kind)
        return found, [str(problem) for problem in problems]

    def test_what_a_kind_takes(self) -> None:
        found, said = self.told("{#map .wide .dark width=6cm height='50%' align=\"left\" alt='A map, drawn'}")
        self.assertEqual((found.label, found.classes, said), ("map", ("wide", "dark"), []))
        self.assertEqual(dict(found.pairs), {"width": "6cm", "height": "50%", "align": "left", "alt": "A map, drawn"})
        for kind in TAKES:
            self.assertEqual(self.told("{}", kind)[1], [])

    def test_the_rest_is_told_at_its_place_and_has_no_effect(self) -> None:
        for raw, where, words in (
            ("{widht=3cm}", "3:6", "'width'"),
            ("{ width=300 }", "3:7", "7.938cm"),
            ("{width=wide}", "3:6", "a length"),
            ("{align=middle}", "3:6", "left, right"),
            ("{width=3cm big}", "3:16", "no place"),
            ("{=3}", "3:6", "no place"),
        ):
            found, said = self.told(raw)
            self.assertTrue(said[0].startswith(f"p.md:{where}: warning: "), said)
            self.assertIn(words, said[0])
            self.assertLessEqual(len(found.pairs), 1)

    def test_pixels(self) -> None:
        self.assertEqual(
            [in_centimetres(p) for p in ("96", "96px", "48.0 px", "5em", "")], ["2.54cm", "2.54cm", "1.27cm", "", ""]
        )


class Tags(unittest.TestCase):
    def test_a_plain_image_of_a_file_beside_the_page(self) -> None:
        image = image_of('<IMG src="a b.png" alt="Tom &amp; Jo" width=192 style="height: 50%" id=x />', SPAN)
        assert image is not None
        self.assertEqual((image.source, image.attributes.label), ("a b.png", "x"))
        self.assertEqual(dict(image.attributes.pairs), {"width": "5.08cm", "height": "50%"})
        around = image_of('<p align="right"><img src="a.png"></p>', SPAN)
        assert around is not None
        self.assertEqual(dict(around.attributes.pairs), {"align": "right"})

    def test_what_asks_for_more_stays_html(self) -> None:
        for html in (
            '<img src="https://a.example/b.png">', '<img src="//a.example/b.png">', '<img alt="no file">', "<img>",
            '<img src="a.png" usemap="#m">', '<img src="a.png" onerror="x()">', '<img src="a.png" style="float: left">',
            '<img src="a.png"> and more', '<img src="a.png" <b>', "<picture><img src='a.png'></picture>",
        ):  # fmt: skip
            self.assertIsNone(image_of(html, SPAN), html)
