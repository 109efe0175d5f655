"""The names of sensor families and of their terminals."""

from typing import Literal

Family = Literal[
    "switching-1w", "switching-2w", "switching-3w", "switching-4w", "titania-4w",
    "airfuel-4w", "wideband-5w", "wideband-6w", "nox-can-4w", "nox-can-5w",
]  # fmt: skip
Cell = Literal["zirconia", "titania", "limiting-current", "two-cell", "nox"]
Terminal = Literal[
    "heater_supply", "heater_control", "signal", "signal_return", "cell_positive", "cell_negative",
    "nernst", "virtual_ground", "pump", "trim", "supply", "ground", "can_high", "can_low", "address",
]  # fmt: skip

#: The heater's own two.
HEATER_TERMINALS: tuple[Terminal, ...] = ("heater_supply", "heater_control")
#: The cell's own, whose voltage moves with the mixture.
SIGNAL_TERMINALS = frozenset(
    ("signal", "signal_return", "cell_positive", "cell_negative", "nernst", "virtual_ground", "pump")
)
#: Of these, the wires of a continuous cell, which a module holds at volts of its maker's own choice.
HELD = frozenset(("cell_positive", "cell_negative", "nernst", "virtual_ground", "pump"))
