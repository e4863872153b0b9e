"""The frame of an HTML page: pieces set into a template, values escaped, faults with their line; and what HTML may hold."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.output.frame import FrameFault, framed
from wornpage.output.html.allowed import is_link, is_local, is_picture, safe_style

TEMPLATE = "<title>{{ title }}</title>\n{% if aside %}<aside>{{ aside }}</aside>{% endif %}\n<main>{{ body }}</main>\n"


def frame(template: str = TEMPLATE, body: str = "<p>x</p>", aside: str = "", **values: object) -> str:
    return framed(template, {"body": body, "aside": aside}, {"title": "T", **values})


class Frame(unittest.TestCase):
    def test_values_are_escaped_and_pieces_are_not(self) -> None:
        made = frame(title='<b> & "q"', body="<p>a & b</p>")
        self.assertIn("<title>&lt;b&gt; &amp; &#34;q&#34;</title>", made)
        self.assertIn("<main><p>a & b</p></main>", made)
        self.assertNotIn("<aside>", made)
        self.assertIn("<aside>note</aside>", frame(aside="note"))

    @given(st.text(max_size=30), st.text(max_size=30))
    def test_no_text_takes_the_place_of_another(self, title: str, body: str) -> None:
        made = frame(title=title, body=f"[{body}]", aside="{{ title }} piece-0 \x02body\x03")
        self.assertEqual(made.count("<main>["), 1)
        self.assertNotRegex(made, "[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")

    def test_a_frame_is_filled_anew_for_other_values(self) -> None:
        self.assertNotEqual(frame(title="A"), frame(title="B"))
        self.assertEqual(frame(title="A", body="1").replace("1", "2"), frame(title="A", body="2"))

    def test_faults_have_their_line_and_a_hint(self) -> None:
        for template, line, hint in (
            ("a\n{{ titel }}\n", 2, "title"),
            ("a\nb\n{% if %}\n", 3, ""),
            ("{{ title.x.y }}", 1, ""),
            ("a\n{{ 1 / 0 }}", 2, ""),
            ("a\n\n{{ title + 1 }}", 3, ""),
        ):
            with self.subTest(template):
                try:
                    frame(template)
                except FrameFault as fault:
                    self.assertEqual(fault.line, line)
                    self.assertIn(hint, fault.hint)
                else:
                    self.fail("nothing was told")


class Allowed(unittest.TestCase):
    def test_styles_reach_nothing_outside(self) -> None:
        for style in ("color: red", "fill:url(#a)", "background-color: #fff; margin-top: 1em;", "clip-path: url('#c')"):
            self.assertIsNotNone(safe_style(style), style)
        for style in (
            "background: url(http://a.example/x)", "position: fixed", "color: red; behavior: url(#x)", "width: expression(1)", "color: r\\65 d",
            "background:url(//a)", "@import 'x'", "color", "background: image-set('a' 1x)", "color: red/**/", "background: URL(  'http://a')", "src: src(a)",
        ):  # fmt: skip
            self.assertIsNone(safe_style(style), style)

    def test_addresses(self) -> None:
        for value in ("https://a.example", "HTTP://a.example", "mailto:a@b.example", "#here", " https://a "):
            self.assertTrue(is_link(value), value)
        for value in (
            "javascript:alert(1)",
            "java\nscript:x",
            "data:text/html,x",
            "//a.example",
            "file:///etc/passwd",
            "vbscript:x",
            "",
        ):
            self.assertFalse(is_link(value), value)
        self.assertTrue(is_picture("data:image/png;base64,aGk="))
        for value in (
            "data:image/svg+xml;base64,aGk=",
            "data:image/png,<script>",
            "http://a/x.png",
            'data:image/png;base64,a"b',
        ):
            self.assertFalse(is_picture(value), value)
        self.assertTrue(is_local("url(#a) url( '#b' )"))
        self.assertFalse(is_local("url(#a) url(b)"))


if __name__ == "__main__":
    unittest.main()
