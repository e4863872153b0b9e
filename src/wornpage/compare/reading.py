"""What a file that we write says, as a record that can be compared; and which files are such."""

from __future__ import annotations

import re
from pathlib import Path

from msgspec.structs import replace

from wornpage.showing.files import READ, said_in
from wornpage.showing.parts import Showing, Words
from wornpage.source import read_page
from wornpage.tree.hosts import HOSTS
from wornpage.tree.problem import UsageError, has_errors


def read_file(path: Path) -> Showing:
    """What a file says. Raises `UsageError` for a kind that is not read, and for a file that is none of its kind."""
    suffix = path.suffix.lower()
    if suffix not in READ:
        raise UsageError(f"{path} cannot be compared; files that can end in {', '.join(sorted(READ))}.")
    try:
        texts = [" ".join(text.split()) for text in said_in(suffix, path.read_bytes())]
    except OSError as error:
        raise UsageError(f"{path} cannot be read: {error.strerror}.") from None
    except ValueError as error:
        raise UsageError(f"{path} is no file of its kind: {error}.") from None
    parts = tuple(Words("paragraph", text, path.name) for text in texts if text)
    return Showing("", parts, page=path.name, when=path.stat().st_mtime)


def read_both(one: Path, other: Path) -> tuple[Showing, Showing]:
    """What two files say; sentence by sentence where one of them knows lines and no paragraphs. Raises `UsageError`."""
    first, second = read_file(one), read_file(other)
    if ".pdf" in {one.suffix.lower(), other.suffix.lower()}:
        return _in_sentences(first), _in_sentences(second)
    return first, second


def _in_sentences(showing: Showing) -> Showing:
    text = "\n".join(part.text for part in showing.parts if isinstance(part, Words))
    text = re.sub(r"(?<=\w)[-\u00ad\u2010]\n(?=[a-zß-ÿ])", "", text)
    sentences = re.split(r"(?<=[.?!:])\s+(?=[^a-zß-ÿ])", " ".join(text.split()))
    place = showing.parts[0].place if showing.parts else ""
    return replace(showing, parts=tuple(Words("paragraph", one, place) for one in sentences))


def is_output(path: Path) -> bool:
    """Whether a file is one of those that are written of a page, and no page itself. Raises `PageError` for one that cannot be read."""
    suffix = path.suffix.lower()
    if suffix in HOSTS:
        page = read_page(path)
        return not page.blocks and not has_errors(page.problems)
    return suffix in READ - {".md", ".txt"}
