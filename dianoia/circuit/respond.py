"""Every hypothesis applied to one solved circuit, and what each probe port then sees.

Faults are rank-one steps (see ``network``): singles are stepped from the healthy solution, pairs from the singles,
all second faults of one first fault at once.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from dianoia.circuit.network import Array, Network, Port
from dianoia.circuit.types import Change, Circuit

Compact = NDArray[np.float32]


@dataclass(frozen=True)
class Response:
    """value: (hypotheses, probes, draws), open-circuit volts or amperes at each probe.
    source: same shape, the source resistance in ohms behind a probe across two points (meaningless in series).
    """

    value: Compact
    source: Compact


@dataclass
class _Sheet:
    """Numbers of one hypothesis: f the fault ports, r the probe ports; all end in the draws axis."""

    f_value: Array
    r_value: Array
    ff: Array
    rf: Array
    rr: Array

    def step(self, k: int, strength: Array, source: Array | None) -> "_Sheet":
        """This sheet after a change along fault port k. strength is signed: siemens, or minus ohms."""
        t = strength / (1.0 + strength * self.ff[k, k])
        row, column = self.ff[k], self.rf[:, k]
        pull = t * self.f_value[k]
        after = _Sheet(
            f_value=self.f_value - row * pull,
            r_value=self.r_value - column * pull,
            ff=self.ff - (row * t)[:, None] * row[None],
            rf=self.rf - (column * t)[:, None] * row[None],
            rr=self.rr - column * column * t,
        )
        if source is not None:
            after.f_value = after.f_value - after.ff[k] * source
            after.r_value = after.r_value - after.rf[:, k] * source
        return after


def respond(
    circuit: Circuit, hypotheses: Sequence[tuple[str, ...]], probes: Sequence[Port], near: Network | None = None
) -> Response:
    """The probes' view under every hypothesis: a tuple of no, one or two fault ids, pairs after their singles.

    near: a network to step from, see ``Network.solve``.
    A fault that this circuit does not have, or that only changes phases, changes nothing here.
    """
    changes, places = _fault_ports(circuit)
    healthy = _solve(circuit, [change.port for change in changes], probes, near)
    shape = (len(hypotheses), len(probes), circuit.network.draws)
    value = np.empty(shape, dtype=np.float32)
    source = np.empty(shape, dtype=np.float32)
    ports = tuple((name, len(own)) for name, own in places.items())
    for first, members in _by_first(tuple(hypotheses), ports).items():
        _fill(value, source, healthy, changes, places, first, members)
    return Response(value, source)


def _fault_ports(circuit: Circuit) -> tuple[list[Change], dict[str, tuple[int, ...]]]:
    changes: list[Change] = []
    places = {}
    for name, effect in circuit.effects.items():
        if effect.changes:
            places[name] = tuple(range(len(changes), len(changes) + len(effect.changes)))
            changes.extend(effect.changes)
    return changes, places


def _solve(circuit: Circuit, faults: Sequence[Port], probes: Sequence[Port], near: Network | None) -> _Sheet:
    solved = circuit.network.solve([*faults, *probes], near)
    count = len(faults)
    value = solved.value.T
    response = np.ascontiguousarray(solved.response.transpose(1, 2, 0))
    diagonal = np.arange(count, count + len(probes))
    return _Sheet(
        f_value=value[:count], r_value=value[count:], ff=response[:count, :count],
        rf=response[count:, :count], rr=response[diagonal, diagonal],
    )  # fmt: skip


def _signed(change: Change) -> Array:
    return -change.strength if change.port.in_series else change.strength


def _stepped(sheet: _Sheet, changes: Sequence[Change], ports: Sequence[int]) -> _Sheet:
    for k in ports:
        sheet = sheet.step(k, _signed(changes[k]), changes[k].source)
    return sheet


@lru_cache(maxsize=64)
def _by_first(
    hypotheses: tuple[tuple[str, ...], ...], ports: tuple[tuple[str, int], ...]
) -> dict[str, list[tuple[int, str]]]:
    """First fault -> (row, second fault). A fault with several ports goes first, so seconds have one port."""
    count = dict(ports)
    table: dict[str, list[tuple[int, str]]] = {}
    for row, faults in enumerate(hypotheses):
        ordered = sorted(faults, key=lambda name: -count.get(name, 0))
        first, second = (*ordered, "", "")[:2]
        table.setdefault(first, []).append((row, second))
    return table


def _fill(
    value: Compact,
    source: Compact,
    healthy: _Sheet,
    changes: Sequence[Change],
    places: dict[str, tuple[int, ...]],
    first: str,
    members: Sequence[tuple[int, str]],
) -> None:
    """All hypotheses with one first fault."""
    ports = places.get(first, ())
    twofold = [(row, second) for row, second in members if len(places.get(second, ())) > 1]
    for row, second in twofold:
        after = _stepped(healthy, changes, (*ports, *places[second]))
        value[row], source[row] = after.r_value, after.rr
    single = [(row, places[second][0]) for row, second in members if len(places.get(second, ())) == 1]
    base = _stepped(healthy, changes, ports[:-1])
    strip = _strip(base, changes, ports[-1] if ports else None, [port for _, port in single])
    unchanged = [row for row, second in members if not places.get(second)]
    value[unchanged], source[unchanged] = strip.r_value, strip.rr
    if single:
        value[[row for row, _ in single]], source[[row for row, _ in single]] = _seconds(
            strip, [changes[port] for _, port in single]
        )


@dataclass(frozen=True)
class _Strip:
    """What is needed of a sheet to step each of several ports once. f_value, ff: (ports, draws), ff its diagonal;
    rf: (probes, ports, draws); r_value, rr: (probes, draws).
    """

    f_value: Array
    ff: Array
    rf: Array
    r_value: Array
    rr: Array


def _strip(sheet: _Sheet, changes: Sequence[Change], k: int | None, ports: Sequence[int]) -> _Strip:
    """The strip of ``ports`` after the change along fault port k; None for no change."""
    diagonal = sheet.ff[ports, ports]
    if k is None:
        return _Strip(sheet.f_value[ports], diagonal, sheet.rf[:, ports], sheet.r_value, sheet.rr)
    strength, source = _signed(changes[k]), changes[k].source
    left = 1.0 / (1.0 + strength * sheet.ff[k, k])
    t = strength * left
    row, column = sheet.ff[k][ports], sheet.rf[:, k]
    pull = t * sheet.f_value[k]
    if source is not None:
        pull = pull + left * source
    return _Strip(
        f_value=sheet.f_value[ports] - row * pull,
        ff=diagonal - row * row * t,
        rf=sheet.rf[:, ports] - column[:, None] * (row * t)[None],
        r_value=sheet.r_value - column * pull,
        rr=sheet.rr - column * column * t,
    )


def _seconds(strip: _Strip, changes: Sequence[Change]) -> tuple[Array, Array]:
    """Probe values after each of several single-port changes: (changes, probes, draws) twice."""
    strength = np.stack([_signed(change) for change in changes])
    left = 1.0 / (1.0 + strength * strip.ff)
    t = strength * left
    pull = t * strip.f_value
    if any(change.source is not None for change in changes):
        pull = pull + left * np.stack(
            [change.source if change.source is not None else np.zeros_like(left[0]) for change in changes]
        )
    column = strip.rf.transpose(1, 0, 2)
    value = strip.r_value[None] - column * pull[:, None]
    source = strip.rr[None] - column * column * t[:, None]
    return value, source
