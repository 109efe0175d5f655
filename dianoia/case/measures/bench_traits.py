"""What a measurement is to the bench: its place on the dial, and which of the vehicle's state it has."""

from dataclasses import dataclass

from dianoia.case.terms import Key, Mating


@dataclass(frozen=True)
class BenchTraits:
    """Where a measure stands on the bench."""

    label: str
    """On the meter's dial, and of the keyboard."""
    letter: str
    """On the meter's dial, and of the keyboard."""
    reads: bool = True
    """An instrument is read, so that key, plug and conditions are said."""
    touches: bool = True
    """Whether it lies on the circuit, so that the module's plug and the battery matter."""
    live: bool = True
    """Codes just cleared may change what it shows."""
    key: Key | None = None
    """What it begins with where it is chosen by hand, None for what stands."""
    connector: Mating | None = None
    """What it begins with where it is chosen by hand, None for what stands."""
