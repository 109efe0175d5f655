"""Quantity -> text for people, with the unit that suits its size."""

import math

from dianoia.quantities.types import UNIT, Kind


def show(value: float, kind: Kind, zeros: bool = False) -> str:
    """Three significant digits and a unit: 18600 ohm -> ``18.6 kohm``; infinite -> ``OL``.

    zeros: keep the zeros at the end, as an instrument does.
    """
    if math.isinf(value):
        return "OL"
    if kind == "ratio":
        return f"{_digits(100 * value, zeros)} %"
    if kind == "cell_current":
        return f"{_digits(1000 * value, zeros)} mA"
    prefix, scale = _prefix(abs(value), kind)
    unit = f"{prefix}{UNIT[kind]}"
    return f"{_digits(value / scale, zeros)} {unit}".rstrip()


def show_range(low: float, high: float, kind: Kind) -> str:
    """``13.2 to 14.7 V``; one value where both ends read alike."""
    first, last = show(low, kind), show(high, kind)
    if first == last:
        return first
    number, _, unit = first.partition(" ")
    same_unit = unit == last.partition(" ")[2]
    return f"{number if same_unit else first} to {last}"


def percent(share: float) -> str:
    """A belief as a person says it, never certain and never impossible.

    >>> percent(0.997), percent(0.42), percent(0.001)
    ('over 99 %', '42 %', 'under 1 %')
    """
    if share >= 0.995:
        return "over 99 %"
    return "under 1 %" if share < 0.005 else f"{round(100 * share)} %"


def _prefix(size: float, kind: Kind) -> tuple[str, float]:
    if kind == "resistance":
        for prefix, scale in (("M", 1e6), ("k", 1e3)):
            if size >= scale * 0.9995:
                return prefix, scale
    if kind in ("voltage", "current") and 0 < size < 0.0995:
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
