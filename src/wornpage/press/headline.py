"""Expressions in the settings whose values are asked for beside those of the page: what an index shows, what a workbook names."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from wornpage.compose.language import language_of
from wornpage.compose.values import FormFault, write_value
from wornpage.output.kind import Result
from wornpage.plan.record import Record
from wornpage.settings import Settings
from wornpage.settings.yaml_text import Path
from wornpage.source.marks.verbs import value_parts, verb_of
from wornpage.tree.brackets import split_form
from wornpage.tree.nodes import ValueMark

OF_EDITIONS: Path = ("editions", "headline")
OF_WORKBOOKS: Path = ("press", "xlsx", "results")


class Headline:
    """Expressions by the words that they go by, as one setting has them."""

    def __init__(self, settings: Settings, expressions: Mapping[str, str], setting: Path) -> None:
        self.settings, self.expressions = settings, expressions
        self.marks: list[ValueMark] = []
        for number, expression in enumerate(expressions.values()):
            at = settings.place(*setting)
            language, body = _parts(expression)
            words, form = split_form(body)
            within = f"{setting[-1]} {number + 1}"
            self.marks.append(ValueMark(replace(at, within=within), words, form, language=language))

    def shown(self, record: Record) -> dict[str, str]:
        """The value of each, in words."""
        language = language_of(self.settings.page.language)
        found = {}
        for words, mark in zip(self.expressions, self.marks, strict=True):
            answer = record.answers.get(mark.span)
            try:
                found[words] = write_value(answer, mark.form, None, language) if answer else ""
            except FormFault:
                found[words] = str(answer.value) if answer else ""
        return found

    def results(self, record: Record) -> dict[str, Result]:
        """The value of each, as data."""
        told = zip(self.expressions, self.marks, strict=True)
        answers = ((words, mark, record.answers.get(mark.span)) for words, mark in told)
        return {words: Result(one.type, one.value, mark.form) for words, mark, one in answers if one is not None}


def for_editions(settings: Settings) -> Headline:
    """What the index of editions shows."""
    return Headline(settings, settings.page.editions.headline, OF_EDITIONS)


def for_workbooks(settings: Settings) -> Headline:
    """What workbooks name."""
    return Headline(settings, settings.page.press.xlsx.results, OF_WORKBOOKS)


def _parts(expression: str) -> tuple[str, str]:
    """The word of a language, and an expression without the braces of a mark, which some write around it."""
    bare = expression.strip()
    if verb_of(bare) != "=" or not bare.endswith("}"):
        return "", bare
    language, body = value_parts(bare)
    return language, body.strip()
