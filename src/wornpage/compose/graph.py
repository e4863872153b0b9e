"""The graph of a page as a drawing: laid out in layers from left to right, states told by more than colour.

A layered drawing after Sugiyama, Tagawa and Toda (1981): longest paths give the layers, edges over several layers get
lanes of their own, and sweeps that put each node at the middle of its neighbours reduce crossings.
"""

from __future__ import annotations

from collections.abc import Mapping
from html import escape
from itertools import pairwise

from msgspec import Struct

from wornpage.plan.graph import Edge, Graph

_HEIGHT, _LANE, _GAP_X, _GAP_Y, _LETTER, _MARGIN = 30.0, 10.0, 54.0, 14.0, 7.4, 12.0
_SWEEPS = 8
_LONGEST = 34
"""Letters of a node's name that are shown."""


class _Spot(Struct, frozen=True):
    """A node of the drawing: a chunk, a file, or a bend of an edge (`name` then is empty)."""

    name: str
    edge: int = -1
    layer: int = 0


class _Place(Struct, frozen=True):
    x: float
    y: float
    width: float
    height: float

    @property
    def middle(self) -> float:
        return self.y + self.height / 2


def draw_graph(graph: Graph, states: Mapping[str, bool] | None = None) -> bytes:
    """An SVG drawing. `states` tells fresh (True) from stale chunks; without it nothing is told apart."""
    depth = depths_of(graph)
    edges = [edge for edge in graph.edges if edge.source in depth and edge.target in depth]
    layers, chains = _layers(graph, depth, edges)
    places = _places(layers)
    width = max((place.x + place.width for place in places.values()), default=0) + _MARGIN
    height = max((place.y + place.height for place in places.values()), default=0) + _MARGIN
    body = [_edge([places[spot] for spot in chain], edge) for chain, edge in zip(chains, edges, strict=True)]
    body += [_node(spot.name, place, spot.name in graph.files, states) for spot, place in places.items() if spot.name]
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.0f}" height="{height:.0f}" '
        f'viewBox="0 0 {width:.0f} {height:.0f}"><g font-family="DejaVu Sans Mono, monospace" font-size="12">'
    )
    paper = f'<rect width="{width:.0f}" height="{height:.0f}" fill="#ffffff"/>'
    return (head + paper + "".join(body) + "</g></svg>").encode("utf-8", "replace")


def depths_of(graph: Graph) -> dict[str, int]:
    """The layer of each node: one further right than all it reads."""
    depth: dict[str, int] = dict.fromkeys(graph.files, 0)
    first = 1 if graph.files else 0
    for chunk in graph.chunks:  # page order is an order in which sources come first
        above = [depth[edge.source] for edge in graph.edges if edge.target == chunk and edge.source in depth]
        depth[chunk] = max(above, default=first - 1) + 1
    return depth


def _layers(graph: Graph, depth: dict[str, int], edges: list[Edge]) -> tuple[list[list[_Spot]], list[list[_Spot]]]:
    """The spots of each layer in order, and the spots that each edge goes through."""
    layers: list[list[_Spot]] = [[] for _ in range(max(depth.values(), default=-1) + 1)]
    spots = {name: _Spot(name, layer=depth[name]) for name in (*graph.files, *graph.chunks)}
    for spot in spots.values():
        layers[spot.layer].append(spot)
    chains = []
    for number, edge in enumerate(edges):
        bends = [_Spot("", number, layer) for layer in range(depth[edge.source] + 1, depth[edge.target])]
        for bend in bends:
            layers[bend.layer].append(bend)
        chains.append([spots[edge.source], *bends, spots[edge.target]])
    return _ordered(layers, chains), chains


