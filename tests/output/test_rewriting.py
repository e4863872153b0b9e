"""HTML written anew: always whole, never more than is allowed, whatever it was."""

import re
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from wornpage.output.epub.xhtml import as_xhtml
from wornpage.output.html.rich import rich

PIECES = (
    "<p>", "</p>", "<b>", "</b>", "<br>", "<br/>", "<img src='data:image/png;base64,AA==' alt=\"a'b\">", "<td>", "<table><tr>", "</table>", "<li>", "x < y", "&amp;", "&nbsp;", "&#0;",
    "a & b", "\x01", "<input disabled>", "<math><mi>x</mi></math>", "<script>alert(1)</script>", "<a href='javascript:x'>", "<a href=\"#x\">", "</a>", "<!-- c -->", "<?pi x?>", "<!DOCTYPE html>",
    "<p style='position:fixed'>", "<p onclick=x>", "<svg onload=x>", "<x y='1' y='2'>", "<a title='<b>&quot;'>", "</x>", "<", ">", "ü😀", "<iframe src=x>", "<x:y z:w=1>", "<a & b @c=1 d<e=2>", "<svg viewBox='0 0 1 1'>", "<style>p{}</style>",
)  # fmt: skip
Html = st.lists(st.sampled_from(PIECES), max_size=12).map("".join)
SPACE = 'xmlns="http://www.w3.org/1999/xhtml" xmlns:epub="http://www.idpf.org/2007/ops"'


class Rewriting(unittest.TestCase):
    @settings(deadline=None, max_examples=300)
    @given(Html)
    def test_pieces_of_books_are_whole_whatever_they_were(self, html: str) -> None:
        whole = f"<div {SPACE}>{as_xhtml(html)}</div>"
        first = etree.fromstring(whole.encode("utf-8", "replace"))
        self.assertEqual(first.tag, "{http://www.w3.org/1999/xhtml}div")

    @settings(deadline=None, max_examples=300)
    @given(Html)
    def test_a_piece_that_is_whole_stays_as_it_is(self, html: str) -> None:
        once = as_xhtml(html)
        self.assertEqual(as_xhtml(once), once)

    @settings(deadline=None, max_examples=300)
    @given(Html)
    def test_what_values_write_runs_nothing_outside_a_frame(self, html: str) -> None:
        made = rich(html, "words")
        if made.startswith("<iframe"):
            self.assertEqual(made.count("<"), 2, "all of it lies in an attribute")
            self.assertIn('sandbox="allow-scripts"', made)
            return
        tags = re.findall(r"<[^>]*>", made)
        self.assertFalse(
            [tag for tag in tags if re.search(r"script|\son\w+=|javascript:|iframe|fixed|<style|<svg", tag)]
        )
        opened = [tag for tag in tags if not tag.startswith("</")]
        closed = [tag for tag in tags if tag.startswith("</")]
        empty = [tag for tag in opened if re.match(r"<(br|img|hr|col|wbr)\b", tag)]
        self.assertEqual(len(opened) - len(empty), len(closed), "every element is closed")

    def test_text_is_text_again(self) -> None:
        for html, said in {"x < y &amp; z": "x < y & z", "<b>a</b>b": "ab", "<p>one<p>two": "onetwo"}.items():
            shown = etree.fromstring(f"<div>{as_xhtml(html)}</div>")
            self.assertEqual("".join(shown.itertext()), said)
