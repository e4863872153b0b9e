"""What strangers' drawings, values and pages can do to a page: nothing."""

import re
import unittest
from html.parser import HTMLParser
from pathlib import Path

from tests.support import FolderCase
from wornpage.demo import write_demo
from wornpage.output.html.drawing import drawing
from wornpage.output.html.rich import rich
from wornpage.press import press
from wornpage.tree.nodes import Picture

_HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 1 1">'


def drawn(inner: str, before: str = "") -> str:
    return drawing(Picture("svg", f"{before}{_HEAD}{inner}</svg>".encode(), 1, 1, "words"), 3)


class Drawings(unittest.TestCase):
    """SVG that comes from code or from files."""

    def test_what_is_not_allowed_becomes_an_image_of_its_own(self) -> None:
        for inner in (
            "<script>1</script>", "<style>*{fill:red}</style>", '<a xlink:href="java&#115;cript:1"><text>x</text></a>',
            '<set attributeName="href" to="java&#115;cript:1"/>', '<image href="http://x/y.png"/>', '<rect style="fill:url(http://x)"/>',
            '<rect fill="url(//x)"/>', '<rect onload="1"/>', '<base href="http://x"/>', '<use href="http://x#a"/>', "<foreignObject/>",
            '<rect style="fill:u\\72l(http://x)"/>', '<html xmlns="http://www.w3.org/1999/xhtml"><img/></html>', "<iframe/>", "<animate/>",
        ):  # fmt: skip
            with self.subTest(inner):
                self.assertTrue(drawn(inner).startswith("<img src="), drawn(inner)[:80])
        self.assertTrue(drawn("<text>&x;</text>", '<!DOCTYPE svg [<!ENTITY x "y">]>').startswith("<img src="))

    def test_what_shows_nothing_is_left_out(self) -> None:
        made = drawn(
            '<desc><p><iframe srcdoc="x"/></p></desc><metadata><x/></metadata><!-- c --><path/><title><![CDATA[</title><script>]]></title>'
        )
        self.assertTrue(made.startswith("<svg"))
        for sign in ("iframe", "<script", "metadata", "<!--"):
            self.assertNotIn(sign, made)
        self.assertIn('<path d="M0 0"/>', made)

    def test_what_refers_to_its_own_parts_goes_on_doing_so(self) -> None:
        made = drawn(
            '<linearGradient id="a"/><rect fill="url(#a)" id="unused"/><use xlink:href="#a" style="stroke: url(#a)"/>'
        )
        self.assertEqual(made.count("d3-a"), 4)
        self.assertNotIn("unused", made)


class Values(unittest.TestCase):
    """HTML that values make of themselves."""

    def test_plain_markup_stands_in_the_page_and_is_closed(self) -> None:
        self.assertEqual(rich("<table><tr><td>1<td>2</table>", "w"), "<table><tr><td>1</td><td>2</td></tr></table>")
        self.assertEqual(rich("</div></div><b>x &lt;", "w"), "<b>x &lt;</b>")

    def test_what_needs_more_stands_in_a_frame_that_reaches_nothing(self) -> None:
        for html in ("<script>1</script>", "<img/src/onerror=1>", '<a href="java&#115;cript:1">x</a>', '<p style="background:url(http://x)">',
                     "<base href=x>", "<svg/onload=1>", "<style>p{}</style>", "<img src=http://x>", "<p style='width:expression(1)'>"):  # fmt: skip
            with self.subTest(html):
                made = rich(html, 'says "so"')
                self.assertRegex(
                    made, r'^<iframe class="framed" sandbox="allow-scripts" title="[^"<]*" srcdoc="[^"<]*"></iframe>$'
                )
                self.assertIn("default-src", made)


