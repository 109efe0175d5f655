"""How a car, its plugs and its driver stand while something is read."""

from dataclasses import dataclass


@dataclass(frozen=True)
class State:
    """How car and plugs stand."""

    key: str = "running"
    connector: str = "mated"
    module: str = "mated"
    battery: str = "connected"
    cleared: bool = False
    """Codes cleared just before; extra: things laid into the circuit while reading, each called with the network."""
    at_s: float | None = None
    """Seconds since start (or key on)."""
    rpm: float | None = None
    conditions: frozenset[str] = frozenset()
    fed_v: float | None = None
    jumper: tuple[str, str] | None = None
    cold: bool = False
