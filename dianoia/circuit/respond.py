"""Every hypothesis applied to one solved circuit, and what each probe port then sees.

Faults are rank-one steps (see ``network``). One or two steps are taken for all hypotheses at once; where a hypothesis
has more ports than two, the solution is first stepped along the others.
"""

from collections.abc import Sequence, Set
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array, Network, Port
from dianoia.circuit.types import Change, Circuit

Compact = NDArray[np.float32]
Places = NDArray[np.int64]


@dataclass(frozen=True)
class Response:
    """What a probe sees, and how it answers to faults."""

    value: Compact
    """(hypotheses, probes, draws), open-circuit volts or amperes at each probe."""
    source: Compact
    """Same shape, the source resistance in ohms behind a probe across two points (meaningless in series)."""


@dataclass(frozen=True)
class _Table:
    """Every change of a circuit."""

    strength: Array
    """(ports, draws), siemens, or minus ohms."""
    source: Array
    """(ports, draws), volts."""


@dataclass(frozen=True)
class _Sheet:
    """Numbers of one state: f the fault ports, r the probe ports."""

    f_value: Array
    """(faults, draws)."""
    r_value: Array
    """(probes, draws)."""
    ff: Array
    """(faults, faults, draws)."""
    fr: Array
    """(faults, probes, draws)."""
    rr: Array
    """(probes, draws)."""

    def step(self, table: _Table, k: int) -> "_Sheet":
        """This sheet after the change along fault port k."""
        step = _Step(self, table, np.array([k]))
        t, pull, row, column = step.t[0], step.pull[0], self.ff[k], self.fr[k]
        return _Sheet(
            f_value=self.f_value - row * pull,
            r_value=self.r_value - column * pull,
            ff=self.ff - (row * t)[:, None] * row[None],
            fr=self.fr - (row * t)[:, None] * column[None],
            rr=self.rr - column * column * t,
        )


class _Step:
    """One step from a sheet along each of several ports k: t and pull, (steps, draws), and what the probes then see."""

    def __init__(self, sheet: _Sheet, table: _Table, k: Places) -> None:
        strength = table.strength[k]
        left = 1.0 / (1.0 + strength * sheet.ff[k, k])
        self.t: Array = strength * left
        self.pull: Array = self.t * sheet.f_value[k] + left * table.source[k]
        self._column, self._sheet = sheet.fr[k], sheet

    def seen(self) -> tuple[Array, Array]:
        """Value and source resistance at the probes, (steps, probes, draws) each."""
        column, sheet = self._column, self._sheet
        return sheet.r_value - column * self.pull[:, None], sheet.rr - column * column * self.t[:, None]


@dataclass(frozen=True)
class _Rows:
    """Which hypotheses (rows) have how many ports left to step along."""

    none: Places
    singles: tuple[Places, Places]
    """Rows, port."""
    pairs: tuple[Places, Places, Places]
    """Rows, first, second."""


def respond(
    circuit: Circuit, hypotheses: Sequence[tuple[str, ...]], probes: Sequence[Port], earlier: Network | None = None
) -> Response:
    """The probes' view under every hypothesis: a tuple of any fault ids.

    earlier: a solved network that may have the same resistances, see ``Network.solve``.
    A fault that this circuit does not have, or that only changes phases, changes nothing here.
    """
    changes, places = _fault_ports(circuit, {name for faults in hypotheses for name in faults})
    healthy = _solve(circuit, [change.port for change in changes], probes, earlier)
    table = _table(changes, circuit.network.draws)
    shape = (len(hypotheses), len(probes), circuit.network.draws)
    value = np.empty(shape, dtype=np.float32)
    source = np.empty(shape, dtype=np.float32)
    for before, rows in _ordered(tuple(hypotheses), tuple(places.items())).items():
        sheet = healthy
        for k in before:
            sheet = sheet.step(table, k)
        _fill(value, source, sheet, table, rows)
    return Response(value, source)


