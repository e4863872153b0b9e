"""The Markdown parser: CommonMark, the shared extensions, and the few rules of our own."""

from __future__ import annotations

import re
from functools import cache

from markdown_it import MarkdownIt
from markdown_it.ruler import RuleOptionsType
from markdown_it.rules_block import StateBlock, html_block
from markdown_it.rules_inline import StateInline
from mdit_py_plugins.deflist import deflist_plugin
from mdit_py_plugins.footnote import footnote_plugin

from wornpage.source.placing import PlacingParser
from wornpage.source.shield import OPEN, RUN, index_of

CAPTION = re.compile(r"(Caption)(?: \((table|figure)\))?:(?:[ \t]|$)|(Label):[ \t]*(?=\S)")


DEEPEST = 100
"""How deep tokens may lie in each other; what lies deeper is dropped by the parser, and told by the builder."""


@cache
def grammar() -> MarkdownIt:
    """The parser, made once."""
    markdown = MarkdownIt("commonmark", {"html": True, "maxNesting": DEEPEST})
    markdown.enable(["table", "strikethrough"])
    inline = PlacingParser()
    inline.ruler, inline.ruler2 = markdown.inline.ruler, markdown.inline.ruler2
    markdown.inline = inline
    markdown.disable(["fragments_join", "text_join"])  # each keeps its place; they are joined when they are nodes
    deflist_plugin(markdown)
    footnote_plugin(markdown)
    interrupts: RuleOptionsType = {"alt": ["paragraph", "reference", "blockquote", "list"]}
    markdown.block.ruler.before("fence", "container_box", _box, interrupts)
    markdown.block.ruler.before("table", "caption", _caption, interrupts)
    markdown.block.ruler.before("caption", "block_attributes", _block_attributes, interrupts)
    markdown.block.ruler.at("html_block", _html, {"alt": ["paragraph", "reference", "blockquote"]})
    markdown.inline.ruler.before("text", "piece", _piece)
    markdown.inline.add_terminator_char(OPEN)
    return markdown


def _piece(state: StateInline, silent: bool) -> bool:
    """A run of noncharacters that stands for a mark, mathematics or an attribute list."""
    if state.src[state.pos] != OPEN:
        return False
    match = RUN.match(state.src, state.pos)
    if not match:
        return False
    if not silent:
        state.push("piece", "", 0).meta = {"index": index_of(match)}
    state.pos = match.end()
    return True


_OPENS = re.compile(r"(:{3,})[ \t]*(\S.*)$")
_CLOSES = re.compile(r"(:{3,})[ \t]*$")
_FENCE = re.compile(r"(`{3,}|~{3,})")


def _box(state: StateBlock, start: int, end: int, silent: bool) -> bool:
    """A `:::` block; others may stand in it, with as many colons or fewer."""
    opening = _OPENS.match(_line(state, start))
    if opening is None or state.is_code_block(start):
        return False
    if silent:
        return True
    last, closed = _box_end(state, start, end, len(opening[1]))
    parent, line_max = state.parentType, state.lineMax
    state.parentType, state.lineMax = "container", last
    token = state.push("container_box_open", "div", 1)
    token.markup, token.block, token.info, token.map = opening[1], True, opening[2], [start, last]
    state.md.block.tokenize(state, start + 1, last)
    token = state.push("container_box_close", "div", -1)
    token.block = True
    state.parentType, state.lineMax = parent, line_max
    state.line = last + (1 if closed else 0)
    return True


def _html(state: StateBlock, start: int, end: int, silent: bool) -> bool:
    """A block of HTML; `<img>` begins none, so that a caption may stand below it as below other images."""
    return not _line(state, start).lower().startswith("<img") and html_block(state, start, end, silent)


def _line(state: StateBlock, number: int) -> str:
    return state.src[state.bMarks[number] + state.tShift[number] : state.eMarks[number]]


def _box_end(state: StateBlock, start: int, end: int, colons: int) -> tuple[int, bool]:
    """The line that closes the block that opens at `start`, or where it breaks off, and whether it is closed."""
    inner: list[int] = []
    fence = ""
    for number in range(start + 1, end):
        text = _line(state, number)
        if text and state.sCount[number] < state.blkIndent:
            return number, False  # a line further out ends a block in a list
        mark = _FENCE.match(text)
        if fence:
            fence = "" if mark and mark[1].startswith(fence) and not text.strip(mark[1][0]).strip() else fence
        elif mark:
            fence = mark[1]
        elif closing := _CLOSES.match(text):
            count = len(closing[1])
            if count >= colons and (not inner or colons > inner[-1]):
                return number, True
            if inner and count >= inner[-1]:
                inner.pop()
        elif opening := _OPENS.match(text):
            inner.append(len(opening[1]))
    return end, False


_BLOCK_ATTRIBUTES = re.compile(r"\{[ \t]*steps=[^{}\s]+[ \t]*\}[ \t]*$")


def _block_attributes(state: StateBlock, start: int, end: int, silent: bool) -> bool:
    """A line with an attribute list for the block above it, such as `{steps=yes}`."""
    text = _line(state, start)
    if not text.startswith("{") or state.is_code_block(start) or not _BLOCK_ATTRIBUTES.match(text):
        return False
    if not silent:
        token = state.push("block_attributes", "", 0)
        token.map, token.content = [start, start + 1], text.strip()
        state.line = start + 1
    return True


def _caption(state: StateBlock, start: int, end: int, silent: bool) -> bool:
    """A `Caption:` or `Label:` line, up to the next blank line."""
    if state.is_code_block(start):
        return False
    begin = state.bMarks[start] + state.tShift[start]
    match = CAPTION.match(state.src, begin, state.eMarks[start])
    if not match:
        return False
    if silent:
        return True
    line = start + 1
    while line < end and not state.isEmpty(line) and state.sCount[line] >= state.blkIndent:
        following = state.bMarks[line] + state.tShift[line]
        if CAPTION.match(state.src, following, state.eMarks[line]):
            break
        line += 1
    token = state.push("caption_open", "", 1)
    token.map = [start, line]
    token.meta = {"word": match[1] or match[3], "kind": match[2] or ""}
    inline = state.push("inline", "", 0)
    inline.content = state.getLines(start, line, state.blkIndent, False).lstrip()[match.end() - begin :].strip()
    inline.map = [start, line]
    inline.children = []
    state.push("caption_close", "", -1)
    state.line = line
    return True
