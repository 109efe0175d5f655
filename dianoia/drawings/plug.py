"""The sensor's plug: which cavity carries what, its two mirror-image faces, and what the readings say to the pin table.

The usual cavity order of a family is only a starting point; the vehicle's own table wins, and readings outrank both.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from dianoia.case.job import Job
from dianoia.case.points import TERMINAL_WORDS

#: Ohms below which two cavities on the sensor can be the heater pair, and above which they cannot.
HEATER_MOST, NOT_HEATER = 60.0, 2000.0
#: Share of system voltage on a wire from which it is a feed, and never a signal.
FEED_SHARE = 0.7
#: Spacing of the cavities, in units of the drawing.
PITCH = 60.0


@dataclass(frozen=True)
class Cavity:
    """A cavity of the plug."""

    number: str
    x: float
    """In the mating face of the loom's half."""
    y: float
    """In the mating face of the loom's half."""
    terminal: str | None
    label: str
    colour: str | None
    assumed: bool
    """The terminal is only the usual one."""


@dataclass(frozen=True)
class Plug:
    """The face of the sensor connector."""

    width: float
    height: float
    cavities: tuple[Cavity, ...]
    """As seen into the mating face; the wire side is its mirror image about width / 2."""
    heater_pair: tuple[str, ...]
    """Cavities of one colour, likely the heater."""
    advice: str
    contradictions: tuple[str, ...]
    """Readings that do not fit the pin table."""


def plug(job: Job) -> Plug:
    """The plug of a job's sensor."""
    terminals = job.family.terminals
    cavities = tuple(_cavities(job, terminals))
    columns = 1 if len(terminals) == 1 else (len(terminals) + 1) // 2 if len(terminals) > 3 else len(terminals)
    rows = 2 if len(terminals) > 3 else 1
    pair = _heater_pair(cavities)
    return Plug(
        PITCH * (columns + 0.6),
        PITCH * (rows + 0.6),
        cavities,
        pair,
        _advice(cavities, pair),
        tuple(_contradictions(job)),
    )


def _cavities(job: Job, terminals: Sequence[str]) -> Iterator[Cavity]:
    numbers = list(job.pins) or [str(index + 1) for index in range(len(terminals))]
    for index in range(len(numbers), len(terminals)):
        numbers.append(next(str(n) for n in range(1, 100) if str(n) not in numbers and index >= 0))
    taken = {pin.terminal for pin in job.pins.values() if pin.terminal}
    free = iter([name for name in terminals if name not in taken])
    columns = (len(terminals) + 1) // 2 if len(terminals) > 3 else len(terminals)
    for index, number in enumerate(numbers):
        pin = job.pins.get(number)
        terminal = pin.terminal if pin and pin.terminal else next(free, None)
        yield Cavity(
            number=number,
            x=PITCH * (0.8 + index % columns),
            y=PITCH * (0.8 + index // columns),
            terminal=terminal,
            label=TERMINAL_WORDS.get(terminal or "", "not known"),
            colour=pin.colour if pin else None,
            assumed=not (pin and pin.terminal),
        )


def _heater_pair(cavities: Sequence[Cavity]) -> tuple[str, ...]:
    colours: dict[str, list[str]] = {}
    for cavity in cavities:
        if cavity.colour:
            colours.setdefault(cavity.colour.strip().lower(), []).append(cavity.number)
    pairs = [numbers for numbers in colours.values() if len(numbers) == 2]
    return tuple(pairs[0]) if len(pairs) == 1 else ()


def _advice(cavities: Sequence[Cavity], pair: Sequence[str]) -> str:
    if pair:
        told = {cavity.number: cavity for cavity in cavities}
        fits = {told[number].terminal for number in pair} == {"heater_supply", "heater_control"}
        sure = any(not told[number].assumed for number in pair)
        text = f"Cavities {pair[0]} and {pair[1]} have wires of one colour: most likely the heater pair."
        if sure and not fits:
            return (
                text + " The pin table says otherwise: check it against the diagram, or measure the pair's resistance."
            )
        return text + " Confirm on the diagram before measuring by it."
    if any(cavity.assumed for cavity in cavities):
        return "This is only the usual order. Enter the wiring diagram's pins, then confirm them with a reading."
    return "As entered from the diagram. Diagrams can be wrong: readings that contradict it are pointed out here."


def _contradictions(job: Job) -> Iterator[str]:
    """Readings that the pin table cannot explain; only where a pin table was entered."""
    entered = {pin.terminal for pin in job.pins.values() if pin.terminal}
    if not entered:
        return
    for place, item in enumerate(job.readings):
        probe, value = item.probe, item.number
        if not item.counts or probe.of is not None or value is None:
            continue
        terminals = {point.partition(".")[2] for point in probe.points if point.startswith(("sensor.", "harness."))}
        if probe.reads_ohms and probe.on_the_part:
            yield from _pair_reading(place, terminals, value)
        to_ground = probe.reads_volts and "battery.negative" in probe.points
        if to_ground and abs(value) > FEED_SHARE * job.system_v:
            signals = terminals & {"signal", "signal_return", "cell_positive", "cell_negative", "nernst", "can_high"}
            for name in signals:
                yield (
                    f"Reading {place + 1} finds {value:.3g} V on the cavity entered as {TERMINAL_WORDS[name]}: a signal "
                    "never carries that. Either it is shorted to battery, or it is the heater's feed and the table is wrong."
                )


def _pair_reading(place: int, terminals: set[str], ohms: float) -> Iterator[str]:
    heater = {"heater_supply", "heater_control"}
    if ohms < HEATER_MOST and terminals and not terminals & {"trim", "pump"} and terminals != heater:
        listed = " and ".join(TERMINAL_WORDS[name] for name in sorted(terminals))
        yield (
            f"Reading {place + 1} finds {ohms:.3g} ohm between {listed}: that is a heater's resistance. The pin table "
            "probably names the wrong pair."
        )
