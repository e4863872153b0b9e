"""The graph of a page as a drawing: laid out in layers from left to right, states told by more than colour."""

from __future__ import annotations

from collections.abc import Mapping
from html import escape

from wornpage.plan.graph import Graph

_HEIGHT, _GAP_X, _GAP_Y, _LETTER, _MARGIN = 30, 56, 16, 7.4, 12


def draw_graph(graph: Graph, states: Mapping[str, bool] | None = None) -> bytes:
    """An SVG drawing. `states` tells fresh (True) from stale chunks; without it nothing is told apart."""
    layers = layers_of(graph)
    widths = [max((_width(node) for node in layer), default=0) for layer in layers]
    places: dict[str, tuple[float, float, float]] = {}
    across = float(_MARGIN)
    tallest = max(map(len, layers), default=0)
    for layer, width in zip(layers, widths, strict=True):
        down = _MARGIN + (tallest - len(layer)) * (_HEIGHT + _GAP_Y) / 2
        for node in layer:
            places[node] = (across, down, width)
            down += _HEIGHT + _GAP_Y
        across += width + _GAP_X
    total = (across - _GAP_X + _MARGIN, _MARGIN * 2 + tallest * (_HEIGHT + _GAP_Y) - _GAP_Y)
    body = [
        _edge(places, edge.source, edge.target, edge.what)
        for edge in graph.edges
        if edge.source in places and edge.target in places
    ]
    body += [_node(node, places[node], node in graph.files, states) for node in places]
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{total[0]:.0f}" height="{total[1]:.0f}" '
        f'viewBox="0 0 {total[0]:.0f} {total[1]:.0f}" font-family="DejaVu Sans Mono, monospace" font-size="12">'
    )
    paper = f'<rect width="{total[0]:.0f}" height="{total[1]:.0f}" fill="#ffffff"/>'
    return (head + paper + "".join(body) + "</svg>").encode()


def layers_of(graph: Graph) -> list[list[str]]:
    """Nodes by how many steps they are from the data: each stands to the right of all it reads."""
    depth: dict[str, int] = dict.fromkeys(graph.files, 0)
    offset = 1 if graph.files else 0
    for chunk in graph.chunks:  # page order is an order in which sources come first
        above = [depth[edge.source] for edge in graph.edges if edge.target == chunk and edge.source in depth]
        depth[chunk] = max(above, default=offset - 1) + 1 if above else offset
    layers: list[list[str]] = [[] for _ in range(max(depth.values(), default=-1) + 1)]
    for node in (*graph.files, *graph.chunks):
        layers[depth[node]].append(node)
    return layers


def _width(node: str) -> float:
    return min(len(node), 34) * _LETTER + 26


def _node(node: str, place: tuple[float, float, float], is_file: bool, states: Mapping[str, bool] | None) -> str:
    x, y, width = place
    stale = states is not None and not is_file and not states.get(node, True)
    words = node if len(node) <= 34 else "…" + node[-33:]
    shape = "" if is_file else ' rx="6"'
    paint = (
        'fill="#f5f3ed" stroke="#8d8878"'
        if is_file
        else 'fill="#f6e3dc" stroke="#98321f" stroke-dasharray="4 3"'
        if stale
        else 'fill="#e3eeee" stroke="#1c5a63"'
    )
    told = f"{words}{' *' if stale else ''}"
    return (
        f'<rect x="{x:.1f}" y="{y:.1f}" width="{width:.1f}" height="{_HEIGHT}"{shape} {paint} stroke-width="1.2"/>'
        f'<text x="{x + width / 2:.1f}" y="{y + _HEIGHT / 2 + 4:.1f}" text-anchor="middle" fill="#23262b">{escape(told)}</text>'
    )


def _edge(places: dict[str, tuple[float, float, float]], source: str, target: str, what: tuple[str, ...]) -> str:
    x1, y1, width = places[source]
    x2, y2, _ = places[target]
    x1, y1, y2 = x1 + width, y1 + _HEIGHT / 2, y2 + _HEIGHT / 2
    bend = max(24.0, (x2 - x1) / 2)
    title = f"<title>{escape(source)} to {escape(target)}: {escape(', '.join(what) or 'file')}</title>"
    return (
        f'<path d="M{x1:.1f} {y1:.1f} C{x1 + bend:.1f} {y1:.1f} {x2 - bend:.1f} {y2:.1f} {x2 - 5:.1f} {y2:.1f}" fill="none" '
        f'stroke="#8d8878" stroke-width="1.1">{title}</path>'
        f'<path d="M{x2 - 6:.1f} {y2 - 3.5:.1f} L{x2:.1f} {y2:.1f} L{x2 - 6:.1f} {y2 + 3.5:.1f} Z" fill="#8d8878"/>'
    )


def graph_words(graph: Graph) -> str:
    """The graph in words, for those who cannot see it."""
    said = []
    for chunk in graph.chunks:
        sources = [edge.source for edge in graph.edges if edge.target == chunk]
        said.append(f"{chunk} from {', '.join(sources)}" if sources else chunk)
    return "What flows where: " + "; ".join(said) + "."
