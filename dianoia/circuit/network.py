"""A resistor network solved for many tolerance draws at once, and changed by ports.

Theory. With branch currents i (one a branch) and node voltages v against the reference, Kirchhoff's laws read

    [ G   A ] [v]   [ 0 ]        v_a - v_b = R i - E  for a branch from a to b with source E aiding the current,
    [ A'  -R] [i] = [-E ]        G: leakage conductances, A: incidence.

The matrix M is symmetric, so everything a fault or an instrument does is a change along one vector u, a *port*. A resistance r put in series with a branch adds -r u u' (u picks the branch's row). A conductance g between two nodes
adds g u u' (u is +1 and -1 at the nodes). A source e in a branch adds -e u to the right-hand side. By the
Sherman-Morrison formula each costs only arithmetic on the numbers  x_k = u_k . M^-1 rhs  and  Z_kl = u_k . M^-1 u_l,
so each state is solved once and every fault, pair of faults, meter and lamp is a rank-one step on it.
All strengths are positive additions, so the denominators 1 + rY and 1 + gZ never cancel.

M is never built. Where contacts are open its inverse holds numbers of 10^9 beside others of 10^-3, and the small difference between
two points of a wire that floats would be lost between them. Instead the good conductors are taken as a forest (see ``forest``) whose
resistances add up along ways, and only what is left, the links' currents and the trees' voltages, is solved for as a matrix.
A tree leaks as a whole, at its root.

>>> import numpy as np
>>> net = Network("n", draws=1)
>>> net.branch("source", "n", "a", 0.0, volts=12.0)
>>> net.branch("upper", "a", "b", 100.0); net.branch("lower", "b", "n", 200.0)
>>> solved = net.solve([net.across("b", "n")])
>>> round(float(solved.value[0, 0]), 3)
8.0
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from dianoia.circuit.forest import Forest, Place, PlaceSelection, forest_of
from dianoia.errors import DianoiaError

#: Any array of numbers; shapes are said where they matter.
Array = NDArray[Any]

#: Leakage from every node to the reference, in siemens: 10 Gohm, far above any meter.
LEAKAGE_S = 1e-10
#: The place of a port's end that no unknown belongs to: the reference.
NOWHERE = -1
#: A branch of less resistance than this in every draw may belong to the forest: leakage makes no drop on it.
CONDUCTS_OHMS = 1e4
#: An open contact, in ohms: through an air gap a meter of 10 Mohm sees no more than a thousandth of a battery's voltage.
OPEN_OHMS = 1e11
#: The most that a gap with dirt in it has, in ohms.
DIRTY_OHMS = 1e9


class UnknownPlace(DianoiaError):
    """A node or branch that the network does not have."""


@dataclass(frozen=True)
class Port:
    """One direction of change or of measurement; a branch's port changes resistance."""

    places: tuple[Place, ...]
    """The unknowns that its vector is +1 and -1 at, ``NOWHERE`` for none. With more than one see ``which``."""
    in_series: bool
    which: NDArray[np.int64] | None = None
    """(draws,) which of ``places`` it is in each draw; None where there is one."""

    def same_as(self, other: "Port") -> bool:
        """Whether it is the same direction in every draw."""
        return self.places == other.places and np.array_equal(self.which, other.which)  # type: ignore[arg-type]


@dataclass(frozen=True)
class PortSolution:
    """A network solved for its ports."""

    value: Array
    """(ports, draws), volts across or amperes through each port."""
    response: Array
    """(ports, ports, draws), what a unit at one port does at another: ohms, siemens (negative) or pure."""


def each_draw(value: ArrayLike, draws: int) -> Array:
    """A number for each draw, (draws,), from one for all or one each."""
    return value if isinstance(value, np.ndarray) and value.shape == (draws,) else np.full(draws, value)


