"""Every piece of running text knows where it stands in the page, whatever it is written in."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from wornpage.source.builder import build
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk

PAGE = r"""# A *head* with {= mark} words #

One line **strong *both* inner** and `code` with a
second \* line, $x_1$ formula &amp; [link *in*](there "t") {cite a} then ![alt **x**](p.png) end
   third with [ref][r] and {= "a
 b"} behind the mark <b>bold</b> <https://example.org> last

> - quoted *item*
>   goes on
>
>   1. inner ~~gone~~ word[^n]

| head | *em* | c |
|---|---|---|
| cell  | a \| b *x* | {= n} after |

::: note Its *title*
In the box.
:::

Setext *words*
==============

term *t*
: means *this*

[r]: there

[^n]: A note with *stress*.
"""


class Places(unittest.TestCase):
    def written(self, page: str) -> list[tuple[n.Inline, str]]:
        """Each piece of running text of a page, with what stands at its place."""
        lines = page.split("\n")
        blocks = build(page, "p.md").blocks
        kinds = (n.Text, n.Code, n.Emphasis, n.Strong, n.Strike, n.Link, n.ValueMark, n.Footnote)
        found = [node for node in walk(blocks) if isinstance(node, kinds)]
        return [(node, lines[node.span.line - 1][node.span.column - 1 :]) for node in found]

    def test_each_begins_where_it_is_written(self) -> None:
        begins = {n.Code: "`", n.Emphasis: "*", n.Strike: "~~", n.Link: ("[", "<"), n.ValueMark: "{=", n.Footnote: "[^"}
        seen = set()
        for node, rest in self.written(PAGE):
            with self.subTest(node):
                seen.add(type(node))
                if isinstance(node, n.Text):
                    word = (node.text.split() or [""])[0]
                    self.assertTrue(rest.lstrip(" <").startswith((word, "\\", "&")), rest)
                elif isinstance(node, n.Strong):
                    self.assertTrue(rest.startswith(("**", "<b>")), rest)
                else:
                    self.assertTrue(rest.startswith(begins[type(node)]), rest)
        self.assertEqual(seen, {n.Text, n.Strong, *begins})

    @given(
        st.lists(st.sampled_from(["word", "*em*", "**strong**", "`co de`", "{= x}", "\\*", "&lt;", "[a](b)", "$y$", "\n", "~~s~~"]), min_size=1, max_size=14),
        st.sampled_from(["{}", "- {}", "> {}", "# {}", "1. x\n\n   {}", "| a |\n|---|\n| {} |", "Caption: {}", ":::: note\n{}\n::::"]),
    )  # fmt: skip
    def test_numbered_words_stand_where_they_say(self, parts: list[str], around: str) -> None:
        inside = around.split("{}", maxsplit=1)[0].rpartition("\n")[2]
        text = ""
        for number, part in enumerate(parts):
            broken = part == "\n" and "|" not in around and "#" not in around
            text += f" w{number}q " + (("\n" + " " * len(inside) if inside[:1] != ">" else "\n> ") if broken else "" if part == "\n" else part)  # fmt: skip
        for node, rest in self.written(around.format(text.strip() + " end")):
            if isinstance(node, n.Text) and node.text.strip().startswith("w") and "q" in node.text:
                word = node.text.split()[0]
                self.assertTrue(rest.lstrip().startswith(word), (node.text, rest))


if __name__ == "__main__":
    unittest.main()
