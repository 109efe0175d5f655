"""A network's spanning forest: what Kirchhoff's laws say of its points and branches whatever their resistances are.

Theory. In every tree of the forest what flows into a point flows on to the tree's root, so the currents of the forest's own
branches follow from those of the others, the *links*. The voltage of a point is its root's and the drops on the way.
Left as unknowns are the links' currents and the roots' voltages. See C. A. Desoer and E. S. Kuh, Basic Circuit Theory (1969), on
loop and cut-set analysis.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

#: Minus one, nought or one, for each of some things and each of others.
Signs = NDArray[np.float64]
#: Unknowns that a port is +1 and -1 at: points first, then branches, -1 for the reference.
Place = tuple[int, int]


@dataclass(frozen=True)
class PlaceSelection:
    """Some places of a network."""

    is_branch: NDArray[np.bool_]
    """(places,) which of them are a branch, not two points."""
    path: Signs
    """(places, tree) the forest's branches on the way from one of a place's points to the other."""
    met: Signs
    """(places, links and roots) what of the links and roots a place meets whatever the resistances are."""
    around: Signs
    """(links and roots, tree) what it meets by the drops on its way."""
    along: Signs
    """(places, places) 1 where a way leads through a branch."""


@dataclass(frozen=True, eq=False)
class Forest:
    """Trees of branches that connect the points of a network."""

    tree: NDArray[np.int64]
    """The branches that belong to the forest, and the others."""
    links: NDArray[np.int64]
    """The branches that belong to the forest, and the others."""
    path: Signs
    """(points, tree) the branches on the way from a point to its root, 1 where met at their first end, -1 at their
    second.
    """
    root: Signs
    """(points, roots) which root a point hangs on, none for the reference's tree."""
    around: Signs
    """(tree, links) what of a link's current flows in each branch."""
    hangs: Signs
    """(roots, links) what of it leaves each root."""

    @lru_cache(maxsize=256)  # noqa: B019 - there are few forests, and each is kept as long
    def seen(self, places: tuple[Place, ...]) -> PlaceSelection:
        """What some places are to the forest."""
        points, branches = len(self.path), len(self.tree) + len(self.links)
        units = np.eye(points + branches + 1)[:, :-1]  # the last row, -1, is all nought
        unit = units[[plus for plus, _ in places]] - units[[minus for _, minus in places]]
        at, branch = unit[:, :points], unit[:, points:]
        path, tree = at @ self.path, branch[:, self.tree]
        met = np.concatenate([tree @ self.around + branch[:, self.links], at @ self.root], axis=1)
        around = np.concatenate([self.around.T, np.zeros((len(self.hangs), len(self.tree)))])
        return PlaceSelection(np.any(branch, axis=1), path, met, around, along=path @ tree.T + tree @ path.T)


@lru_cache(maxsize=256)
def forest_of(points: int, ends: tuple[Place, ...], joins: tuple[bool, ...]) -> Forest:
    """The forest of so many points. ends: of each branch, -1 for the reference; joins: whether it may belong to the forest."""
    tree = _tree(points, ends, joins)
    links = [branch for branch in range(len(ends)) if branch not in set(tree)]
    path, top = _ways(points, ends, tree)
    roots = sorted(set(top[:-1]) - {points})
    root = np.array([[float(own == other) for other in roots] for own in top]).reshape(points + 1, len(roots))
    first, second = ([ends[link][end] for link in links] for end in (0, 1))
    return Forest(
        np.array(tree, dtype=np.int64), np.array(links, dtype=np.int64), path[:-1], root[:-1],
        around=(path[second] - path[first]).T, hangs=(root[first] - root[second]).T,
    )  # fmt: skip


def _tree(points: int, ends: Sequence[Place], joins: Sequence[bool]) -> list[int]:
    """The branches that close no loop with those before them."""
    group = list(range(points + 1))
    found = []
    for branch, (a, b) in enumerate(ends):
        if joins[branch] and group[a] != group[b]:
            found.append(branch)
            one, other = group[a], group[b]
            group = [one if own == other else own for own in group]
    return found


def _ways(points: int, ends: Sequence[Place], tree: Sequence[int]) -> tuple[Signs, list[int]]:
    """The way from each point, the reference last, to its root; and that root."""
    beside: list[list[tuple[int, int, float]]] = [[] for _ in range(points + 1)]
    for place, branch in enumerate(tree):
        a, b = ends[branch]
        beside[b].append((a, place, 1.0))
        beside[a].append((b, place, -1.0))
    path, top = np.zeros((points + 1, len(tree))), [-1] * (points + 1)
    for start in (points, *range(points)):
        waiting = [start] if top[start] < 0 else []
        top[start] = start if waiting else top[start]
        while waiting:
            point = waiting.pop()
            for other, place, sign in beside[point]:
                if top[other] < 0:
                    top[other], path[other] = start, path[point]
                    path[other, place] = sign
                    waiting.append(other)
    return path, top
