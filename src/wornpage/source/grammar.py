"""The Markdown parser: CommonMark, the shared extensions, and the few rules of our own."""

from __future__ import annotations

import re
from functools import cache

from markdown_it import MarkdownIt
from markdown_it.ruler import RuleOptionsType
from markdown_it.rules_block import StateBlock
from markdown_it.rules_inline import StateInline
from mdit_py_plugins.container import container_plugin
from mdit_py_plugins.deflist import deflist_plugin
from mdit_py_plugins.footnote import footnote_plugin

from wornpage.source.shield import OPEN, RUN, index_of

CAPTION = re.compile(r"(Caption)(?: \((table|figure)\))?:(?:[ \t]|$)|(Label):[ \t]*(?=\S)")


@cache
def grammar() -> MarkdownIt:
    """The parser, made once."""
    markdown = MarkdownIt("commonmark", {"html": True})
    markdown.enable(["table", "strikethrough"])
    deflist_plugin(markdown)
    footnote_plugin(markdown)
    container_plugin(markdown, "box", validate=lambda params, _: bool(params.strip()))
    interrupts: RuleOptionsType = {"alt": ["paragraph", "reference", "blockquote", "list"]}
    markdown.block.ruler.before("table", "caption", _caption, interrupts)
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
