"""What is not known about a vehicle that the sensor's place depends on, and how to find it out."""

from collections.abc import Iterator

from dianoia.case.types import Vehicle
from dianoia.vehicle.types import Question
from dianoia.vehicle.words import has_two_banks


def questions(vehicle: Vehicle) -> Iterator[Question]:
    """The open questions, the one that matters most first."""
    engine = vehicle.engine
    if engine is None or engine.layout is None or engine.mounting is None:
        yield Question(
            "vehicle.engine", "How does the engine sit, and is it inline, V or flat?",
            "Look from above: belts at the front of the vehicle mean lengthwise, at a side mean across. One row of coils "
            "or injectors is inline, two are V or flat.",
        )  # fmt: skip
        return
    if has_two_banks(engine) and engine.bank_1 is None:
        yield Question(
            "vehicle.engine.bank_1", "Where is cylinder 1? Its bank is bank 1, whichever side that is.",
            "The under-bonnet label or the firing-order diagram shows it. On most V engines the bank that sits a little "
            "further forward, towards the belts, carries cylinder 1: confirm before the sensor is touched.",
        )  # fmt: skip
    if engine.sensor_banks is None and engine.layout in ("v", "flat"):
        yield Question(
            "vehicle.engine.sensor_banks", "One or two banks of sensors?",
            "Count the front sensors: one in a merged pipe is one bank, one in each pipe is two.",
        )  # fmt: skip
    if engine.exhaust is None or engine.exhaust.catalysts_in_row is None:
        yield Question(
            "vehicle.engine.exhaust.catalysts_in_row", "One or two catalysts one after another?",
            "Follow the pipe from the front sensor: a second can before the silencer means sensor 2 may sit between them.",
        )  # fmt: skip
    if vehicle.steering is None:
        yield Question(
            "vehicle.steering", "Left- or right-hand drive?", "Only to say driver's and passenger's side rightly."
        )
