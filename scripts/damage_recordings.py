"""Damages files of every kind in many ways and reads them: each has to be read, or refused in words.

Run: ``.venv/bin/python scripts/damage_recordings.py 10000``. It tells how many were read, refused, and what else came.
"""

import random
import resource
import sys
from collections import Counter
from multiprocessing import get_context
from pathlib import Path
from tempfile import TemporaryDirectory

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.damaged_files import came_of, damaged, wholes

#: Files that one process reads before it ends, bytes of memory and seconds that it may take.
AT_A_TIME, MOST_MEMORY, LONGEST_S = 250, 3_000_000_000, 300


def _read_some(seed: int, count: int) -> Counter[str]:
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    chance, found = random.Random(seed), Counter[str]()
    with TemporaryDirectory() as folder:
        files = wholes(Path(folder))
        path = Path(folder) / "damaged"
        for _ in range(count):
            path.write_bytes(damaged(chance.choice(files), chance))
            found[came_of(path)] += 1
    return found


def main(count: int) -> None:
    """Read so many damaged files, each lot in a process of its own."""
    found: Counter[str] = Counter()
    with get_context("spawn").Pool(2, maxtasksperchild=1) as pool:
        lots = [pool.apply_async(_read_some, (seed, AT_A_TIME)) for seed in range(-(-count // AT_A_TIME))]
        for lot in lots:
            found += lot.get(LONGEST_S * 20)
    for what, times in found.most_common():
        print(f"{times:6}  {what}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1000)
