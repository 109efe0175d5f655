"""Makes the demo's recordings anew with simulated instruments, and writes them into their cases.

Run: ``.venv/bin/python scripts/demo_recordings.py``, after a change of the second car, of the instruments or of the kept form.
"""

import json
import sys
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT))

from dianoia.case.load import to_plain  # noqa: E402
from dianoia.case.recordings import CaseRecording, Mark  # noqa: E402
from dianoia.instruments.interface import SampleSource  # noqa: E402
from dianoia.instruments.plans import plan_named  # noqa: E402
from dianoia.instruments.recording import rows, write_csv  # noqa: E402
from dianoia.instruments.scan_tool import ScanRecorder, channel  # noqa: E402
from dianoia.instruments.scope import Lead, Scope  # noqa: E402
from dianoia.instruments.vehicle import SimulatedVehicle  # noqa: E402
from dianoia.signals import keep  # noqa: E402
from dianoia.signals.load import load  # noqa: E402
from dianoia.signals.measure import measure  # noqa: E402
from dianoia.signals.recording import Event, Recording  # noqa: E402
from dianoia.signals.view import case_columns  # noqa: E402

CASES, SAMPLES = ROOT / "demo" / "cases", ROOT / "demo" / "recordings"


@dataclass(frozen=True)
class DemoRecording:
    """One recording of a demo case."""

    case: str
    """Name of the case's file, without its ending."""
    title: str
    family: Any
    faults: tuple[str, ...]
    seed: int
    of: str
    plan: str
    taken: str
    channels: tuple[tuple[str, str | None], ...] = ()
    """Signals of the scan tool, each with its sensor."""
    leads: tuple[str, ...] = ()
    """Points of the scope's leads; none for a scan tool."""
    rate_hz: float = 2000.0
    """Samples a second of the scope."""
    marks: tuple[tuple[float, str], ...] = ()
    known: dict[str, Any] = field(default_factory=dict)
    """What is known of the vehicle."""


RECORDINGS = (
    DemoRecording(
        "13-school-bus-cold-start", "Cold start, both front sensors", "switching-4w", ("element-open",), 4, "B1S1", "cold-start",
        "2026-11-26T07:40:00+00:00",
        channels=(("battery_voltage", None), ("engine_speed", None), ("sensor_voltage", "B1S1"), ("sensor_voltage", "B2S1"),
                  ("heater_current", "B1S1"), ("heater_current", "B2S1")),
        marks=((3.0, "start"),), known={"sensor_banks": 2},
    ),
    DemoRecording(
        "14-ambulance-pulsed-heater", "Control wire and clamp, first 12 s", "airfuel-4w", (), 6, "B1S1", "key=running 12s",
        "2026-11-27T09:20:00+00:00", leads=("harness.heater_control", "clamp"), marks=((0.0, "start"),),
        known={"heater_drive": "pwm", "heater_switch": "low-side"},
    ),
    DemoRecording(
        "15-van-late-answer", "Propane, then a hose pulled off", "switching-4w", ("cell-slow",), 9, "B1S1", "rich-lean",
        "2026-11-27T14:05:00+00:00",
        channels=(("engine_speed", None), ("sensor_voltage", "B1S1"), ("sensor_voltage", "B2S1")),
        marks=((20.0, "rich"), (35.0, "lean")), known={"sensor_banks": 2},
    ),
)  # fmt: skip


def main() -> None:
    """Write all of them."""
    for path in SAMPLES.glob("*.parquet"):
        path.unlink()
    for demo in RECORDINGS:
        noted = recorded(demo)
        path = CASES / f"{demo.case}.json"
        case = json.loads(path.read_text(encoding="utf-8"))
        case["recordings"] = [to_plain(noted)]
        path.write_text(json.dumps(case, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
        print(f"{demo.case}: {noted.rows} rows")


def recorded(demo: DemoRecording) -> CaseRecording:
    """Record, keep the samples, and say what is noted of them."""
    vehicle = SimulatedVehicle(demo.family, demo.faults, demo.seed, demo.of, **demo.known)
    source: SampleSource = (
        Scope(vehicle, [Lead(point) for point in demo.leads], demo.rate_hz)
        if demo.leads
        else ScanRecorder(vehicle, [channel(signal, of) for signal, of in demo.channels])
    )
    recording = _through_a_file(source, list(rows(vehicle, source, plan_named(demo.plan))))
    with TemporaryDirectory() as folder:
        made = Path(folder) / "made.parquet"
        digest = keep.write(recording, made)
        (SAMPLES / f"{digest.removeprefix('sha256:')}.parquet").write_bytes(made.read_bytes())
    marks = tuple(Event(at_s, event) for at_s, event in demo.marks)
    measured = measure(Recording(recording.traces, recording.rows, marks=marks))
    return CaseRecording(
        recording=digest,
        title=demo.title,
        rows=recording.rows,
        from_s=recording.from_s,
        to_s=recording.to_s,
        columns=case_columns(measured),
        marks=tuple(Mark(at_s=at_s, event=event) for at_s, event in demo.marks),  # type: ignore[arg-type]
        instrument="simulated",
        taken=demo.taken,
    )


def _through_a_file(source: SampleSource, taken: Sequence[Any]) -> Recording:
    """As a technician's own: written as the tool writes it, and read."""
    with TemporaryDirectory() as folder:
        path = Path(folder) / "log.csv"
        write_csv(source.channels, taken, path)
        return load(path)


if __name__ == "__main__":
    main()
