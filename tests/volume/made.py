"""A small volume with one of everything, for tests."""

import json
from pathlib import Path

from tests.support import FolderCase, worn

VOLUME = """
title: The handbook & more
subtitle: How paper is kept
authors: [{name: Imke Sandoval, affiliation: Conservation Laboratory}]
date: 2026-03-09
abstract: What *everybody* should know.
name: handbook
front: [preface.md]
pages: [chapters/paper.md]
parts:
  - title: Damp
    pages: [chapters/damp*.md]
  - {title: Branches, pages: [{editions-of: branch.md, only: "Q*, N*"}]}
appendix: [terms.md]
lists: [figures, tables]
bibliography: refs.bib
source-link: "https://marlow.example/edit/{path}#L{line}"
report-link: "https://marlow.example/new?title={title}&body={body}"
downloads: [code, data]
address: https://handbook.example/
"""
PAGES = {
    "refs.bib": """
        @book{reed, author = {Reed, Ann}, title = {Damp}, year = {2001}, publisher = {Quay}}
        @book{moss, author = {Moss, Bob}, title = {Acid}, year = {2002}, publisher = {Quay}}
        """,
    "preface.md": """
        ---
        title: Preface
        ---

        It begins with {see paper} and {see damp-2}; look at {see sheets, hum}. {cite moss}
        """,
    "chapters/paper.md": """
        # Paper {#paper-itself}

        Paper is thin {cite reed}; {see glue/intro} {see terms}, {see damp-2/intro}. [There](#damp-10).{index fibre}

        ## Kinds {#kinds}

        ```python run #plot
        import matplotlib.pyplot as plt
        _ = plt.plot(open("../data.csv").read().split(",")[:0])
        ```
        Caption: A line.

        | n |
        |---|
        | 1 |

        Caption: Sheets.
        Label: sheets
        """,
    "chapters/damp-2.md": """
        ---
        title: Rain
        ---
        # Intro {#intro}

        Wet words; see {see intro}.[^a]{index damp: of walls}

        [^a]: A note with $x^2\u2009$.

        $$ h = 1 $$
        Label: hum
        """,
    "chapters/damp-10.md": """
        ---
        title: Fog
        abstract: How fog comes in.
        ---
        # Intro {#intro}

        Grey words {see plot}.{index damp}{index mist see damp}

        $$ f = 1 $$
        Label: fog
        """,
    "branch.md": """
        ---
        title: "{= given.branch}"
        given: {branch: Quayside}
        editions: {combine: {branch: [Quayside, Millpond, North Gate]}, name: "{= given.branch}"}
        ---
        The branch of {= given.branch.upper()}, {see hum}.
        """,
    "terms.md": """
        ---
        title: Terms
        ---
        # Of paper

        漢字検索 and Großmutter's naïve words.
        """,
    "data.csv": "1,2",
}


class VolumeCase(FolderCase):
    """A test with a volume in its folder."""

    def setUp(self) -> None:
        super().setUp()
        self.write("volume.yaml", VOLUME)
        self.write("worn.yaml", "language: en-GB\n")
        for name, text in PAGES.items():
            self.write(name, text.replace("{see glue/intro} ", ""))

    def bound(self, *arguments: str, status: int = 0) -> dict[str, object]:
        """What `worn bind --json` says."""
        done = worn("bind", "--json", *arguments, folder=self.folder)
        self.assertEqual(done.returncode, status, done.stdout + done.stderr)
        found: dict[str, object] = json.loads(done.stdout)
        return found

    def page(self, name: str) -> str:
        return (self.folder / "bound" / name).read_text(encoding="utf-8")

    def files(self) -> list[str]:
        root = self.folder / "bound"
        return sorted(path.relative_to(root).as_posix() for path in root.rglob("*") if path.is_file())

    def change(self, name: str, old: str, new: str) -> Path:
        text = (self.folder / name).read_text(encoding="utf-8")
        self.assertIn(old, text)
        (self.folder / name).write_text(text.replace(old, new), encoding="utf-8")
        return self.folder / name
