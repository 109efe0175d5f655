"""A process of its own that holds one simulated vehicle and answers orders on loopback: ``python -m dianoia.instruments.adapter``.

It reads one line of JSON from standard input: what to hold (``request``, see ``VehicleRequest``, and ``codes`` that are stored) and a
secret (``secret``, hexadecimal). It writes one line: the port. It serves one connection, whose both ends prove the secret. It ends when
that connection ends, or when nobody has asked for ``IDLE_S``. An adapter for a real device is a process of the same kind.
"""

import json
import sys
import time
from dataclasses import asdict
from multiprocessing.connection import Connection, Listener
from typing import Any

from dianoia.errors import RefusedInput
from dianoia.instruments.operator import Operator
from dianoia.instruments.vehicle import SimulatedVehicle

#: It never listens to anything but this machine.
LOOPBACK = "127.0.0.1"
#: Seconds without an order after which it ends: its page is gone.
IDLE_S = 30.0


def operator_of(held: dict[str, Any]) -> Operator:
    """An operator at the vehicle that was asked for."""
    request = {**held["request"], "faults": tuple(held["request"]["faults"])}
    vehicle = SimulatedVehicle(**request)
    for code in held.get("codes", ()):
        vehicle.live.memory.stored[code["code"]] = code.get("failure_type", "")
    return Operator(vehicle)


def answer(operator: Operator, order: dict[str, Any]) -> dict[str, Any]:
    """What is sent back: ``look``, or ``refused`` with the findings."""
    try:
        return {"look": asdict(operator.carry_out(order, time.monotonic()))}
    except RefusedInput as refusal:
        return {"refused": [asdict(item) for item in refusal.findings]}


def serve(connection: Connection, operator: Operator) -> None:
    """Answer orders until nobody asks any more."""
    while connection.poll(IDLE_S):
        order = json.loads(connection.recv_bytes())
        connection.send_bytes(json.dumps(answer(operator, order)).encode())


def main() -> None:
    """Hold a vehicle until its page is gone."""
    held = json.loads(sys.stdin.readline())
    try:
        operator = operator_of(held)
    except RefusedInput as refusal:
        sys.exit(str(refusal))
    with Listener((LOOPBACK, 0), authkey=bytes.fromhex(held["secret"])) as listener:
        print(listener.address[1], flush=True)
        with listener.accept() as connection:
            try:
                serve(connection, operator)
            except EOFError:
                return


if __name__ == "__main__":
    main()
