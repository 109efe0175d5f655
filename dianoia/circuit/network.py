"""A resistor network solved by nodal analysis, batched over tolerance draws, and changed by ports.

Theory. With branch currents i (one a branch) and node voltages v against the reference, Kirchhoff's laws read

    [ G   A ] [v]   [ 0 ]        v_a - v_b = R i - E  for a branch from a to b with source E aiding the current,
    [ A'  -R] [i] = [-E ]        G: leakage conductances, A: incidence.

The matrix M is symmetric, so everything a fault or an instrument does is a change along one vector u, a *port*:
a resistance r put in series with a branch adds -r u u' (u picks the branch's row), a conductance g between two nodes
adds g u u' (u is +1 and -1 at the nodes), a source e in a branch adds -e u to the right-hand side. By the
Sherman-Morrison formula each costs only arithmetic on the numbers  x_k = u_k . M^-1 rhs  and  Z_kl = u_k . M^-1 u_l,
so each state is solved once and every fault, pair of faults, meter and lamp is a rank-one step on it.
All strengths are positive additions, so the denominators 1 + rY and 1 + gZ never cancel.

>>> import numpy as np
>>> net = Network("n", draws=1)
>>> net.branch("source", "n", "a", 0.0, volts=12.0)
>>> net.branch("upper", "a", "b", 100.0); net.branch("lower", "b", "n", 200.0)
>>> solved = net.solve([net.across("b", "n")])
>>> round(float(solved.value[0, 0]), 3)
8.0
"""

from dataclasses import dataclass
from functools import cached_property
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from dianoia.errors import DianoiaError

#: Any array of numbers; shapes are said where they matter.
Array = NDArray[Any]

#: Leakage from every node to the reference, in siemens: 10 Gohm, far above any meter.
LEAKAGE_S = 1e-10
#: The place of a port's end that no unknown belongs to: the reference.
NOWHERE = -1
#: What counts as an open contact, in ohms.
OPEN_OHMS = 1e9


class UnknownPlace(DianoiaError):
    """A node or branch that the network does not have."""


@dataclass(frozen=True)
class Port:
    """One direction of change or of measurement; a branch's port changes resistance.

    plus, minus: (draws,) which unknown its vector is +1 and -1 at; ``NOWHERE`` for none.
    """

    plus: NDArray[np.int64]
    minus: NDArray[np.int64]
    in_series: bool


@dataclass(frozen=True)
class Solved:
    """value: (draws, ports), volts across or amperes through each port.
    response: (draws, ports, ports), what a unit at one port does at another: ohms, siemens (negative) or pure.
    """

    value: Array
    response: Array


def each_draw(value: ArrayLike, draws: int) -> Array:
    """A number for each draw, (draws,), from one for all or one each."""
    return value if isinstance(value, np.ndarray) and value.shape == (draws,) else np.full(draws, value)


def _picked(values: Array, places: NDArray[np.int64], axis: int) -> Array:
    """What stands at a draw's own places, (draws, places), along an axis; most places are the same for every draw."""
    usual = places[0]
    picked = np.take(values, usual, axis=axis)
    own = np.flatnonzero((places != usual).any(axis=0))
    if own.size:
        at: tuple[Any, ...] = (slice(None),) * axis + (own,)
        picked[at] = np.take_along_axis(values, np.expand_dims(places[:, own], 3 - axis), axis=axis)
    return picked


