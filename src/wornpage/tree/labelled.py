"""Labels as code gives them. Imports nothing: sessions use it too."""

from __future__ import annotations


def label_of(text: object) -> str:
    """A label made of what a label may hold: `acid in Harrow Lane` becomes `acid-in-Harrow-Lane`."""
    bare = str(text).strip().removeprefix("#")
    return "".join(letter if letter.isalnum() or letter in "-_.:" else "-" for letter in bare)
