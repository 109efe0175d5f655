"""What an instrument, a look or an act may answer: kinds of figures, and closed lists of words."""

from typing import get_args

from dianoia.case.terms import Action, InspectTarget, Outcome, Pid, Seen
from dianoia.quantities.types import Kind

#: Scan values that are figures, and of what kind.
SCAN_KIND: dict[Pid, Kind] = {
    "heater_current": "current", "heater_resistance": "resistance", "sensor_voltage": "voltage",
    "cell_current": "cell_current", "lambda": "lambda", "short_trim": "ratio", "long_trim": "ratio",
    "battery_voltage": "voltage", "nox": "ppm", "o2": "oxygen",
}  # fmt: skip
#: Categorical that a scan value may be; beside a figure where it has a kind as well.
SCAN_WORDS: dict[Pid, tuple[str, ...]] = {
    "heater_command": ("on", "off"),
    "loop": ("open", "closed"),
    "heater_monitor": ("complete", "incomplete", "unsupported"),
    "nox": ("n/a",),
    "o2": ("n/a",),
    "nox_status": ("supply-out-of-range", "not-at-temperature", "not-stable", "valid"),
    "can_messages": ("present", "absent"),
}
#: What may come of an act; of any other only that it was done.
OUTCOMES: dict[Action, tuple[Outcome, ...]] = {
    "clear-codes": ("done", "returned-at-once", "returned-later", "not-returned"),
    "swap-sensors": ("code-moved", "code-stayed", "not-driven"),
    "wiggle": ("changed", "no-change"),
    "dosing-test": ("passed", "failed"),
}
#: What is worth telling apart when something is looked at.
LOOKS: dict[InspectTarget, tuple[Seen, ...]] = {
    "pins": ("ok", "loose", "corroded", "broken"),
    "connector": ("ok", "loose", "corroded", "wet", "melted", "broken", "unplugged"),
    "inline-connector": ("ok", "loose", "corroded", "wet", "melted", "broken", "unplugged"),
    "harness": ("ok", "chafed", "melted", "broken"),
    "fuse": ("ok", "blown", "corroded"),
    "ground": ("ok", "loose", "corroded"),
    "sensor": ("ok", "broken", "melted", "soot", "contaminated", "wrong-part"),
    "exhaust": ("ok", "leak", "soot"),
    "intake": ("ok", "leak"),
    "urea": ("ok", "poor"),
}


#: What is only done, and looked at, where urea is dosed.
OF_DOSING: tuple[Action, ...] = ("repair-dosing", "reset-learned-values", "dosing-test")
#: Acts that mend something: they begin so in the format.
REPAIRS: tuple[Action, ...] = tuple(name for name in get_args(Action) if name.startswith(("replace-", "repair-")))
