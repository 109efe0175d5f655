"""Files of recordings with something wrong in them."""

import random
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
    """``read``, ``refused``, or what else came."""
    from dianoia.signals.load import load
    from dianoia.signals.measure import measure

    try:
        measure(load(path))
    except RefusedInput as refused:
        return "refused" if str(refused).strip() else "refused without a word"
    except BaseException as problem:  # a library may raise what is no Exception
        return f"{type(problem).__name__}: {str(problem)[:80]}"
    return "read"