class Network:
    """Nodes and branches, every branch with one resistance and one source for each draw."""

    def __init__(self, reference: str, draws: int) -> None:
        self.reference = reference
        self.draws = draws
        self.nodes: dict[str, int] = {}
        self._branches: dict[str, tuple[int, int, Array, Array]] = {}
        self._left: _ReducedNetwork | None = None

    def branch(self, name: str, a: str, b: str, ohms: ArrayLike, volts: ArrayLike = 0.0) -> None:
        """A resistance (ohms, at least 0) from a to b with a source (volts) aiding the current from a to b."""
        ends = self._node(a), self._node(b)
        self._branches[name] = (*ends, each_draw(ohms, self.draws), each_draw(volts, self.draws))

    def bridge(self, a: str, b: str, ohms: float) -> None:
        """A lead of some resistance (ohms, above 0) laid between two nodes that the network has. Raises UnknownPlace."""
        for name in (a, b):
            self._known(name)
        self.branch(f"lead {len(self._branches)}", a, b, ohms)

    def _known(self, name: str) -> int:
        if not self.has_node(name):
            raise UnknownPlace(name)
        return self._node(name)

    def _node(self, name: str) -> int:
        return NOWHERE if name == self.reference else self.nodes.setdefault(name, len(self.nodes))

    def has_node(self, name: str) -> bool:
        """Whether a point exists in this network."""
        return name == self.reference or name in self.nodes

    def across(self, a: str, b: str) -> Port:
        """The port between two nodes: measures v_a - v_b; a conductance may be put across. Raises UnknownPlace."""
        return Port(((self._known(a), self._known(b)),), in_series=False)

    def across_either(self, a: str, ends: tuple[str, str], first: NDArray[np.bool_]) -> Port:
        """The port between a node and one of two: where ``first`` (draws,) is True the first of them. Raises UnknownPlace."""
        places = tuple((self._known(a), self._known(end)) for end in ends)
        return Port(places, in_series=False, which=np.where(first, 0, 1))

    def through(self, *branches: str, choice: NDArray[np.int64] | None = None) -> Port:
        """The port of a branch: measures its current; a resistance or source may be put in series.

        With several branches, ``choice`` (draws,) picks one for each draw. Raises UnknownPlace.
        """
        order = list(self._branches)
        for name in branches:
            if name not in self._branches:
                raise UnknownPlace(name)
        places = tuple((len(self.nodes) + order.index(name), NOWHERE) for name in branches)
        return Port(places, in_series=True, which=choice)

    def solve(
        self, ports: Sequence[Port], before: "Network | None" = None, switched: str | None = None
    ) -> PortSolution:
        """Values and mutual responses at the ports, for every draw.

        before: a solved network, whose responses are taken over where it has the same resistances; switched: a branch by which the two
        may differ, with more ohms in this one: one step from there.
        """
        asked = [*ports, self.through(switched)] if switched else [*ports]
        kept = before._left if before else None
        differing = self._differing(before, asked) if before and kept else None
        if kept is None or differing is None or differing not in ([], [switched]):
            kept, differing = self._reduced_to(asked), []
        value, response = self._values(kept), kept.response
        if differing and before:
            value, response = _stepped(value, response, self._ohms_of(switched) - before._ohms_of(switched))
        else:
            self._left = kept
        return PortSolution(value[: len(ports)], response[: len(ports), : len(ports)])

    def _ohms_of(self, branch: str | None) -> Array:
        return self._branches[branch or ""][2]

    def _differing(self, other: "Network", ports: Sequence[Port]) -> list[str] | None:
        """The branches that have other resistances in another network; None where more differs, or it was not solved for these ports."""
        own, its, left = self._branches, other._branches, other._left
        if left is None or list(own) != list(its) or len(left.ports) != len(ports):
            return None
        if any(own[name][:2] != its[name][:2] for name in own):
            return None
        if not all(one.same_as(port) for one, port in zip(left.ports, ports, strict=True)):
            return None
        return [name for name in own if not np.array_equal(own[name][2], its[name][2])]

    def _reduced_to(self, ports: Sequence[Port]) -> "_ReducedNetwork":
        ohms = self._of_branches(2)
        ends = tuple(branch[:2] for branch in self._branches.values())
        forest = forest_of(len(self.nodes), ends, tuple((ohms.max(axis=1) < CONDUCTS_OHMS).tolist()))
        seen = forest.seen(_places_of(ports))
        inverse = np.linalg.inv(_what_is_left(forest, ohms).transpose(2, 0, 1)).transpose(1, 2, 0)
        through, response = _seen_through(np.ascontiguousarray(inverse), seen, ohms[forest.tree])
        for table, axis in ((through, 1), (response, 0), (response, 1)):
            _pick(table.swapaxes(0, axis), ports)
        count = len(ports)
        return _ReducedNetwork(tuple(ports), forest, through[:, :count], response[:count, :count])

    def _values(self, left: "_ReducedNetwork") -> Array:
        """Volts and amperes that the sources make at the ports, (ports, draws)."""
        forest, volts = left.forest, self._of_branches(3)
        around = volts[forest.links] + forest.around.T @ volts[forest.tree]
        made = np.einsum("kd,kpd->pd", around, left.through[: forest.links.size])
        dropped = forest.seen(_places_of(left.ports)).path @ volts[forest.tree]
        _pick(dropped, left.ports)
        values: Array = -(made + dropped[: len(left.ports)])
        return values

    def _of_branches(self, part: int) -> Array:
        """A number of every branch, (branches, draws)."""
        return np.stack([branch[part] for branch in self._branches.values()])


