"""A page's HTML in parts, one for each of its blocks, so that only those that changed are sent."""

from __future__ import annotations

import re
from html import escape, unescape
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace
from xxhash import xxh3_64_hexdigest

from wornpage.output.html.hosted import BODY_ENDS
from wornpage.output.kind import Job
from wornpage.output.outputs import USUAL
from wornpage.output.writing import write_as
from wornpage.press import Proof
from wornpage.tree.hosts import HOSTS
from wornpage.tree.nodes import Block


class Part(Struct, frozen=True):
    """The HTML of one block, and where it was written."""

    key: str
    """By what it is made of: two that have the same key look the same."""
    html: str
    file: str
    line: int
    origins: tuple[str, ...] = ()
    """The steps behind what can be asked of in it, in order."""


class Parts(Struct, frozen=True):
    """A whole page; one without parts is shown anew as a whole."""

    shell: str
    """Everything but the parts: they stand where its mark is."""
    shell_key: str
    parts: tuple[Part, ...]

    def difference(self, before: Parts | None) -> dict[str, object]:
        """What turns the page `before` into this one, as plain data."""
        had = {part.key for part in before.parts} if before else set()
        same_shell = before is not None and before.shell_key == self.shell_key
        return {
            "order": [part.key for part in self.parts],
            "lines": [[part.file, part.line] for part in self.parts],
            "new": {part.key: part.html for part in self.parts if part.key not in had},
            "shell": None if same_shell else self.shell,
        }


def part_of(html: str, file: str, line: int) -> Part:
    """A part, with its key; where its values come from is kept beside it, since that names lines, which move."""
    origins = tuple(unescape(found[1]) for found in _FROM.finditer(html))
    html = _FROM.sub(" data-from", html)
    return Part(xxh3_64_hexdigest(html.encode()), html, file, line, origins)


_FROM = re.compile(r' data-from="([^"]*)"')


def parts_of(proof: Proof, mark: str) -> Parts:
    """The page in parts. `mark` is a word that the page cannot know."""

    def marked(block: Block, html: str) -> str:
        return f"<!--{mark} {block.span.line} {escape(block.span.file)}-->{html}<!--/{mark}-->"

    page = proof.source.path
    job = Job(proof.settings.page, page.parent, proof.source.name, source=proof.source.text, mark=marked)
    composed = proof.composed
    if composed.host and USUAL not in HOSTS[composed.host][1]:
        composed = replace(composed, host="")  # its results alone, beside the sheets
    text = write_as(USUAL, composed, job).data.decode()
    if composed.host:
        shell = BODY_ENDS.sub(lambda found: f"<!--{mark}-->{found[0]}", text, count=1)
        return Parts(
            shell if f"<!--{mark}-->" in shell else f"{text}<!--{mark}--></body>", xxh3_64_hexdigest(text.encode()), ()
        )
    found = re.compile(rf"<!--{mark} (\d+) (.*?)-->(.*?)<!--/{mark}-->", re.DOTALL)
    parts = tuple(part_of(m[3], unescape(m[2]), int(m[1])) for m in found.finditer(text))
    first = found.search(text)
    gone = _FROM.sub("", found.sub("", text))
    at = first.start() if first else gone.rindex("</main>")
    shell = gone[:at] + f"<!--{mark}-->" + gone[at:]
    return Parts(shell, xxh3_64_hexdigest(shell.encode()), parts)


def page_with(parts: Parts, mark: str, additions: str) -> str:
    """The whole page, with what makes it live."""
    body = "".join(f"<!--{mark} {place}-->{part.html}" for place, part in enumerate(parts.parts)) + f"<!--{mark}-->"
    return parts.shell.replace(f"<!--{mark}-->", body, 1).replace("</body>", f"{additions}</body>", 1)


def own_file(name: str) -> str:
    """A file of this package."""
    return (Path(__file__).parent / name).read_text(encoding="utf-8")
