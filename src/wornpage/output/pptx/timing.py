"""What comes step by step: effects that appear at a click, for shapes and for paragraphs of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct


class Target(Struct, frozen=True):
    """A shape, or one paragraph of it."""

    shape: int
    paragraph: int = -1
    """-1 for the whole of it."""


def timing(steps: Mapping[int, Sequence[Target]]) -> str:
    """`p:timing` for what comes with each step; empty for nothing."""
    if not steps:
        return ""
    counter = _Counter()
    root, main = counter.next(), counter.next()
    clicks = "".join(_click(steps[step], counter) for step in sorted(steps))
    built = sorted({target.shape for targets in steps.values() for target in targets if target.paragraph >= 0})
    builds = "".join(f'<p:bldP spid="{shape}" grpId="0" build="p"/>' for shape in built)
    return (
        f'<p:timing><p:tnLst><p:par><p:cTn id="{root}" dur="indefinite" restart="never" nodeType="tmRoot"><p:childTnLst>'
        f'<p:seq concurrent="1" nextAc="seek"><p:cTn id="{main}" dur="indefinite" nodeType="mainSeq"><p:childTnLst>{clicks}</p:childTnLst></p:cTn>'
        '<p:prevCondLst><p:cond evt="onPrev" delay="0"><p:tgtEl><p:sldTgt/></p:tgtEl></p:cond></p:prevCondLst>'
        '<p:nextCondLst><p:cond evt="onNext" delay="0"><p:tgtEl><p:sldTgt/></p:tgtEl></p:cond></p:nextCondLst></p:seq>'
        f"</p:childTnLst></p:cTn></p:par></p:tnLst>{f'<p:bldLst>{builds}</p:bldLst>' if builds else ''}</p:timing>"
    )


class _Counter:
    def __init__(self) -> None:
        self._last = 0

    def next(self) -> int:
        self._last += 1
        return self._last


def _click(targets: Sequence[Target], counter: _Counter) -> str:
    """All that comes with one step."""
    outer, inner = counter.next(), counter.next()
    effects = "".join(
        _effect(target, "clickEffect" if not at else "withEffect", counter) for at, target in enumerate(targets)
    )
    return (
        f'<p:par><p:cTn id="{outer}" fill="hold"><p:stCondLst><p:cond delay="indefinite"/></p:stCondLst><p:childTnLst>'
        f'<p:par><p:cTn id="{inner}" fill="hold"><p:stCondLst><p:cond delay="0"/></p:stCondLst><p:childTnLst>{effects}</p:childTnLst></p:cTn></p:par>'
        "</p:childTnLst></p:cTn></p:par>"
    )


def _effect(target: Target, node: str, counter: _Counter) -> str:
    effect, action = counter.next(), counter.next()
    inner = (
        f'<p:txEl><p:pRg st="{target.paragraph}" end="{target.paragraph}"/></p:txEl>' if target.paragraph >= 0 else ""
    )
    place = f'<p:spTgt spid="{target.shape}">{inner}</p:spTgt>' if inner else f'<p:spTgt spid="{target.shape}"/>'
    return (
        f'<p:par><p:cTn id="{effect}" presetID="1" presetClass="entr" presetSubtype="0" fill="hold"{" grpId=" + chr(34) + "0" + chr(34) if inner else ""} nodeType="{node}">'
        '<p:stCondLst><p:cond delay="0"/></p:stCondLst><p:childTnLst><p:set><p:cBhvr>'
        f'<p:cTn id="{action}" dur="1" fill="hold"><p:stCondLst><p:cond delay="0"/></p:stCondLst></p:cTn><p:tgtEl>{place}</p:tgtEl>'
        "<p:attrNameLst><p:attrName>style.visibility</p:attrName></p:attrNameLst></p:cBhvr>"
        '<p:to><p:strVal val="visible"/></p:to></p:set></p:childTnLst></p:cTn></p:par>'
    )