def _fault_ports(circuit: Circuit, wanted: Set[str]) -> tuple[list[Change], dict[str, tuple[int, ...]]]:
    changes: list[Change] = []
    places = {}
    for name, effect in circuit.effects.items():
        if effect.changes and name in wanted:
            places[name] = tuple(range(len(changes), len(changes) + len(effect.changes)))
            changes.extend(effect.changes)
    return changes, places


def _table(changes: Sequence[Change], draws: int) -> _Table:
    strength, source = np.empty((len(changes), draws)), np.zeros((len(changes), draws))
    for k, change in enumerate(changes):
        strength[k] = -change.strength if change.port.in_series else change.strength
        if change.source is not None:
            source[k] = change.source
    return _Table(strength, source)


def _solve(circuit: Circuit, faults: Sequence[Port], probes: Sequence[Port], earlier: Network | None) -> _Sheet:
    solved = circuit.network.solve([*faults, *probes], earlier, circuit.switched)
    count = len(faults)
    value, response = solved.value, solved.response
    diagonal = np.arange(count, count + len(probes))
    return _Sheet(
        f_value=value[:count], r_value=value[count:], ff=response[:count, :count],
        fr=response[:count, count:], rr=response[diagonal, diagonal],
    )  # fmt: skip


@lru_cache(maxsize=64)
def _ordered(
    hypotheses: tuple[tuple[str, ...], ...], places: tuple[tuple[str, tuple[int, ...]], ...]
) -> dict[tuple[int, ...], _Rows]:
    """Ports to step along one after another -> the hypotheses that then have at most two left."""
    ports = dict(places)
    table: dict[tuple[int, ...], list[tuple[int, tuple[int, ...]]]] = {(): []}
    for row, faults in enumerate(hypotheses):
        ordered = sorted((ports.get(name, ()) for name in faults), key=lambda own: -len(own))
        listed = tuple(port for own in ordered for port in own)
        table.setdefault(listed[:-2], []).append((row, listed[-2:]))
    return {before: _rows(members) for before, members in table.items()}


def _rows(members: Sequence[tuple[int, tuple[int, ...]]]) -> _Rows:
    none, one, two = ([(row, *ports) for row, ports in members if len(ports) == count] for count in (0, 1, 2))
    (rows,), (single, k), (pair, first, second) = (
        np.array(listed, dtype=np.int64).reshape(-1, width).T for listed, width in ((none, 1), (one, 2), (two, 3))
    )
    return _Rows(rows, (single, k), (pair, first, second))


def _fill(value: Compact, source: Compact, sheet: _Sheet, table: _Table, rows: _Rows) -> None:
    """What the probes see under the hypotheses of a sheet."""
    value[rows.none], source[rows.none] = sheet.r_value, sheet.rr
    row, k = rows.singles
    if row.size:
        value[row], source[row] = _Step(sheet, table, k).seen()
    row, k, second = rows.pairs
    for first in np.unique(k):  # of one first port at a time: what is worked on stays in the processor's cache
        own = k == first
        value[row[own]], source[row[own]] = _two(sheet, table, int(first), second[own])


def _two(sheet: _Sheet, table: _Table, first: int, k: Places) -> tuple[Array, Array]:
    """Value and source resistance at the probes after a step along one port and then along each of others."""
    step = _Step(sheet, table, np.array([first]))
    t, pull = step.t[0], step.pull[0]
    value, source = (seen[0] for seen in step.seen())
    across = sheet.ff[first][k]
    strength = table.strength[k]
    left = 1.0 / (1.0 + strength * (sheet.ff[k, k] - across * across * t))
    own_t = strength * left
    own_pull = own_t * (sheet.f_value[k] - across * pull) + left * table.source[k]
    column = sheet.fr[k]
    column -= sheet.fr[first] * (across * t)[:, None]
    after = column * own_pull[:, None]
    np.subtract(value, after, out=after)
    np.multiply(column, column, out=column)
    column *= own_t[:, None]
    np.subtract(source, column, out=column)
    return after, column