@dataclass(frozen=True)
class _ReducedNetwork:
    """What is left of a network as it is seen from some ports."""

    ports: tuple[Port, ...]
    forest: Forest
    through: Array
    """(links and roots, ports, draws) what a unit at a port makes there."""
    response: Array
    """(ports, ports, draws)."""


def _stepped(value: Array, response: Array, more: Array) -> tuple[Array, Array]:
    """Values and responses with more ohms, (draws,), in series at the last port."""
    column = response[:, -1]
    step = -more / (1.0 - more * column[-1])  # what a unit of voltage drives through a branch counts as negative
    return value - column * (step * value[-1]), response - (column * step)[:, None] * column


def _what_is_left(forest: Forest, ohms: Array) -> Array:
    """The equations of the links' loops and of the roots, (links and roots, links and roots, draws). ohms: (branches, draws)."""
    links, roots = forest.links.size, len(forest.hangs)
    matrix = np.zeros((links + roots, links + roots, ohms.shape[1]))
    matrix[:links, :links] = -(forest.around.T[:, None] * forest.around.T) @ ohms[forest.tree]
    matrix[np.arange(links), np.arange(links)] -= ohms[forest.links]
    matrix[links:, :links], matrix[:links, links:] = forest.hangs[:, :, None], forest.hangs.T[:, :, None]
    root = np.arange(links, links + roots)
    matrix[root, root] = LEAKAGE_S * forest.root.sum(axis=0)[:, None]  # of all points that hang on it
    return matrix


def _seen_through(inverse: Array, seen: PlaceSelection, tree_ohms: Array) -> tuple[Array, Array]:
    """What a unit at each place makes in what is left, (left, places, draws), and at each other place, (places, places, draws).

    inverse: of what is left, (left, left, draws); tree_ohms: (tree, draws). A branch meets what is left alike in every draw.
    """
    branches, points = np.flatnonzero(seen.is_branch), np.flatnonzero(~seen.is_branch)
    draws = inverse.shape[2]
    met = seen.met[points, :, None] + (seen.path[points, None] * seen.around) @ tree_ohms
    through = np.empty((len(inverse), len(seen.path), draws))
    through[:, branches] = seen.met[branches] @ inverse
    through[:, points] = np.einsum("pld,kld->kpd", met, inverse)
    response = np.empty((len(seen.path), len(seen.path), draws))
    flat = through.reshape(len(inverse), -1)
    response[branches] = (seen.met[branches] @ flat).reshape(branches.size, *response.shape[1:])
    response[np.ix_(points, branches)] = response[np.ix_(branches, points)].swapaxes(0, 1)
    within = (seen.path[points, None] * seen.path[points]) @ tree_ohms
    response[np.ix_(points, points)] = within + np.einsum("pkd,kqd->pqd", met, through[:, points])
    response += seen.along[:, :, None]
    return through, response


def _places_of(ports: Sequence[Port]) -> tuple[Place, ...]:
    """The first place of each port, and then the others that some have in some draws."""
    return (*(port.places[0] for port in ports), *(place for port in ports for place in port.places[1:]))


def _pick(table: Array, ports: Sequence[Port]) -> None:
    """Put what a table says of each port, (places, ..., draws), in the row of its first place."""
    other = len(ports)
    for row, port in enumerate(ports):
        for which in range(1, len(port.places)):
            assert port.which is not None
            table[row] = np.where(port.which == which, table[other], table[row])
            other += 1
