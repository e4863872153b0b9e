"""Our styles over a hundred and ten made-up works, against what another processor of the same style language answered.

The answers are kept as text in `answers.json`. One thing is ours: works stand between semicolons where one of them has a place.
"""

import json
import re
import unittest
from pathlib import Path
from typing import Any

from wornpage.sources.engine import Cluster, Engine
from wornpage.sources.entries import Entry
from wornpage.sources.runs import words
from wornpage.sources.style import read_style
from wornpage.tree.nodes import CiteItem
from wornpage.tree.span import Span

HERE = Path(__file__).parent


def plain(text: str) -> str:
    """Text without what the two do not mean to agree on: kinds of spaces and dashes, semicolons between works."""
    text = re.sub(r"(?<=\d)[-\u2013](?=\d)", "\u2013", re.sub(r"\s+", " ", text))
    return re.sub(r",? for instance", "", text).replace(";", ",").strip()


class Answers(unittest.TestCase):
    def test_nearly_every_line_is_what_the_other_processor_says(self) -> None:
        kept = json.loads((HERE / "answers.json").read_text(encoding="utf-8"))
        entries = {
            one["id"]: Entry(one["id"], {k: v for k, v in one.items() if k != "id"}, Span("w", 1))
            for one in kept["works"]
        }
        for name, wanted in kept["answers"].items():
            said = self.said(name, entries, kept["clusters"])
            asked = wanted["cites"] + [f"{key} {text}" for key, text in sorted(wanted["references"])]
            self.assertEqual(len(said), len(asked))
            other = [(a, b) for a, b in zip(asked, said, strict=True) if plain(a) != plain(b)]
            self.assertLess(len(other), len(asked) / 100, f"{name}: {other[:5]}")

    def said(self, name: str, entries: dict[str, Entry], clusters: list[Any]) -> list[str]:
        """What we say: every citation, then every reference behind its key."""
        style, _ = read_style(name, HERE, "en-GB")
        engine = Engine(style, entries, [one["id"] for cluster in clusters for one in cluster])
        cites = [words(engine.cite(Cluster(tuple(map(item, cluster)), "")).runs) for cluster in clusters]
        return cites + [f"{key} {words(label)} {words(text)}" for key, label, text in sorted(engine.references())]


def item(data: dict[str, str]) -> CiteItem:
    """One work of a citation."""
    prefix, suffix = data.get("prefix", "").strip(), data.get("suffix", "").strip(" ,")
    return CiteItem(data["id"], prefix, data.get("locator", ""), data.get("label", "page"), suffix)
