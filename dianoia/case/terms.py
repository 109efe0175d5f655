"""The words that a case file may use, each a closed list of the open format."""

from typing import Literal

Style = Literal["live-first", "ohms-first", "scan-first", "basic-kit"]
CodeStatus = Literal["stored", "pending", "permanent", "history"]
FeedLive = Literal["always", "key-on", "running"]
FeedOrder = Literal["relay-fuse", "fuse-relay"]
HeaterSwitch = Literal["low-side", "high-side"]
HeaterDrive = Literal["steady", "pwm"]
Symptom = Literal[
    "none", "rough-idle", "poor-economy", "hesitation", "black-smoke", "sulphur-smell", "failed-inspection", "derate"
]
History = Literal["engine-work", "exhaust-work", "collision", "recent-sensor", "water", "rodent", "repeat-visit"]
Key = Literal["off", "on", "running", "cranking"]
Mating = Literal["mated", "unplugged"]
Condition = Literal[
    "none", "rich", "lean", "snap", "fuel-cut", "fresh-air", "dosing-on", "dosing-off",
    "heater-commanded", "signal-fed", "signal-grounded", "control-grounded",
]  # fmt: skip
Pid = Literal[
    "heater_current", "heater_resistance", "heater_command", "sensor_voltage", "cell_current", "lambda",
    "short_trim", "long_trim", "loop", "heater_monitor", "battery_voltage", "nox", "o2", "nox_status", "can_messages",
]  # fmt: skip
InspectTarget = Literal[
    "connector",
    "pins",
    "inline-connector",
    "harness",
    "ground",
    "exhaust",
    "intake",
    "sensor",
    "fuse",
    "urea",
]
ExhaustPlace = Literal["before-front", "between", "after-rear"]
Seen = Literal[
    "ok", "unplugged", "loose", "corroded", "wet", "chafed", "melted", "broken", "leak", "soot",
    "contaminated", "wrong-part", "blown", "poor",
]  # fmt: skip
#: What a scan tool says of a readiness monitor.
Monitor = Literal["complete", "incomplete", "unsupported"]
Action = Literal[
    "clear-codes", "swap-sensors", "wiggle", "replace-sensor", "repair-wiring", "replace-fuse", "replace-relay",
    "replace-module", "repair-exhaust", "repair-mixture", "repair-dosing", "reset-learned-values", "dosing-test", "battery-on-signal",
]  # fmt: skip
Outcome = Literal[
    "returned-at-once",
    "returned-later",
    "not-returned",
    "code-moved",
    "code-stayed",
    "not-driven",
    "changed",
    "no-change",
    "passed",
    "failed",
    "done",
]
FigureName = Literal["min", "max", "mean", "switches_per_min", "first_activity_s", "rise_s", "fall_s", "delay_s"]
Moves = Literal["steady", "slow", "switching"]
#: What was done against a gross error before a value was taken.
Check = Literal["leads-shorted", "other-tips"]
LampLight = Literal["off", "dim", "bright", "flashing"]
