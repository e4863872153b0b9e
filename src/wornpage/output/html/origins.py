"""Where values, figures and tables come from, within the page: what its readers may ask, offline."""

from __future__ import annotations

import json
from html import escape
from pathlib import Path

from wornpage.lineage.steps import Lineage, Named, Source
from wornpage.lineage.telling import Told, told_of
from wornpage.lineage.tracing import key_of_mark
from wornpage.output.html.scripts import OF_ORIGINS, own_script
from wornpage.tree import nodes as n
from wornpage.tree.language import Language

_TERMS = ("origin", "choose", "close", "exact", "columns", "rows", "libraries", "seed", "given", "code")
_SHORT = 12
"""Digits of a hash that are told."""


def origins_style() -> str:
    """The looks of what is asked with."""
    return (Path(__file__).parent / "origins.css").read_text(encoding="utf-8").strip()


class Asked:
    """Marks what can be asked of by the keys of steps, for a proof, whose server answers."""

    def of_mark(self, node: n.Answered) -> str:
        """The attribute of a value; empty for one that no step of the page made."""
        return self.attribute(key_of_mark(node.span)) if node.is_value else ""

    def of_chunk(self, label: str) -> str:
        """That of something a chunk shows."""
        return self.attribute(label)

    def attribute(self, key: str) -> str:
        """That of a step."""
        return f' data-from="{escape(key)}"'

    def script(self, terms: Language) -> str:
        """What answers within the page."""
        return ""


class Origins(Asked):
    """The steps of one page, each under a number once something of it is shown."""

    def __init__(self, lineage: Lineage, page: str) -> None:
        """For the page called so: places are told as from its folder, wherever that lies."""
        self._lineage = lineage
        self._before = page[: page.rfind("/") + 1]
        self._numbers: dict[str, int] = {}

    def attribute(self, key: str) -> str:
        """That of a step, by its number; empty for none."""
        return f' data-from="{self._number(key)}"' if key in self._lineage.steps else ""

    def _number(self, key: str) -> int:
        return self._numbers.setdefault(key, len(self._numbers))

    # --- what the script reads ----------------------------------------------------------------

    def script(self, terms: Language) -> str:
        """The steps, the words and the script, which wants `origins_style`; empty where nothing can be asked."""
        if not self._numbers:
            return ""
        held = json.dumps(self._told(terms), ensure_ascii=False, separators=(",", ":")).replace("<", "\\u003c")
        data = f'<script type="application/json" id="worn-origins">{held}</script>'
        return f"{data}\n<script>{own_script(OF_ORIGINS)}</script>"

    def answer(self, key: str, terms: Language) -> dict[str, object]:
        """All that is told of one step, and which of the steps it is. Raises `LookupError` for none."""
        if key not in self._lineage.steps:
            raise LookupError(key)
        return {"first": self._number(key), **self._told(terms)}

    def _told(self, terms: Language) -> dict[str, object]:
        steps: list[dict[str, object]] = []
        within = set(self._lineage.steps)
        while len(steps) < len(self._numbers):  # steps that are told of name others
            key = list(self._numbers)[len(steps)]
            steps.append(self._step(told_of(self._lineage.steps[key], self._lineage, within)))
        return {"steps": steps, "words": {name: terms.readers[name] for name in _TERMS}}

    def _step(self, told: Told) -> dict[str, object]:
        step = told.step
        made: dict[str, object] = {"place": str(step.span).removeprefix(self._before), "code": step.code.strip("\n")}
        if step.kind == "chunk":
            made["label"] = step.label  # not when it ran: pages are the same bytes again
        elif step.value is not None:
            made["value"] = str(step.value)
        takes = [
            {"from": self._number(taken.key), "names": taken.names, **_named(*(one for _, one in taken.named))}
            for taken in told.takes
        ]
        files = [{"file": source.name, "hash": source.value[:_SHORT], **_named(named)} for source, named in told.files]
        return made | {"takes": takes, "files": files, "others": [_other(one) for one in told.others]}


def _named(*several: Named) -> dict[str, list[str]]:
    columns = list(dict.fromkeys(column for one in several for column in one.columns))
    rows = list(dict.fromkeys(row for one in several for row in one.rows))
    return {name: held for name, held in (("columns", columns), ("rows", rows)) if held}


def _other(source: Source) -> tuple[str, str, str]:
    return source.kind, source.name, source.value[:_SHORT] if source.kind == "module" else source.value