class Network:
    """Nodes and branches, every branch with one resistance and one source for each draw."""

    def __init__(self, reference: str, draws: int) -> None:
        self.reference = reference
        self.draws = draws
        self.nodes: dict[str, int] = {}
        self._branches: dict[str, tuple[int | None, int | None, Array, Array]] = {}
        self._bridges: list[tuple[int, int, float]] = []

    def branch(self, name: str, a: str, b: str, ohms: ArrayLike, volts: ArrayLike = 0.0) -> None:
        """A resistance (ohms, at least 0) from a to b with a source (volts) aiding the current from a to b."""
        ends = self._node(a), self._node(b)
        self._branches[name] = (*ends, each_draw(ohms, self.draws), each_draw(volts, self.draws))

    def bridge(self, a: str, b: str, ohms: float) -> None:
        """A lead of some resistance (ohms, above 0) laid between two nodes that the network has. Raises UnknownPlace."""
        plus, minus = (NOWHERE if name == self.reference else self._known(name) for name in (a, b))
        self._bridges.append((plus, minus, 1.0 / ohms))

    def _known(self, name: str) -> int:
        if name not in self.nodes:
            raise UnknownPlace(name)
        return self.nodes[name]

    def _node(self, name: str) -> int | None:
        return None if name == self.reference else self.nodes.setdefault(name, len(self.nodes))

    def has_node(self, name: str) -> bool:
        """Whether a point exists in this network."""
        return name == self.reference or name in self.nodes

    def across(self, a: str, b: str) -> Port:
        """The port between two nodes: measures v_a - v_b; a conductance may be put across. Raises UnknownPlace."""
        plus, minus = (NOWHERE if name == self.reference else self._known(name) for name in (a, b))
        return Port(np.full(self.draws, plus), np.full(self.draws, minus), in_series=False)

    def across_either(self, a: str, ends: tuple[str, str], first: NDArray[np.bool_]) -> Port:
        """The port between a node and one of two: where ``first`` (draws,) is True the first of them. Raises UnknownPlace."""
        one, other = (self.across(a, end) for end in ends)
        return Port(one.plus, np.where(first, one.minus, other.minus), in_series=False)

    def through(self, *branches: str, choice: NDArray[np.int64] | None = None) -> Port:
        """The port of a branch: measures its current; a resistance or source may be put in series.

        With several branches, ``choice`` (draws,) picks one for each draw. Raises UnknownPlace.
        """
        order = list(self._branches)
        for name in branches:
            if name not in self._branches:
                raise UnknownPlace(name)
        rows = np.array([len(self.nodes) + order.index(name) for name in branches])
        picked = rows[choice] if choice is not None else np.full(self.draws, rows[0])
        return Port(picked, np.full(self.draws, NOWHERE), in_series=True)

    @cached_property
    def _inverted(self) -> Array:
        """The matrix's inverse, with a row and a column of zeros at the end for what lies ``NOWHERE``."""
        inverse = np.zeros((self.draws, self._size + 1, self._size + 1))
        inverse[:, :-1, :-1] = np.linalg.inv(self._matrix())
        return inverse

    @property
    def _size(self) -> int:
        return len(self.nodes) + len(self._branches)

    def solve(self, ports: list[Port], near: "Network | None" = None) -> Solved:
        """Values and mutual responses at the ports, for every draw.

        near: a solved network to step from where it has the same branches, none of them with more resistance.
        """
        inverse = near._stepped_to(self) if near else None
        if inverse is None:
            inverse = self._inverted
        right = self._right()
        plus, minus = (np.stack([getattr(port, end) for port in ports], axis=1) for end in ("plus", "minus"))
        rows = _picked(inverse, plus, 1) - _picked(inverse, minus, 1)
        value = (rows[:, :, :-1] @ right[:, :, None])[:, :, 0]
        response = _picked(rows, plus, 2) - _picked(rows, minus, 2)
        return Solved(value, response)

    def _stepped_to(self, other: "Network") -> Array | None:
        """The inverse for a network with more resistance in some branches and leads laid across, by one step of their
        number (Woodbury's formula); None where it is another network, or has less resistance somewhere.
        """
        changes = self._changes_to(other)
        if changes is None:
            return None
        plus, minus, strength = changes
        if not len(plus):
            return self._inverted
        rows = self._inverted[:, plus] - self._inverted[:, minus]
        own = rows[:, :, plus] - rows[:, :, minus]
        factor = strength[:, :, None] * own
        factor[:, np.arange(len(plus)), np.arange(len(plus))] += 1.0
        weight = np.linalg.inv(factor) * strength[:, None, :]
        stepped: Array = self._inverted - rows.transpose(0, 2, 1) @ (weight @ rows)
        return stepped

    def _changes_to(self, other: "Network") -> tuple[list[int], list[int], Array] | None:
        """Where the vectors of the changes are +1 and -1, and their strength (draws, changes), minus ohms or siemens."""
        if self._bridges or list(self._branches) != list(other._branches) or self.nodes != other.nodes:
            return None
        plus, minus, strength = [], [], []
        for row, (own, its) in enumerate(
            zip(self._branches.values(), other._branches.values(), strict=True), start=len(self.nodes)
        ):
            more = its[2] - own[2]
            if own[:2] != its[:2] or (more < 0.0).any():
                return None
            if more.any():
                plus.append(row)
                minus.append(NOWHERE)
                strength.append(-more)
        for a, b, siemens in other._bridges:
            plus.append(a)
            minus.append(b)
            strength.append(np.full(self.draws, siemens))
        return plus, minus, np.stack(strength, axis=1) if strength else np.zeros((self.draws, 0))

    def _matrix(self) -> Array:
        """(draws, unknowns, unknowns)."""
        matrix = np.zeros((self.draws, self._size, self._size))
        count = len(self.nodes)
        matrix[:, np.arange(count), np.arange(count)] = LEAKAGE_S
        for row, (a, b, ohms, _) in enumerate(self._branches.values(), start=count):
            for node, sign in ((a, 1.0), (b, -1.0)):
                if node is not None:
                    matrix[:, node, row] += sign
                    matrix[:, row, node] += sign
            matrix[:, row, row] = -ohms
        for plus, minus, siemens in self._bridges:
            ends = [(node, sign) for node, sign in ((plus, 1.0), (minus, -1.0)) if node != NOWHERE]
            for (one, its), (two, own) in product(ends, ends):
                matrix[:, one, two] += its * own * siemens
        return matrix

    def _right(self) -> Array:
        """The right-hand side, (draws, unknowns)."""
        right = np.zeros((self.draws, self._size))
        for row, (_, _, _, volts) in enumerate(self._branches.values(), start=len(self.nodes)):
            right[:, row] = -volts
        return right
