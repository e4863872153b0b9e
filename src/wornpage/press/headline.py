"""What an index of editions shows of each."""

from __future__ import annotations

from msgspec.structs import replace

from wornpage.compose.language import language_of
from wornpage.compose.values import FormFault, write_value
from wornpage.plan.record import Record
from wornpage.settings import Settings
from wornpage.source.marks.verbs import value_parts, verb_of
from wornpage.tree.brackets import split_form
from wornpage.tree.nodes import ValueMark


class Headline:
    """Expressions whose values an index shows for each edition."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.marks: list[ValueMark] = []
        for number, expression in enumerate(settings.page.editions.headline.values()):
            at = settings.place("editions", "headline")
            language, body = _parts(expression)
            words, form = split_form(body)
            self.marks.append(ValueMark(replace(at, within=f"headline {number + 1}"), words, form, language=language))

    def shown(self, record: Record) -> dict[str, str]:
        """The value of each, in words."""
        language = language_of(self.settings.page.language)
        found = {}
        for words, mark in zip(self.settings.page.editions.headline, self.marks, strict=True):
            answer = record.answers.get(mark.span)
            try:
                found[words] = write_value(answer, mark.form, None, language) if answer else ""
            except FormFault:
                found[words] = str(answer.value) if answer else ""
        return found


def _parts(expression: str) -> tuple[str, str]:
    """The word of a language, and an expression without the braces of a mark, which some write around it."""
    bare = expression.strip()
    if verb_of(bare) != "=" or not bare.endswith("}"):
        return "", bare
    language, body = value_parts(bare)
    return language, body.strip()
