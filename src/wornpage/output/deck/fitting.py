"""Whether a slide fits, and how much smaller its letters must be so that it does."""

from __future__ import annotations

from msgspec.structs import replace

from wornpage.output.deck.measuring import height_of
from wornpage.output.deck.model import Shape, Slide
from wornpage.tree.problem import Problem, Severity

_SMALLEST = 0.5
"""Letters are not made smaller than this share of their size."""


def fitted(slide: Slide, shape: Shape, usual: str) -> tuple[Slide, Problem | None]:
    """`slide`, smaller if that is asked for and must be; a warning where it is too tall nevertheless."""
    needs = height_of(slide, shape)
    if needs.share <= 1:
        return slide, None
    if (slide.look.fit or usual) == "shrink":
        scale = _scale(slide, shape)
        slide = replace(slide, scale=scale)
        needs = height_of(slide, shape)
        if needs.share <= 1:
            return slide, None
    percent = max(1, round((needs.share - 1) * 100))
    smaller = " even with the smallest letters" if slide.scale < 1 else ""
    if needs.across > needs.down:
        what = f"this slide is {percent} % too wide{smaller}."
        hint = "Show fewer columns, or write `{fit=shrink}` after its heading."
    else:
        what = f"this slide is {percent} % too tall{smaller}."
        hint = "Begin another with `{new slide}`, or write `{fit=shrink}` after its heading."
    return slide, Problem(slide.span, what, hint, Severity.WARNING)


def _scale(slide: Slide, shape: Shape) -> float:
    """The largest scale, in steps of a hundredth, at which a slide fits, or the smallest there is."""
    low, high = round(_SMALLEST * 100), 100
    while low < high:
        middle = (low + high + 1) // 2
        if height_of(replace(slide, scale=middle / 100), shape).share <= 1:
            low = middle
        else:
            high = middle - 1
    return low / 100
