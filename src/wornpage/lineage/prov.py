"""An answer in the interchange format of the W3C's provenance model: PROV-JSON, <https://www.w3.org/submissions/prov-json/>."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from typing import Any
from urllib.parse import quote

from wornpage.lineage.steps import Source, Step
from wornpage.lineage.telling import Answer, Taken, Told
from wornpage.tree.version import VERSION

_PREFIX = {"worn": "urn:wornpage:", "xsd": "http://www.w3.org/2001/XMLSchema#"}
_PROGRAM = "worn:program"


def prov_of(answers: Iterable[Answer]) -> dict[str, Any]:
    """One document for all answers; what they share stands in it once."""
    document = _Document()
    for number, answer in enumerate(answers, 1):
        document.answer(answer, number)
    return document.data


class _Document:
    def __init__(self) -> None:
        self.data: dict[str, Any] = {"prefix": _PREFIX, "entity": {}, "activity": {}, "agent": {}}
        self.data["agent"][_PROGRAM] = {
            "prov:type": _name("prov:SoftwareAgent"),
            "prov:label": f"Worn Page {VERSION}",
        }
        self._related: dict[tuple[str, ...], str] = {}

    def answer(self, answer: Answer, number: int) -> None:
        """The thing that was asked for, and all that it comes from."""
        target = answer.target
        shown = f"worn:shown-{number}"
        told = {
            "prov:type": target.kind,
            "worn:place": str(target.span),
            "prov:value": target.said,
            "worn:label": target.label,
        }
        first = answer.steps[0].step if answer.steps else None
        if target.exact or (first is not None and first.kind == "mark"):
            told["worn:exact"] = target.exact or str(first.value if first is not None else "")
        self.entity(shown, told)
        for one in answer.steps:
            self.step(one)
        if first is not None:
            self.relate("wasGeneratedBy", entity=shown, activity=_run(first))
            for taken in answer.steps[0].takes:
                for name in taken.names:
                    self.relate("wasDerivedFrom", generatedEntity=shown, usedEntity=_held(taken.key, name))

    def step(self, told: Told) -> None:
        """A run: what it used, by which code, and what it left."""
        step, run = told.step, _run(told.step)
        about: dict[str, Any] = {"prov:type": step.kind, "worn:place": str(step.span), "worn:language": step.language}
        if step.at:
            ended = datetime.datetime.fromtimestamp(step.at, datetime.UTC)
            begun = ended - datetime.timedelta(seconds=step.seconds)
            about |= {"prov:startTime": begun.isoformat(), "prov:endTime": ended.isoformat()}
        self.data["activity"][run] = about
        plan = f"worn:code/{_safe(step.key)}"
        self.entity(plan, {"prov:type": _name("prov:Plan"), "prov:value": step.code})
        self.relate("wasAssociatedWith", activity=run, agent=_PROGRAM, plan=plan)
        for taken in told.takes:
            self.taken(run, taken)
        for source, named in told.files:
            more = {"worn:columns": list(named.columns)} if named.columns else {}
            self.relate("used", activity=run, entity=self.source(source), **more)
        for source in told.others:
            self.relate("used", activity=run, entity=self.source(source))

    def taken(self, run: str, taken: Taken) -> None:
        """Names that another step had left."""
        named = dict(taken.named)
        for name in taken.names:
            held = _held(taken.key, name)
            self.entity(held, {"prov:type": "name", "prov:label": name})
            self.relate("wasGeneratedBy", entity=held, activity=f"worn:run/{_safe(taken.key)}")
            more = {"worn:columns": list(named[name].columns)} if name in named and named[name].columns else {}
            self.relate("used", activity=run, entity=held, **more)

    def source(self, source: Source) -> str:
        """Something from outside of the page."""
        key = f"worn:{source.kind}/{_safe(source.name)}"
        says = "worn:hash" if source.kind in {"file", "module"} else "prov:value"
        self.entity(key, {"prov:type": source.kind, "prov:label": source.name or source.kind, says: source.value})
        return key

    def entity(self, key: str, about: dict[str, Any]) -> None:
        """A thing, by its key."""
        self.data["entity"][key] = {name: value for name, value in about.items() if value not in ("", None)}

    def relate(self, relation: str, **roles: Any) -> None:
        """A relation, once."""
        key = (relation, *(str(value) for value in roles.values()))
        if key in self._related:
            return
        self._related[key] = f"_:r{len(self._related) + 1}"
        told = {role if ":" in role else f"prov:{role}": value for role, value in roles.items()}
        self.data.setdefault(relation, {})[self._related[key]] = told


def _run(step: Step) -> str:
    return f"worn:run/{_safe(step.key)}"


def _held(writer: str, name: str) -> str:
    return f"worn:name/{_safe(writer)}/{_safe(name)}"


def _safe(words: str) -> str:
    return quote(words.replace(" ", "-").encode("utf-8", "surrogatepass"), safe="/.-_") or "its"


def _name(qualified: str) -> dict[str, str]:
    return {"$": qualified, "type": "prov:QUALIFIED_NAME"}
