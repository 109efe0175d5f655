"""The faults that a new sensor takes away, by what of it is bad."""

ELEMENT = ("heater-open", "heater-high", "heater-low", "heater-short")
CELL = (
    "cell-open",
    "cell-shorted",
    "cell-slow",
    "cell-biased-lean",
    "cell-biased-rich",
    "cell-contaminated",
    "cell-nonsense",
    "cell-heater-leak",
)
UNIT = ("unit-dead", "probe-heater", "probe-cell", "probe-drift", "probe-nonsense", "probe-crystals")