class Loads(HTMLParser):
    """Addresses that a browser would load from when it shows a page."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        for name, value in attrs:
            if name in {"src", "srcset", "data", "poster"} or (name == "href" and tag in {"link", "image", "use"}):
                self.found.append(value or "")
            if name == "style":
                self.found += re.findall(r"url\(([^)]*)\)", value or "")


class Pages(FolderCase):
    """Whole pages."""

    def test_a_pressed_page_asks_nothing_of_the_network(self) -> None:
        write_demo(self.folder)
        for page in sorted(self.folder.glob("*.md")):
            press(page)
            html = page.with_suffix(".html").read_text(encoding="utf-8")
            loads = Loads()
            loads.feed(html)
            loads.found += re.findall(
                r"(?:url\(|@import)\s*['\"]?([^'\")\s]+)", " ".join(re.findall(r"(?s)<style>(.*?)</style>", html))
            )
            outside = [address for address in loads.found if not address.startswith(("data:", "#"))]
            self.assertEqual(outside, [], page.name)

    def test_no_letter_of_a_page_is_taken_for_a_sign_of_ours(self) -> None:
        html = self.html('---\ntitle: "\\x02body\\x03 \\x02evil\\x03"\n---\nx \x02body\x03 \ufdd0\ue000 y\n\n![\x02body\x03](a.svg)\n'
                         if self.write("a.svg", f"{_HEAD}<rect id='a'/></svg>") else "")  # fmt: skip
        self.assertEqual(html.count("<main"), 1)
        self.assertFalse(re.search("[\x00-\x08\x0b\x0e-\x1f]", html))

    def test_pages_that_go_on_for_ever_are_told_with_their_place(self) -> None:
        head = "---\ntitle: t\n---\n"
        for text, words in (
            (head + "{= " * 20_000, "never closed"),
            (head + "".join("  " * level + "- x\n" for level in range(80)), "nested deeper"),
            ("---\ntitle: t\na: &a [*a]\n---\n", "stands within itself"),
            ("---\ntitle: t\na0: &a0 [1]\n" + "".join(f"a{n}: &a{n} [{', '.join([f'*a{n - 1}'] * 9)}]\n" for n in range(1, 9)) + "---\n", "double"),
            ("---\ntitle: t\na: " + "[" * 3_000 + "\n---\n", "brackets are open"),
            ("---\ntitle: t\nseed: " + "9" * 5_000 + "\n---\n", "digits"),
            ("---\ntitle: t\nmacros: {a: '\\b', b: '\\a'}\n---\n$\\a$\n", "uses itself"),
            (head + "{insert /dev/zero}\n", "no ordinary file"),
            (head + "{insert " + "b" * 5_000 + ".md}\n", "too long"),
            (head + "{insert a\0b.md}\n", "no file's name can have"),
            (head + "![x](data:image/png;base64,AAA)\n", "address"),
        ):  # fmt: skip
            with self.subTest(words):
                found = self.faults(text)
                self.assertTrue(any(words in problem.what for problem in found), found[0])
                self.assertTrue(all(problem.span.line > 0 for problem in found))

    def test_deep_lists_and_boxes_lose_nothing(self) -> None:
        lists = "".join("  " * level + f"- item{level}x\n" for level in range(30))
        boxes = "".join(":" * (60 - level) + f" note\nbox{level}x\n\n" for level in range(28))
        html = self.html(
            f"---\ntitle: t\n---\n{lists}\n{boxes}" + "".join(":" * (33 + level) + "\n" for level in range(28))
        )
        self.assertEqual([n for n in range(30) if f"item{n}x" not in html], [])
        self.assertEqual([n for n in range(28) if f"box{n}x" not in html], [])


class Sources(FolderCase):
    """Files that a page is made of."""

    def test_no_output_is_written_over_them(self) -> None:
        from tests.support import worn

        text = "---\ntitle: t\n---\n```python run\nprint(open('d.html').read())\n```\n"
        self.write("d.md", text)
        self.write("d.html", "data")
        before = {path.name: path.read_bytes() for path in self.folder.iterdir() if path.is_file()}
        for arguments in (("press", "d.md"), ("press", "d.md", "--out", "x", "--write-colophon", "d.md"),
                          ("graph", "d.md", "--svg", "d.md"), ("code", "d.md", "--out", "d.md")):  # fmt: skip
            with self.subTest(arguments):
                ended = worn(*arguments, folder=self.folder)
                self.assertEqual((ended.returncode, "stays as it is" in ended.stderr), (2, True), ended.stderr)
        self.assertEqual({name: (Path(self.folder) / name).read_bytes() for name in before}, before)
