"""Running text, parsed as by the parser of Markdown, with a note of where each token of it begins."""

from __future__ import annotations

from collections.abc import Sequence

from markdown_it.parser_inline import ParserInline
from markdown_it.rules_inline import StateInline
from markdown_it.token import Token as MdToken

AT = "at"
"""In a token's `meta`: the offset of its first letter in the text of its block."""
END = "end"
"""So where what a rule has made ends, in the last token of it."""


class PlacingParser(ParserInline):
    """Runs the rules that its parent would, and looks after each of them which tokens have come."""

    def tokenize(self, state: StateInline) -> None:
        """Make tokens of what lies before `state.posMax`."""
        rules = self.ruler.getRules("")
        deepest = state.md.options["maxNesting"]
        text_from = state.pos
        """Where the letters begin that are no token yet."""
        while state.pos < state.posMax:
            begin, known, has_text = state.pos, len(state.tokens), bool(state.pending)
            text_from = text_from if has_text else begin
            if not (state.level < deepest and any(rule(state, False) for rule in rules)):
                state.append_pending(state.src[state.pos])
                state.pos += 1
            new = state.tokens[known:]
            if new and has_text and AT not in new[0].meta:
                new[0].meta[AT] = text_from
                new = new[1:]
            _note(new, begin)
            if new and new[-1].type != "text":
                new[-1].meta.setdefault(END, state.pos)
        if state.pending:
            state.pushPending().meta[AT] = text_from


def _note(tokens: Sequence[MdToken], begin: int) -> None:
    """What one rule has made begins where it began; of several signs in a row, each behind the one before it."""
    for token in tokens:
        if AT not in token.meta:  # else it has been noted within
            token.meta[AT] = begin
            begin += len(token.content) if token.type == "text" else 0
