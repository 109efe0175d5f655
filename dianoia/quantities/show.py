"""Quantity -> text for people, with the unit that suits its size."""

import math

from dianoia.quantities.types import UNIT, Kind

_THOUSANDTHS = ("voltage", "current")
#: What a person calls nought, in the kind's unit, and by how many times an end is nought beside the other.
NEAR_NOUGHT: dict[Kind, float] = {
    "voltage": 0.03, "current": 0.02, "resistance": 0.0, "ratio": 0.004, "frequency": 0.0, "number": 0.5, "time": 0.02,
    "cell_current": 1e-5, "lambda": 0.0, "ppm": 1.0, "oxygen": 0.1, "temperature": 0.0, "power": 0.0,
}  # fmt: skip
WIDE_BY = 50.0


def show(value: float, kind: Kind, zeros: bool = False) -> str:
    """Three significant digits and a unit: 18600 ohm -> ``18.6 kohm``; infinite -> ``OL``.

    zeros: keep the zeros at the end, as an instrument does.
    """
    return _show_sized(value, kind, abs(value), zeros)


def _show_sized(value: float, kind: Kind, size: float, zeros: bool = False) -> str:
    """size: what decides on thousandths, in the kind's unit."""
    if math.isinf(value):
        return "OL"
    if kind == "ratio":
        return f"{_digits(100 * value, zeros)} %"
    if kind == "cell_current":
        return f"{_digits(1000 * value, zeros)} mA"
    prefix, scale = _prefix(size if kind in _THOUSANDTHS else abs(value), kind)
    unit = f"{prefix}{UNIT[kind]}"
    return f"{_digits(value / scale, zeros)} {unit}".rstrip()


def show_range(low: float, high: float, kind: Kind) -> str:
    """``13.2 to 14.7 V``; one value where both ends read alike.

    Thousandths are used where both ends are that small.

    >>> show_range(0.0233, 0.231, "voltage"), show_range(0.0233, 0.04, "voltage")
    ('0.023 to 0.231 V', '23.3 to 40 mV')
    """
    size = max((abs(end) for end in (low, high) if math.isfinite(end)), default=0.0)
    first, last = (_show_sized(end, kind, size) for end in (low, high))
    if first == last:
        return first
    number, _, unit = first.partition(" ")
    same_unit = unit == last.partition(" ")[2]
    return f"{number if same_unit else first} to {last}"


def as_said(low: float, high: float, kind: Kind) -> tuple[float, float]:
    """Both ends of a range as ``show_range`` prints them, in the kind's unit; what is infinite stays so.

    >>> as_said(2.3479, 3.652, "resistance"), as_said(0.02331, 0.23149, "voltage")
    ((2.35, 3.65), (0.023, 0.231))
    """
    size = max((abs(end) for end in (low, high) if math.isfinite(end)), default=0.0)
    return _rounded(low, kind, size), _rounded(high, kind, size)


def _rounded(value: float, kind: Kind, size: float) -> float:
    if math.isinf(value):
        return value
    scale = {"ratio": 0.01, "cell_current": 1e-3}.get(kind) or _prefix(
        size if kind in _THOUSANDTHS else abs(value), kind
    )[1]
    return float(_digits(value / scale, False)) * scale


def say_range(low: float, high: float, kind: Kind) -> str:
    """A range that a sound circuit may show, as a person says it.

    >>> say_range(0.0, 0.02, "voltage"), say_range(9e-6, 12.6, "voltage"), say_range(3000, float("inf"), "resistance")
    ('near 0 V', 'below 12.6 V', 'over 3 kohm')
    """
    near = NEAR_NOUGHT[kind]
    if math.isinf(high):
        return f"over {show(low, kind)}" if math.isfinite(low) else "OL"
    if max(abs(low), abs(high)) <= near:
        return f"near {show(0.0, kind)}"
    wide = low >= 0 and kind != "resistance" and high > WIDE_BY * max(low, near)
    if high > 0 and (wide or abs(low) <= near):
        return f"below {show(high, kind)}"
    return show_range(low, high, kind)


def percent(share: float) -> str:
    """A belief as a person says it, never certain and never impossible.

    >>> percent(0.997), percent(0.42), percent(0.001)
    ('over 99 %', '42 %', 'under 1 %')
    """
    if share >= 0.995:
        return "over 99 %"
    return "under 1 %" if share < 0.005 else f"{int(100 * share + 0.5)} %"


def _prefix(size: float, kind: Kind) -> tuple[str, float]:
    if kind == "resistance":
        for prefix, scale in (("M", 1e6), ("k", 1e3)):
            if size >= scale * 0.9995:
                return prefix, scale
    if kind in _THOUSANDTHS and 0 < size < 0.0995:
        return "m", 1e-3
    return "", 1.0


def _digits(value: float, zeros: bool) -> str:
    size = max(abs(value), 1e-12)
    decimals = max(0, min(3, 2 - math.floor(math.log10(size))))
    text = f"{value:.{decimals}f}"
    if zeros:
        return text
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("-0", "") else text
