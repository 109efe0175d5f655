"""One sensor with its wires and the module's pins behind them: what it is made of, drawn at random."""

from dataclasses import dataclass, field
from functools import cached_property
from random import Random
from typing import Literal

from dianoia.families.types import Family
from dianoia.simulated.parts import DRIVER_OFF_OHMS, DRIVER_ON_OHMS, TCR, Element, Wire, between, decades, new_wire

Kind = Literal["switching", "titania", "current", "two-cell", "nox"]
TERMINALS: dict[Family, tuple[str, ...]] = {
    "switching-1w": ("signal",),
    "switching-2w": ("signal", "signal_return"),
    "switching-3w": ("heater_supply", "heater_control", "signal"),
    "switching-4w": ("heater_supply", "heater_control", "signal", "signal_return"),
    "titania-4w": ("heater_supply", "heater_control", "signal", "signal_return"),
    "airfuel-4w": ("heater_supply", "heater_control", "cell_positive", "cell_negative"),
    "wideband-5w": ("heater_supply", "heater_control", "nernst", "virtual_ground", "pump"),
    "wideband-6w": ("heater_supply", "heater_control", "nernst", "virtual_ground", "pump", "trim"),
    "nox-can-4w": ("supply", "ground", "can_high", "can_low"),
    "nox-can-5w": ("supply", "ground", "can_high", "can_low", "address"),
}
#: Cold heater ohms that each kind is sold with (replacement-part listings, general).
COLD_OHMS: dict[Kind, tuple[float, float]] = {
    "switching": (3.2, 14.5), "titania": (4.5, 13.5), "current": (1.7, 3.6), "two-cell": (2.2, 3.4), "nox": (1.2, 2.4),
}  # fmt: skip
#: Temperature a heater settles at by itself with full drive, in °C above its surroundings, and seconds to 63 % of it. Planar elements 5 to 12 s, thimble ones 20 to 45 s (light-off times of data sheets: 10 to 60 s).
RISE_C, TAU_S = (420.0, 620.0), {"planar": (4.0, 10.0), "thimble": (16.0, 40.0)}
#: Share of heaters that are pulsed: all wideband ones are, of switching ones about a third since the nineties.
PULSED: dict[Kind, float] = {"switching": 0.3, "titania": 0.2, "current": 0.8, "two-cell": 1.0, "nox": 0.0}
#: What modules bias a zirconia signal with, in volts, and how many of a hundred do.
BIASES = ((0.45, 72), (0.0, 14), (0.5, 6), (1.1, 5), (1.65, 3))
#: Heater current that a module still accepts, as shares of charging voltage over the hot element it was made for: lowest and highest.
#: Connectors and driver take up to a tenth of it, parts differ by a tenth, and a hot start adds a third (heater monitor descriptions).
ACCEPTED_LOW, ACCEPTED_HIGH = (0.55, 0.85), (1.2, 2.0)


def kind_of(family: Family) -> Kind:
    """The kind of cell."""
    if family.startswith("switching"):
        return "switching"
    return {"titania-4w": "titania", "airfuel-4w": "current"}.get(
        family, "nox" if family.startswith("nox") else "two-cell"
    )  # type: ignore[return-value]


@dataclass
class Cell:
    """What answers the gas."""

    rich_v: float
    """Of a zirconia cell, in volts."""
    lean_v: float
    """Of a zirconia cell, in volts."""
    rise_s: float
    """To 63 %."""
    fall_s: float
    """To 63 %."""
    hot_ohms: float
    """Its own."""
    lights_c: float
    """From where it works."""
    slope_a: float
    """Amperes of a current cell for each unit of lambda."""
    rich_ohms: float
    """Titania."""
    lean_ohms: float
    """Titania."""
    dead: bool = False
    shorted_ohms: float | None = None
    #: A lambda that it reads too high by: more is leaner.
    off: float = 0.0
    trim_ohms: float = 120.0


@dataclass
class Sensor:
    """Everything between one sensor's gas and the module's software."""

    address: str
    family: Family
    wires: dict[str, Wire]
    element: Element | None
    #: Cold ohms that the module was made for, whatever is fitted.
    made_for_ohms: float
    cell: Cell
    switch: Literal["low-side", "high-side"]
    drive: Literal["steady", "pwm"]
    duty: float
    pwm_hz: float
    ramp_s: float
    driver_on: float
    driver_off: float
    #: A pull-up by which some modules notice an open heater, (volts, ohms); None for none.
    watch: tuple[float, float] | None
    bias_v: float
    bias_ohms: float
    input_ohms: float
    held_v: float
    apart_v: float
    cut_off_rpm: float
    latches_after_s: float
    ground: Wire
    shell_ohms: float
    #: Lowest and highest heater current that the module accepts, see ``ACCEPTED_LOW``.
    accepts: tuple[float, float]
    driver: Literal["works", "open", "stuck"] = "works"
    input_dead: bool = False
    bias_gone: bool = False
    swapped: bool = False
    shorts: list[tuple[str, str, float]] = field(default_factory=list)
    """Pairs of points with the ohms between."""
    #: A corroded pin that passes current one way only, by terminal.
    diode: str | None = None
    #: A heater wired crosswise with another sensor's: the module drives the other one.
    crossed_heater: bool = False
    unit_dead: bool = False
    #: A NOx probe's value: factor and offset in ppm; of its oxygen, a factor.
    nox_factor: float = 1.0
    nox_offset: float = 0.0
    o2_factor: float = 1.0
    probe_cold: bool = False

    @cached_property
    def kind(self) -> Kind:
        """The kind of cell."""
        return kind_of(self.family)

    @cached_property
    def terminals(self) -> tuple[str, ...]:
        """Its terminals."""
        return TERMINALS[self.family]

    @cached_property
    def position(self) -> int:
        """1 before the catalyst, 2 behind."""
        return int(self.address[3])

    @cached_property
    def bank(self) -> int:
        """1 or 2."""
        return int(self.address[1])

    @cached_property
    def cell_ends(self) -> tuple[str, str | None]:
        """The cell's terminals; None for the shell."""
        names = [name for name in self.terminals if name not in ("heater_supply", "heater_control", "pump", "trim")]
        return names[0], (names[1] if len(names) > 1 else None)