def _ordered(layers: list[list[_Spot]], chains: list[list[_Spot]]) -> list[list[_Spot]]:
    """Layers reordered so that fewer edges cross; ties keep page order."""
    neighbours: dict[_Spot, tuple[list[_Spot], list[_Spot]]] = {spot: ([], []) for layer in layers for spot in layer}
    for chain in chains:
        for left, right in pairwise(chain):
            neighbours[left][1].append(right)
            neighbours[right][0].append(left)
    for sweep in range(_SWEEPS):
        side = sweep % 2
        for number in range(len(layers)) if side == 0 else range(len(layers) - 1, -1, -1):
            rank = {spot: place / max(len(layer) - 1, 1) for layer in layers for place, spot in enumerate(layer)}
            near = {spot: [rank[other] for other in neighbours[spot][side]] or [rank[spot]] for spot in layers[number]}
            layers[number] = sorted(layers[number], key=lambda spot, near=near: sum(near[spot]) / len(near[spot]))  # type: ignore[misc]
    return layers


def _places(layers: list[list[_Spot]]) -> dict[_Spot, _Place]:
    def height(spot: _Spot) -> float:
        return _HEIGHT if spot.name else _LANE

    totals = [sum(map(height, layer)) + _GAP_Y * max(len(layer) - 1, 0) for layer in layers]
    places: dict[_Spot, _Place] = {}
    across = _MARGIN
    for layer, total in zip(layers, totals, strict=True):
        width = max((_width(spot.name) for spot in layer if spot.name), default=0.0)
        down = _MARGIN + (max(totals) - total) / 2
        for spot in layer:
            places[spot] = _Place(across, down, width, height(spot))
            down += height(spot) + _GAP_Y
        across += width + _GAP_X
    return places


def _width(name: str) -> float:
    return min(len(name), _LONGEST) * _LETTER + 26


def _node(name: str, place: _Place, is_file: bool, states: Mapping[str, bool] | None) -> str:
    stale = states is not None and not is_file and not states.get(name, True)
    words = name if len(name) <= _LONGEST else "…" + name[1 - _LONGEST :]
    shape = "" if is_file else ' rx="6"'
    paint = 'fill="#e3eeee" stroke="#1c5a63"'
    if is_file:
        paint = 'fill="#f5f3ed" stroke="#8d8878"'
    elif stale:
        paint = 'fill="#f6e3dc" stroke="#98321f" stroke-dasharray="4 3"'
    return (
        f'<rect x="{place.x:.1f}" y="{place.y:.1f}" width="{place.width:.1f}" height="{place.height}"{shape} {paint} stroke-width="1.2"/>'
        f'<text x="{place.x + place.width / 2:.1f}" y="{place.middle + 4:.1f}" text-anchor="middle" fill="#23262b">'
        f"{escape(words)}{' *' if stale else ''}</text>"
    )


def _edge(places: list[_Place], edge: Edge) -> str:
    """A curve from place to place, straight along the lanes between, with an arrow at its end."""
    start, end = places[0], places[-1]
    x, y = start.x + start.width, start.middle
    path = f"M{x:.1f} {y:.1f}"
    for place in places[1:]:
        to = place.x - (5 if place is end else 0)
        bend = (to - x) / 2
        path += f" C{x + bend:.1f} {y:.1f} {to - bend:.1f} {place.middle:.1f} {to:.1f} {place.middle:.1f}"
        if place is not end:
            path += f" L{place.x + place.width:.1f} {place.middle:.1f}"
        x, y = place.x + place.width, place.middle
    tip, level = end.x, end.middle
    title = f"<title>{escape(edge.source)} to {escape(edge.target)}: {escape(', '.join(edge.what) or 'file')}</title>"
    return (
        f'<path d="{path}" fill="none" stroke="#8d8878" stroke-width="1.1">{title}</path>'
        f'<path d="M{tip - 6:.1f} {level - 3.5:.1f} L{tip:.1f} {level:.1f} L{tip - 6:.1f} {level + 3.5:.1f} Z" fill="#8d8878"/>'
    )


def graph_words(graph: Graph) -> str:
    """The graph in words, for those who cannot see it."""
    said = []
    for chunk in graph.chunks:
        sources = [edge.source for edge in graph.edges if edge.target == chunk]
        said.append(f"{chunk} from {', '.join(sources)}" if sources else chunk)
    return "What flows where: " + "; ".join(said) + "."
