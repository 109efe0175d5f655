"""Work out the chances of some cases by brute force, and write them beside the tests that hold the program to them.

    python -m scripts.reference_belief [CASE ...]      all cases, or those named; what is done is kept, and gone on with

All hypotheses are weighed, none is left out. Draws are taken in chunks of ``CHUNK``. Half of each as they come, half gathered once by what the first chunks said. It ends when the standard error of every fault's chance, from the scatter of the chunks, is below ``WANTED``.
Chunks keep the memory below 2 GB. The case, the chances, their standard error and the number of draws that speak are kept.
"""

import json
import sys
from pathlib import Path
from typing import Any

import numpy as np

from dianoia.case.job import Job, job_of
from dianoia.case.load import case_from_plain
from dianoia.circuit.network import Array
from dianoia.diagnosis.faults.subject import subject_of
from dianoia.diagnosis.inference.belief import Belief, speaking
from dianoia.diagnosis.inference.engine import Engine
from dianoia.diagnosis.inference.evidence import take_in
from dianoia.diagnosis.inference.learn import LearnedProposal, learn
from dianoia.diagnosis.inference.loops import DrawSettings

ROOT = Path(__file__).resolve().parents[1]
OUT = ROOT / "tests" / "core" / "reference_belief.json"
#: Draws of a chunk, chunks at least and at most, and the standard error that is wanted.
CHUNK, LEAST, MOST, WANTED = 1000, 12, 200, 0.0045
#: Seeds that the program itself does not use.
FIRST_SEED = 500_000
#: Cases, and how many of their readings: undecided ones, as a decided case says little.
CASES: tuple[tuple[str, int], ...] = (
    ("01-one-wire-signal-cut", 3), ("05-three-wire-element-open", 3), ("09-catalyst-lets-all-through", 2), ("13-ol-and-an-unloaded-feed", 1),
    ("16-signal-wire-on-the-exhaust", 2), ("18-relay-does-not-close", 3), ("21-titania-element-open", 1), ("25-airfuel-air-past-the-meter", 2),
    ("29-wideband-trim-wire-cut", 2), ("31-nox-fuse-blown", 4), ("33-nox-ammonia-when-dosing", 4), ("27-wideband-heater-180-ohm", 2),
)  # fmt: skip


def main(wanted: list[str]) -> None:
    """Work out what is wanted and not there yet."""
    found: dict[str, Any] = json.loads(OUT.read_text())["cases"] if OUT.exists() else {}
    for name, count in CASES:
        if (wanted and name not in wanted) or (not wanted and name in found):
            continue
        document = json.loads((ROOT / "tests" / "acceptance" / f"{name}.json").read_text())["case"]
        case = {**document, "readings": document["readings"][:count]}
        found[name] = {"case": case, **_worked_out(job_of(case_from_plain(case)), name)}
        OUT.write_text(json.dumps({"cases": found}, indent=1, sort_keys=True) + "\n")


def _worked_out(job: Job, name: str) -> dict[str, Any]:
    """Chances of one case."""
    first = Engine(subject_of(job), DrawSettings(CHUNK, seed=FIRST_SEED))
    belief = _weighed(first, job)
    learnt = learn(belief, belief.posterior())
    names, has = first.space.incidence
    chunks: list[tuple[float, Array, float]] = []
    while len(chunks) < MOST:
        number = len(chunks)
        drawing = DrawSettings(CHUNK, learnt if number % 2 else LearnedProposal(), FIRST_SEED + 1 + number)
        chunks.append(_chunk(Engine(first.subject, drawing), job, has))
        chances, error = _together(chunks)
        print(f"\r{name}: {len(chunks)} chunks, standard error {error:.4f} ", end="", file=sys.stderr, flush=True)
        if len(chunks) >= LEAST and error < WANTED:
            break
    print(file=sys.stderr)
    return {
        "chances": {fault: round(float(chance), 5) for fault, chance in zip(names, chances, strict=True)},
        "standard_error": round(error, 5), "draws": CHUNK * len(chunks),
        "draws_that_speak": round(sum(item[2] for item in chunks)),
    }  # fmt: skip


def _weighed(engine: Engine, job: Job) -> Belief:
    engine.work_out(item.probe for item in job.counted)
    belief = engine.belief(engine.models_for(job.readings))
    take_in(belief, job.readings)
    return belief


def _chunk(engine: Engine, job: Job, has: Array) -> tuple[float, Array, float]:
    """Log of all weight together, each fault's share of it, and how many draws speak for the likeliest hypothesis."""
    belief = _weighed(engine, job)
    weight = belief.log_weight()
    top = float(weight.max())
    share = np.exp(weight - top)
    best = int(weight.argmax())
    speak = min(float(speaking(belief.draws(loop)[rows[best]])[0]) for loop, rows in engine.space.rows.items())
    return top + float(np.log(share.sum())), (share / share.sum()) @ has, speak


def _together(chunks: list[tuple[float, Array, float]]) -> tuple[Array, float]:
    """Chances over all chunks, and the largest standard error of them: of a ratio, from the scatter of the chunks.

    Plain and gathered chunks come in turn, and are joined in pairs.
    """
    logs = np.array([item[0] for item in chunks])
    weight = np.exp(logs - logs.max())
    shares = np.stack([item[1] for item in chunks])
    chances: Array = weight @ shares / weight.sum()
    count = len(chunks)
    apart = weight[:, None] * (shares - chances)
    error = np.sqrt((apart**2).sum(axis=0) * count / max(count - 1, 1)) / weight.sum()
    return chances, float(error.max())


if __name__ == "__main__":
    main(sys.argv[1:])
