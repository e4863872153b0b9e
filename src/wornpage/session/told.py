"""What a session tells of code that it has run: the same for chunks and for value marks."""

from __future__ import annotations

from msgspec import Struct

from wornpage.store.trace import Bound


class Found(Struct, frozen=True):
    """What code read, wrote and left behind."""

    reads: tuple[str, ...] = ()
    """Names whose content it used."""
    absent: tuple[str, ...] = ()
    """Names that it asked for in vain."""
    present: tuple[str, ...] = ()
    """Names of which it only asked whether they are there."""
    words: tuple[str, ...] = ()
    """Words of its code that may be names: which of them are names counts, whatever they stand for."""
    sharing: tuple[str, ...] = ()
    """Names whose being held together with others it depends on."""
    listed: bool = False
    """Whether it asked which names there are, or in which order."""
    handed: tuple[str, ...] = ()
    """What it took over from other languages: the language, and the name there."""
    given: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    """Labels of the chunks whose functions and classes it used."""
    packages: tuple[str, ...] = ()
    """Libraries that it used, by the name they are imported by."""
    libraries: tuple[str, ...] = ()
    """Folders of the installed packages that were loaded, of languages whose packages lie in folders of their own."""
    programs: tuple[str, ...] = ()
    """Programs that it may have called, by the words for them."""
    asked_of: tuple[str, ...] = ()
    """Distributions whose metadata it read."""
    modules_read: tuple[str, ...] = ()
    """Modules of the project that it used."""
    coarse: tuple[str, ...] = ()
    """Settings of the session that such code is taken to read."""
    rc: tuple[str, ...] = ()
    """Single settings of the drawing library that it read."""
    environment: dict[str, str] = {}
    """Variables that it read, as the environment has them."""
    files: dict[str, dict[str, str]] = {}
    """By kind of look (`file`, `listing`, `times`, `rights`): paths, and what was found."""
    seed: bool = False
    """Whether it drew random numbers."""
    placed: bool = False
    """Whether it asked where the page's folder lies."""
    spawned: bool = False
    """Whether it started a process, which has the whole environment."""
    network: bool = False
    states: dict[str, str] = {}
    """Of servers that it asked: by address and question, what told that they are as they were."""
    fleeting: str = ""
    """Why nobody can know whether it would do the same again, in words: then it runs each time. Empty where it can be known."""
    names: dict[str, Bound] = {}
    deleted: tuple[str, ...] = ()
    anew: tuple[str, ...] = ()
    ambient: dict[str, str] = {}
    written: tuple[tuple[str, str], ...] = ()
    effects: str = ""
    modules: dict[str, str] = {}
    changed: str = ""
    """What a value mark has changed, in words; empty for nothing, as it should be."""
    globs: dict[str, str] = {}
    """Patterns of files that the chunk is said to read, with what they held before it ran."""
    layouts: tuple[str, ...] = ()
    """Labels of the chunks whose lines what it showed depends on."""


NOTHING_FOUND = Found()
"""Of a session that had come to its end before it could tell anything."""
