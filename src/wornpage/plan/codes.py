"""What a chunk's code is, without comments and layout; and which names it mentions."""

from __future__ import annotations

import hashlib
import sys
from collections.abc import Iterable, Sequence
from pathlib import Path

from wornpage.plan.bound_first import bound_first
from wornpage.plan.sight import Sight
from wornpage.session.language import CodeReader
from wornpage.session.languages import known
from wornpage.store.addresses import digest
from wornpage.tree.nodes import Chunk

ENGINE = "25"
"""Changes whenever running or recording changes its meaning."""


def reader_of(language: str) -> CodeReader:
    """How the code of a language is read. Raises `LookupError` for a language that there is not."""
    return known(language).code


def layout(code: str) -> str:
    """A hash of the code as written."""
    return hashlib.blake2b(code.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def code_key(chunk: Chunk, options: Iterable[object], threads: int | None) -> str:
    """The address under which a chunk's traces lie: its code, the options that change what it makes, the interpreter."""
    language = known(chunk.language)
    return digest(
        "chunk", ENGINE, language.name, language.version, language.code.normal_form(chunk.code), chunk.binds,
        list(options), threads, sys.platform,
    )  # fmt: skip


def sight_of(codes: Sequence[tuple[str, str]], folder: Path | None = None) -> Sight:
    """What the code of a page (language and text), and of the modules beside it that it imports, asks for."""
    asked: set[str] = set()
    for language, code in codes:
        asked |= reader_of(language).asks_for(code)
    if folder is not None:
        for language in {language for language, _ in codes}:
            for text in _modules_beside([code for one, code in codes if one == language], language, folder):
                asked |= reader_of(language).asks_for(text)
    return Sight(**dict.fromkeys(asked, True))


def _modules_beside(codes: list[str], language: str, folder: Path) -> list[str]:
    suffix, read = known(language).suffixes[0], reader_of(language)
    texts = []
    for name in sorted(set().union(*map(read.imported, codes))):
        try:
            texts.append((folder / f"{name}{suffix}").read_text(encoding="utf-8", errors="replace"))
        except OSError:
            continue
    return texts


def language_name(word: str) -> str:
    """The name of the language that a word stands for. Raises `LookupError`."""
    return known(word).name


class Definitions:
    """The functions and classes that chunks define, by language: for each the names it mentions."""

    def __init__(self, chunks: Iterable[Chunk]) -> None:
        self._found: dict[str, dict[str, set[str]]] = {}
        for chunk in chunks:
            language = known(chunk.language)
            found = self._found.setdefault(language.name, {})
            for name, names in language.code.definitions(chunk.code).items():
                found.setdefault(name, set()).update(names)

    def asked_for(self, code: str, language: str) -> set[str]:
        """The same without names that the code gives a value first."""
        given = bound_first(code) if language_name(language) == "python" else frozenset()
        return self.reachable(code, language, given)

    def reachable(self, code: str, language: str, but_for: frozenset[str] = frozenset()) -> set[str]:
        """Names mentioned by code, and by every function and class of the page that it reaches through them.

        Those that are mentioned by code alone, and are in `but_for`, are left out.
        """
        known = self._found.get(language_name(language), {})
        found: set[str] = set()
        todo = set(reader_of(language).mentioned(code)) - but_for
        while todo:
            name = todo.pop()
            if name not in found:
                found.add(name)
                todo |= known.get(name, set()) - found
        return found
