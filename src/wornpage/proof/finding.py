"""Labels and works found by their words, while a page is written in its proof."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from pathlib import Path

from wornpage.press import Proof
from wornpage.sources import Library, read_library
from wornpage.sources.adding import add_by_doi
from wornpage.sources.care import found, told
from wornpage.sources.collecting import bibtex_file, collection, take_over
from wornpage.tree import nodes as n
from wornpage.tree.problem import UsageError
from wornpage.tree.walk import walk, words_of

_MOST = 12
"""Of each kind."""
_DOI = re.compile(r"10\.\d{4,9}/\S+")
_RESOLVER = "https://doi.org/"


def everything(proof: Proof, words: str) -> list[dict[str, str]]:
    """What fits words: what it is called, the mark for it, and for works that the page does not have where they come from."""
    wanted = words.casefold().split()
    if not wanted:
        return []
    made = [
        {"kind": "label", "said": said, "mark": f"{{see {label}}}"}
        for label, said in _labels(proof)
        if all(word in f"{label} {said}".casefold() for word in wanted)
    ][:_MOST]
    own = _own(proof)
    made += [{"kind": "work", "said": told(one), "mark": f"{{cite {one.key}}}"} for one in found(own, wanted)[:_MOST]]
    further = [one for one in found(_others(proof), wanted) if one.key not in own.entries][:_MOST]
    made += [{"kind": "library", "said": told(one), "take": one.key} for one in further]
    if not made and (doi := _DOI.search(words)):
        made.append({"kind": "doi", "said": f"ask for {doi[0]}", "take": doi[0]})
    return made


def taken(proof: Proof, what: str) -> str:
    """The mark for a work that is written into the page's bibliography: one of the library by its key, or one by its DOI. Raises `UsageError`."""
    file = bibtex_file(proof.settings.page.bibliography, proof.source.path.parent)
    entry = _others(proof).entries.get(what)
    if entry is not None:
        return f"{{cite {take_over(entry, file, _own(proof))}}}"
    if not _DOI.fullmatch(what):
        raise UsageError(f"there is no work {what!r} in the library.")
    key, _ = add_by_doi(what, os.environ.get("WORN_RESOLVER", _RESOLVER), file, _own(proof))
    return f"{{cite {key}}}"


def _own(proof: Proof) -> Library:
    settings = proof.settings
    places = [(name, settings.place("bibliography", at)) for at, name in enumerate(settings.page.bibliography)]
    return read_library(places, proof.source.path.parent)


def _others(proof: Proof) -> Library:
    return collection(proof.settings.page.library, Path(proof.source.path.parent))


def _labels(proof: Proof) -> Iterator[tuple[str, str]]:
    """Labels of all that can be pointed to, and what it is called."""
    for node in walk(proof.composed.blocks):
        match node:
            case n.Figure(label=label, word=word, number=number, caption=caption) if label:
                yield label, f"{word} {number}  {words_of(caption)}"
            case n.TableBlock(label=label, word=word, number=number, caption=caption) if label:
                yield label, f"{word} {number}  {words_of(caption)}"
            case n.CodeBlock(label=label, word=word, number=number, caption=caption) if label:
                yield label, f"{word} {number}  {words_of(caption)}"
            case n.MathBlock(label=label, number=number, alt=alt) if label:
                yield label, f"({number})  {alt}"
            case n.Heading(label=label, number=number, children=children) if label:
                yield label, f"{number}  {words_of(children)}".strip()
