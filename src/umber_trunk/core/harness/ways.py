"""Ways through a harness that has a loop: the shortest, its alternatives, and the one a wire is pinned to."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import Any

from umber_trunk.core.harness.model import Segment

MOST_TRIED = 400
"""So many ways are looked through for one that takes all the segments a wire is pinned to."""


class Ways:
    """All ways along the segments of one design; made only where there is a loop or a pin. A segment is a node of its
    own, so that two between the same points stay two."""

    def __init__(self, segments: Iterable[Segment], points: Iterable[str]) -> None:
        import networkx

        self._library: Any = networkx
        self.graph = networkx.Graph()
        self.graph.add_nodes_from(("point", point) for point in points)
        for segment in segments:
            for point in (segment.a, segment.b):
                self.graph.add_edge(
                    ("point", point), ("segment", segment.id), weight=segment.measure.length_m / 2 + 1e-9
                )

    def shortest(self, a: str, b: str) -> tuple[str, ...] | None:
        """Segments of the shortest way from point to point; None where there is none."""
        try:
            nodes = self._library.dijkstra_path(self.graph, ("point", a), ("point", b))
        except (self._library.NetworkXNoPath, self._library.NodeNotFound):
            return None
        return _segments(nodes)

    def alternatives(self, a: str, b: str, most: int = 6) -> list[tuple[str, ...]]:
        """The shortest ways that pass no point twice, the shortest first."""
        return list(islice(self._each(a, b), most))

    def pinned(self, a: str, b: str, via: Iterable[str]) -> tuple[str, ...] | None:
        """The shortest of them that takes all of `via`; None where none of the first many does."""
        wanted = set(via)
        return next((way for way in islice(self._each(a, b), MOST_TRIED) if wanted <= set(way)), None)

    def _each(self, a: str, b: str) -> Iterator[tuple[str, ...]]:
        if a == b:
            return
        try:
            for nodes in self._library.shortest_simple_paths(self.graph, ("point", a), ("point", b), weight="weight"):
                yield _segments(nodes)
        except (self._library.NetworkXNoPath, self._library.NodeNotFound):
            return


def _segments(nodes: Iterable[tuple[str, str]]) -> tuple[str, ...]:
    return tuple(name for kind, name in nodes if kind == "segment")
