"""What drawings and rich values may hold to stand in a page: elements, attributes and styles, by name.

Both are parsed and written anew from these lists; what is not in them is never passed on. Names follow SVG 2 and the
living standard of HTML.
"""

from __future__ import annotations

import re

DRAWING_ELEMENTS = frozenset({
    "svg", "g", "defs", "symbol", "use", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan",
    "textPath", "title", "clipPath", "mask", "pattern", "linearGradient", "radialGradient", "stop", "marker", "image", "switch",
})  # fmt: skip
LEFT_OUT_OF_DRAWINGS = frozenset({"metadata", "desc"})
"""Elements that show nothing: left out with all they hold."""
DRAWING_ATTRIBUTES = frozenset({
    "id", "d", "x", "y", "x1", "y1", "x2", "y2", "cx", "cy", "r", "rx", "ry", "fx", "fy", "fr", "dx", "dy", "width", "height", "points",
    "viewBox", "preserveAspectRatio", "transform", "gradientTransform", "patternTransform", "gradientUnits", "patternUnits",
    "patternContentUnits", "clipPathUnits", "maskUnits", "maskContentUnits", "markerUnits", "markerWidth", "markerHeight", "refX",
    "refY", "orient", "offset", "pathLength", "spreadMethod", "textLength", "lengthAdjust", "startOffset", "rotate", "href", "style",
    "fill", "fill-opacity", "fill-rule", "stroke", "stroke-width", "stroke-opacity", "stroke-linecap", "stroke-linejoin",
    "stroke-dasharray", "stroke-dashoffset", "stroke-miterlimit", "opacity", "color", "clip-path", "clip-rule", "mask", "marker-start",
    "marker-mid", "marker-end", "font-family", "font-size", "font-style", "font-weight", "font-variant", "font-stretch", "text-anchor",
    "text-decoration", "letter-spacing", "word-spacing", "dominant-baseline", "alignment-baseline", "baseline-shift", "visibility",
    "display", "overflow", "paint-order", "vector-effect", "shape-rendering", "text-rendering", "image-rendering", "color-interpolation",
    "stop-color", "stop-opacity", "direction", "writing-mode", "unicode-bidi",
})  # fmt: skip
DROPPED_ATTRIBUTES = frozenset(
    {"version", "baseProfile", "class", "role", "space", "lang", "xmlns", "enable-background", "tabindex"}
)
"""Attributes that change nothing where no style sheet and no script is."""
RICH_ELEMENTS = frozenset({
    "a", "abbr", "b", "blockquote", "br", "caption", "cite", "code", "col", "colgroup", "dd", "del", "details", "dfn", "div", "dl", "dt",
    "em", "figcaption", "figure", "hr", "i", "img", "ins", "kbd", "li", "mark", "ol", "p", "pre", "q", "s", "samp", "small", "span",
    "strong", "sub", "summary", "sup", "table", "tbody", "td", "tfoot", "th", "thead", "time", "tr", "u", "ul", "var", "wbr", "center",
    "font", "tt", "strike", "big",
})  # fmt: skip
EMPTY_ELEMENTS = frozenset({"br", "col", "hr", "img", "wbr"})
RICH_ATTRIBUTES = frozenset({"alt", "align", "cite", "colspan", "datetime", "dir", "height", "href", "lang", "open", "reversed", "rowspan",
                             "scope", "span", "src", "start", "style", "title", "valign", "value", "width"})  # fmt: skip
DROPPED_RICH = frozenset(
    {"class", "id", "border", "cellpadding", "cellspacing", "role", "name", "tabindex", "color", "size", "face"}
)
"""Attributes that only serve style sheets and scripts, or only looks."""
STYLES = re.compile(
    r"(?:color|background(?:-color)?|border(?:-(?:top|right|bottom|left))?(?:-(?:width|style|color|radius|collapse|spacing))?|"
    r"font(?:-(?:family|size|style|weight|variant|stretch))?|text-(?:align|decoration|transform|indent|anchor|overflow)|vertical-align|"
    r"white-space|line-height|letter-spacing|word-spacing|padding(?:-\w+)?|margin(?:-\w+)?|(?:min-|max-)?(?:width|height)|display|"
    r"overflow(?:-[xy])?|opacity|fill(?:-\w+)?|stroke(?:-\w+)?|stop-(?:color|opacity)|clip-(?:path|rule)|mask|marker(?:-\w+)?|"
    r"visibility|dominant-baseline|paint-order|vector-effect|shape-rendering|text-rendering|image-rendering|mix-blend-mode|"
    r"transform(?:-origin)?|float|clear|caption-side|list-style(?:-type)?|table-layout|empty-cells|word-break|overflow-wrap|"
    r"-inkscape-[\w-]+|solid-(?:color|opacity)|isolation|color-interpolation(?:-filters)?|enable-background|direction|writing-mode|"
    r"baseline-shift|unicode-bidi|filter)$"
)
_LOCAL = re.compile(r"url\(\s*(['\"]?)#[^'\")\s]+\1\s*\)")
_PICTURE = re.compile(r"data:image/(?:png|jpeg|gif|webp);base64,[A-Za-z0-9+/=\s]*$")
_LINK = re.compile(r"(?:https?://|mailto:|#)", re.IGNORECASE)


def is_local(value: str) -> bool:
    """Whether a value refers to nothing outside the drawing: `url(…)` only of its own parts, no escapes, no script."""
    rest = _LOCAL.sub("", value).lower()
    return not any(
        sign in rest for sign in ("url(", "\\", "javascript:", "expression(", "@import", "image-set(", "src(")
    )


def is_picture(value: str) -> bool:
    """Whether an address holds the pixels of a picture itself."""
    return bool(_PICTURE.match(value.strip()))


def is_link(value: str) -> bool:
    """Whether an address is one that readers may follow."""
    return bool(_LINK.match(value.strip()))


def safe_style(text: str) -> str | None:
    """The declarations of a style attribute; None if one of them is not allowed."""
    kept = []
    for part in text.split(";"):
        name, colon, value = part.partition(":")
        name, value = name.strip().lower(), value.strip()
        if not part.strip():
            continue
        if not colon or not STYLES.match(name) or not is_local(value) or "/*" in value:
            return None
        kept.append(f"{name}: {value}")
    return "; ".join(kept)
