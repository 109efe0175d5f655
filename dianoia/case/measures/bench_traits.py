"""What a measurement is to the bench: its place on the dial, and which of the vehicle's state it has."""

from dataclasses import dataclass

from dianoia.case.terms import Key, Mating


@dataclass(frozen=True)
class BenchTraits:
    """label, letter: on the meter's dial, and of the keyboard.

    reads: an instrument is read, so that key, plug and conditions are said. touches: it lies on the circuit, so that the module's plug and
    the battery matter. live: codes just cleared may change what it shows. key, connector: what it begins with where it is chosen by
    hand, None for what stands.
    """

    label: str
    letter: str
    reads: bool = True
    touches: bool = True
    live: bool = True
    key: Key | None = None
    connector: Mating | None = None
