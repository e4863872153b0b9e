"""A page parsed section by section is the page parsed as a whole, whatever was parsed before."""

import unittest
from typing import Any
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from wornpage.source import sections
from wornpage.source.grammar import grammar
from wornpage.source.sections import Sections

PIECES = [
    "# Head\n", "## Deeper {#x}\n", "#no head\n", "Words here.\n", "more words\n", "\n", "\n\n", "- item\n", "  in it\n", "1. one\n", "   ```python\n",
    "- ```text\n", "  # in a list\n", "  ```\n", "```python run\n", "# a comment\n", "```\n", "````\n", "~~~\n", "``` a ` b\n", "    # by indentation\n",
    "    ```\n", "\t```\n", "> quoted\n", "> ```\n", "> # quoted head\n", "::: note\n", ":::\n", ":::: box\n", "::::\n", "- ::: note\n", "<div>\n", "</div>\n", "<!-- x\n", "-->\n",
    "[a]: http://b.example\n", "[^n]: A note.\n", "see [a] and[^n]\n", "| a | b |\n|---|---|\n| 1 | 2 |\n", "Caption: words\n", "Label: t\n", "Term\n: meaning\n", "---\n", "===\n",
    "$$\n", "\\# no\n", "`# code`\n", "* * *\n", "+ ~~~\n", "   # three spaces\n",
]  # fmt: skip
TEXTS = st.lists(st.sampled_from(PIECES), max_size=24).map("".join)


def shape(tokens: Any) -> list[Any]:
    """All that the builder asks of tokens."""
    return [
        (one.type, one.tag, one.nesting, one.level, one.map, one.content, one.info, one.markup, one.hidden, one.attrs, one.meta,
         shape(one.children) if one.children is not None else None)
        for one in tokens
    ]  # fmt: skip


class Parsed(unittest.TestCase):
    @settings(deadline=None, max_examples=250)
    @given(TEXTS, TEXTS, TEXTS)
    def test_parts_make_the_whole_also_after_edits(self, before: str, edited: str, after: str) -> None:
        with mock.patch.object(sections, "_SMALL", 0):
            memory = Sections()
            for middle in ("", edited, edited + "\n\n", "", "# New\n\n" + edited):
                text = f"{before}\n\n# Fixed\n\n{middle}\n\n# Last\n\n{after}"
                found: dict[str, Any] = {}
                self.assertEqual(shape(memory.tokens(text, found)), shape(grammar().parse(text, {})), text)

    def test_only_sections_that_are_new_are_parsed(self) -> None:
        text = "".join(
            f"# Section {n}\n\nWords of {n}.\n\n- a list\n\n```python run\n# comment {n}\n```\n\n" for n in range(40)
        )
        with mock.patch.object(sections, "_SMALL", 0):
            memory = Sections()
            memory.tokens(text, {})
            with mock.patch.object(sections, "grammar", wraps=grammar) as asked:
                memory.tokens(text.replace("Words of 7.", "Words of 7 and more.\n\nA paragraph."), {})
            self.assertEqual(asked.call_count, 1)
