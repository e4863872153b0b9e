"""Running text, parsed as by the parser of Markdown, with a note of where each token of it begins."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from markdown_it.parser_inline import ParserInline
from markdown_it.rules_inline import StateInline
from markdown_it.token import Token as MdToken

from wornpage.source.shield import OPEN

AT = "at"
"""In a token's `meta`: the offset of its first letter in the text of its block."""
END = "end"
"""So where what a rule has made ends, in the last token of it."""


Rule = Callable[[StateInline, bool], bool]
_FIRST = {
    "piece": OPEN, "newline": "\n", "escape": "\\", "backticks": "`", "strikethrough": "~", "emphasis": "*_", "link": "[", "image": "!",
    "footnote_inline": "^", "footnote_ref": "[", "autolink": "<", "html_inline": "<", "entity": "&",
}  # fmt: skip
"""Letters with which alone a rule finds anything; one that is not named here may find it anywhere."""


class PlacingParser(ParserInline):
    """Runs the rules that its parent would, and looks after each of them which tokens have come."""

    def tokenize(self, state: StateInline) -> None:
        """Make tokens of what lies before `state.posMax`."""
        rules = self._rules()
        deepest = state.md.options["maxNesting"]
        text_from = state.pos
        """Where the letters begin that are no token yet."""
        while state.pos < state.posMax:
            begin, known, has_text = state.pos, len(state.tokens), bool(state.pending)
            text_from = text_from if has_text else begin
            letter = state.src[begin]
            if state.level < deepest:
                for rule in rules.get(letter) or self._at(letter, rules):
                    if rule(state, False):
                        break
                else:
                    state.append_pending(letter)
                    state.pos += 1
            else:
                state.append_pending(letter)
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

    def _rules(self) -> dict[str, list[Rule]]:
        """Rules by the letter that they begin with, as far as it has been asked for; of those that there are now."""
        now = self.ruler.getRules("")
        known = self.__dict__.get("_by_letter")
        if known is None or known[0] is not now:
            known = self.__dict__["_by_letter"] = now, {}
        rules: dict[str, list[Rule]] = known[1]
        return rules

    def _at(self, letter: str, rules: dict[str, list[Rule]]) -> list[Rule]:
        named = zip(self.ruler.get_active_rules(), self.ruler.getRules(""), strict=True)
        rules[letter] = [rule for name, rule in named if letter in _FIRST.get(name, letter)]
        return rules[letter]


def _note(tokens: Sequence[MdToken], begin: int) -> None:
    """What one rule has made begins where it began; of several signs in a row, each behind the one before it."""
    for token in tokens:
        if AT not in token.meta:  # else it has been noted within
            token.meta[AT] = begin
            begin += len(token.content) if token.type == "text" else 0
