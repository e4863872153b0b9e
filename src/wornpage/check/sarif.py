"""Findings in SARIF 2.1.0, the OASIS standard for results of static analysis: what CI services and editors show."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import PurePath
from urllib.parse import quote

from wornpage.check.finding import PAGE, Finding, rules
from wornpage.tree.version import VERSION


def sarif(findings: Sequence[Finding]) -> dict[str, object]:
    """A log with one run."""
    known = {PAGE: "Text and settings that cannot be read as they are.", **rules()}
    described = [{"id": rule, "shortDescription": {"text": about}} for rule, about in known.items()]
    driver = {"name": "Worn Page", "version": VERSION, "rules": described}
    return {
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{"tool": {"driver": driver}, "columnKind": "unicodeCodePoints", "results": [_result(one) for one in findings]}],
    }  # fmt: skip


def _result(finding: Finding) -> dict[str, object]:
    problem = finding.problem
    place = {
        "artifactLocation": {"uri": quote(PurePath(problem.span.file).as_posix())},
        "region": {"startLine": problem.span.line, "startColumn": problem.span.column},
    }
    return {
        "ruleId": finding.rule,
        "level": str(problem.severity),
        "message": {"text": f"{problem.what} {problem.hint}".strip()},
        "locations": [{"physicalLocation": place}],
    }
