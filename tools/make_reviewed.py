"""Make the document that ships with the demo: the paper as a reviewer sent it back, her changes tracked.

Press the demo first, and give the document it made: `tools/make_reviewed.py DEMO/loans-and-acid.docx`.
"""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))
from tests.collate.editing import Editor

TARGET = Path(__file__).parent.parent / "src" / "wornpage" / "demo" / "loans-and-acid.reviewed.docx"


def main() -> None:
    """All her changes."""
    editor = Editor(Path(sys.argv[1]), "Rosa Lindgren")
    editor.replace("have long suspected", "have suspected for a century")
    editor.replace("Alum and rosin, the size of most papers", "Alum and rosin, the usual size of papers")
    editor.look("both", "i")
    editor.replace("Wood pulp is the commonest paper", "Wood pulp is by far the commonest paper")
    editor.replace("1,190 leaves", "1,200 leaves")
    editor.split("Climate, the third suspect")
    editor.delete(": what is popular is also newer")
    editor.after(
        "take the acid out, and lend on", "A second library should repeat the study before anybody acts on it."
    )
    editor.replace("the readers of five branches", "the readers and porters of five branches")
    editor.comment("were avoided", "How was glue told from size?", "Rosa Lindgren")
    editor.comment("costs a leaf about as much", "I would show this as a figure.", "Rosa Lindgren")
    editor.save(TARGET)


if __name__ == "__main__":
    main()
