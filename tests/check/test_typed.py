"""Numbers typed by hand that the page has computed."""

from __future__ import annotations

from tests.support import FolderCase
from wornpage.check import check_page
from wornpage.press import press

PAGE = """
---
title: Typed
language: LANGUAGE
CHECK
---

```python run #a
n = 1208; share = 0.14569; year = 2026; mean = 3.14159
```

{= n as thousands}, {= share as percent}, {= year}, {= mean as 2 decimals}, {= given.n if False else 77}.

TEXT
"""


class Typed(FolderCase):
    def found(self, text: str, language: str = "en", check: str = "") -> list[tuple[int, str]]:
        """Columns, and what to write instead, after a pressing without that text."""
        page = (
            PAGE.replace("LANGUAGE", language)
            .replace("CHECK", check)
            .replace("{= given.n if False else 77}", "{= 70 + 7}")
        )
        press(self.write("page.md", page.replace("TEXT", "")), ["html"])
        self.write("page.md", page.replace("TEXT", text))
        problems = [
            one.problem for one in check_page(self.folder / "page.md", "page.md") if one.rule == "typed-numbers"
        ]
        return [(one.span.column, one.hint.partition("`")[2].partition("`")[0]) for one in problems]

    def test_they_are_told_with_what_to_write(self) -> None:
        self.assertEqual(
            self.found("There were 1,208 (14.6%), *3.14* of them, and 1208."),
            [(12, "{= n as thousands}"), (19, "{= share as percent}"), (28, "{= mean as 2 decimals}"), (47, "{= n}")],
        )
        self.assertEqual(self.found("Es waren 1.208.", "de"), [(10, "{= n as thousands}")])

    def test_what_may_be_there_by_chance_or_is_no_prose_is_not(self) -> None:
        for text in (
            "In 2026.",
            "All 77.",
            "`1,208`",
            "11,208 and 1,2089",
            "[1,208](https://a.example/1208)",
            "$1208$",
            "v1.208 and x-1208",
            "```text\n1,208\n```",
        ):
            with self.subTest(text):
                self.assertEqual(self.found(text), [])

    def test_it_can_be_off(self) -> None:
        self.assertEqual(self.found("1,208", check="check: {typed-numbers: off}"), [])
