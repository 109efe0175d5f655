"""Files of recordings with something wrong in them."""

import os
import random
import signal
from pathlib import Path

from dianoia.errors import RefusedInput

#: What may be put anywhere.
STRAYS = (
    b"\x00",
    b"\xff\xfe",
    b'"',
    b'""',
    b"\n",
    b"\r",
    b",",
    b";",
    b"nan",
    b"inf",
    b"-",
    b"1e999",
    b"\xf0\x9f",
    b"9" * 400,
    b"time",
    b"\t",
)


def wholes(folder: Path) -> list[bytes]:
    """Whole files of every kind, to be damaged."""
    from dianoia.instruments.plans import plan_named
    from dianoia.instruments.recording import record
    from dianoia.instruments.vehicle import SimulatedVehicle
    from dianoia.signals import keep
    from dianoia.signals.load import load

    made = []
    for ending in (".csv", ".mf4"):
        path = folder / f"whole{ending}"
        record(SimulatedVehicle("switching-4w", (), 1), plan_named("snap"), path)
        made.append(path.read_bytes())
    keep.write(load(folder / "whole.csv"), folder / "whole.parquet")
    made.append((folder / "whole.parquet").read_bytes())
    rows = b"".join(b"%d,O2S11,0.%d,V\n%d,RPM,7%02d,rpm\n" % (row, row % 9, row, row % 99) for row in range(60))
    made.append(b"time,name,value,unit\n" + rows)
    made.append(made[0].replace(b",", b";").replace(b".", b","))
    made.append(made[0].decode().encode("utf-16"))
    return made


def damaged(whole: bytes, chance: random.Random) -> bytes:
    """A file with one to four things wrong."""
    data = bytearray(whole)
    for _ in range(chance.randint(1, 4)):
        place = chance.randrange(len(data)) if data else 0
        what = chance.randrange(7)
        if what == 0:
            del data[place:]
        elif what == 1:
            data[place:place] = chance.choice(STRAYS)
        elif what == 2 and data:
            data[place] = chance.randrange(256)
        elif what == 3:
            del data[place : place + chance.randint(1, 200)]
        elif what == 4:
            data[place:place] = data[place : place + chance.randint(1, 300)]
        elif what == 5:
            data[place:place] = chance.randbytes(chance.randint(1, 40))
        else:
            half = len(data) // 2
            data[:] = data[half:] + data[:half]
    return bytes(data)


def came_of(path: Path) -> str:
    """``read``, ``refused``, or what else came. A measurement file is read in a process of its own, as everywhere: the library may crash
    on it.
    """
    if not path.read_bytes().startswith(b"MDF"):
        return _came_of(path)
    child = os.fork()
    if child == 0:
        signal.alarm(60)
        os._exit({"read": 0, "refused": 1}.get(_came_of(path), 2))
    _, status = os.waitpid(child, 0)
    if os.WIFSIGNALED(status):
        return "refused"  # said by the process that waited for it
    return {0: "read", 1: "refused"}.get(os.waitstatus_to_exitcode(status), "something else of a measurement file")


def _came_of(path: Path) -> str:
    from dianoia.signals.load import load
    from dianoia.signals.measure import measure

    try:
        measure(load(path))
    except RefusedInput as refused:
        return "refused" if str(refused).strip() else "refused without a word"
    except BaseException as problem:  # a library may raise what is no Exception
        return f"{type(problem).__name__}: {str(problem)[:80]}"
    return "read"