def new_element(random: Random, kind: Kind, volts: float) -> Element:
    """A sound heater for a system of so many volts: its losses follow from the temperature it is made to reach."""
    ohms = between(random, COLD_OHMS[kind]) * (1.0 if kind != "nox" else (volts / 12.0) ** 2)
    tcr = between(random, TCR)
    rise = between(random, RISE_C)
    settled = Element(ohms, tcr, 1.0, 1.0)
    loss = settled.watts(1.13 * volts, 150.0 + rise) / rise
    tau = between(random, TAU_S["thimble" if kind in ("switching", "titania") and random.random() < 0.5 else "planar"])
    return Element(ohms, tcr, tau * loss, loss)


def new_sensor(random: Random, address: str, family: Family, system_v: float) -> Sensor:
    """A sound sensor with sound wires and a sound module behind it."""
    kind = kind_of(family)
    heated = "heater_supply" in TERMINALS[family] or kind == "nox"
    pulsed = random.random() < PULSED[kind]
    bias = random.choices([v for v, _ in BIASES], [n for _, n in BIASES])[0] if kind == "switching" else 0.0
    if kind == "titania":
        bias = random.choice((1.0, 5.0, 5.0))
    element = new_element(random, kind, system_v) if heated else None
    return Sensor(
        address=address,
        family=family,
        wires={name: new_wire(random) for name in (*TERMINALS[family],)},
        element=element,
        made_for_ohms=element.ohms_20c if element else 0.0,
        cell=new_cell(random),
        switch="high-side" if heated and kind != "nox" and random.random() < 0.09 else "low-side",
        drive="pwm" if pulsed else "steady",
        duty=between(random, (0.25, 0.95)) if pulsed else 1.0,
        pwm_hz=decades(random, 2.0, 250.0),
        ramp_s=between(random, (0.0, 12.0)) if pulsed else 0.0,
        driver_on=between(random, DRIVER_ON_OHMS),
        driver_off=decades(random, *DRIVER_OFF_OHMS),
        watch=(random.choice((2.5, 3.3, 5.0)), decades(random, 1e4, 1e5)) if random.random() < 0.2 else None,
        bias_v=bias,
        # module inputs: 100 k to 1 M of bias resistance, some megohms of input (circuit notes of sensor interfaces)
        bias_ohms=decades(random, 1e4, 5e4) if kind == "titania" else decades(random, 9e4, 1.1e6),
        input_ohms=decades(random, 1.2e6, 1.2e7),
        # what makers hold the two wires of a current cell at, and the ground of a two-cell sensor
        held_v=random.choice((3.3, 3.3, 3.0, 2.9, 2.6, 2.4)) if kind == "current" else between(random, (2.4, 2.6)),
        apart_v=random.choice((0.3, 0.3, 0.4, 0.45)),
        cut_off_rpm=between(random, (3200.0, 5200.0)),
        latches_after_s=between(random, (2.0, 25.0)),
        ground=new_wire(random),
        shell_ohms=between(random, (0.02, 0.4)),
        accepts=(between(random, ACCEPTED_LOW), between(random, ACCEPTED_HIGH)),
    )  # fmt: skip


def new_cell(random: Random) -> Cell:
    """A sound cell. Zirconia: Nernst's law gives 0.8 to 0.9 V rich and under 0.1 V lean at 600 to 800 °C."""
    return Cell(
        rich_v=between(random, (0.78, 0.92)), lean_v=between(random, (0.03, 0.14)),
        rise_s=between(random, (0.03, 0.09)), fall_s=between(random, (0.04, 0.11)),
        hot_ohms=decades(random, 400.0, 6e3), lights_c=between(random, (290.0, 350.0)),
        # limiting currents: 0.6 to 0.9 mA in 10 % lean gas (data sheets of current cells)
        slope_a=between(random, (4.5e-3, 8.5e-3)), rich_ohms=decades(random, 500.0, 4e3), lean_ohms=decades(random, 4e4, 4e5),
        trim_ohms=between(random, (32.0, 290.0)),
    )  # fmt: skip
