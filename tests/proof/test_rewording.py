"""Words shown before their page is whole: just as the whole page shows them, or not at all."""

from __future__ import annotations

import datetime
import random
import re

from tests.support import FolderCase
from wornpage.plan.record import SilentReporter
from wornpage.press import Order, proof_of
from wornpage.proof.parts import parts_of
from wornpage.proof.rewording import Shown, reworded

PAGE = """\
---
title: Words
given: {branch: Quayside}
---

# Loans & loans {#loans}

The paper of {= given.branch} is **damp & brittle**, and the paper[^n] of others is *not*; see {see loans} and [the words](#loans).
It has `paper` in it, <b>paper</b>, $x^2$ and a "quotation" --- with an image ![paper](dot.svg){#dot}.

- paper
- cloth, and *cloth*
    1. cloth
    2. leather & paper

| kind | folds |
|------|------:|
| rag  | 12    |
| pulp | 12    |
Caption: Folds of paper.
Label: folds

::: note
Of rag and pulp, as {see folds} shows.
:::

> Rag was dear.

```python run #a show=output
print("paper")
```

[^n]: A note on paper.

## More

Rag, rag and rag.
"""


_ANCHOR = re.compile('(?<=<h3) id="[^"]*"')
"""What headings are called hangs on their words, and comes with the whole page."""


class Rewording(FolderCase):
    def shown(self, text: str) -> Shown:
        """The page as it is when all of it is put together."""
        self.write("dot.svg", '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
        page = self.write("page.md", text)
        proof = proof_of(Order(page, page.name), SilentReporter(), datetime.date(2026, 3, 2))
        return Shown(proof.source.text, parts_of(proof, "mark"), proof.composed.terms)

    def test_what_shows_at_once_is_what_the_whole_page_shows(self) -> None:
        before, seed, quick = self.shown(PAGE), random.Random(7), 0
        words = [found.span() for found in re.finditer(r"[\w&]+", PAGE)][8:]
        for at in range(90):
            begins, ends = seed.choice(words)
            new = seed.choice(["brass", "a < b & c", "two\nlines", "", "*much*", "x", PAGE[begins:ends] + "s"])
            text = PAGE[:begins] + new + PAGE[ends:]
            now = reworded(before, text, "page.md")
            if now is None:
                continue
            quick += 1
            with self.subTest(at, was=PAGE[begins - 20 : ends + 20], new=new):
                self.assertEqual(now.text, text)
                try:
                    whole = self.shown(text).parts.parts
                except Exception:  # what is at fault shows its fault
                    continue
                changed = [one.line for one, other in zip(now.parts.parts, before.parts.parts, strict=True) if one.html != other.html]  # fmt: skip
                mine, right = ([_ANCHOR.sub("", one.html) for one in parts if one.line in changed] for parts in (now.parts.parts, whole))  # fmt: skip
                self.assertEqual(mine, right)
                self.assertEqual([one.line for one in now.parts.parts], [one.line for one in whole])
        self.assertGreater(quick, 35)

    def test_words_wait_where_more_than_words_is_new(self) -> None:
        before = self.shown(PAGE)
        for old, new in (
            ("Rag was dear.", "Rag was dear.\n>\n> Very."),
            ("Rag, rag and rag.", "# Rag"),
            ("Rag, rag and rag.", "Rag, {= 1 + 1} and rag."),
            ("Rag, rag and rag.", "Rag, rag and rag.\n\nMore."),
            ('print("paper")', 'print("cloth")'),
            ("branch: Quayside", "branch: Millpond"),
            ("A note on paper.", "A note on cloth."),
            ("title: Words", "title: Letters"),
            ("- paper\n", "- [ ] paper\n"),
            ("> Rag was dear.\n\n", "> Rag was dear.\n"),
        ):
            with self.subTest(new):
                self.assertIsNone(reworded(before, PAGE.replace(old, new, 1), "page.md"))
        self.assertIsNone(reworded(before, PAGE, "page.md"))
        self.assertIsNone(reworded(before, PAGE.replace("Rag", "Rag\n"), "page.md"))
        two = reworded(before, PAGE.replace("was dear", "was cheap").replace("Rag, rag", "Pulp, rag"), "page.md")
        assert two is not None
        self.assertEqual(sum(one != other for one, other in zip(two.parts.parts, before.parts.parts, strict=True)), 2)

    def test_words_of_an_inserted_file_are_not_mistaken_for_the_pages(self) -> None:
        self.write("part.md", "Rag was dear.\n")
        text = "Rag was dear.\n\n{insert part.md}\n\nRag was dear, too.\n"
        now = reworded(self.shown(text), text.replace("dear, too", "cheap, too"), "page.md")
        assert now is not None
        self.assertEqual([re.sub("<.*?>", "", one.html) for one in now.parts.parts], ["Rag was dear.", "Rag was dear.", "Rag was cheap, too."])  # fmt: skip
