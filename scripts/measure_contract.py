"""Asks a served application what its contract allows, 20,000 times, and counts the answers.

    python scripts/measure_contract.py http://127.0.0.1:8000 --cases 20000 --seed 7

The application has to serve a bench with demo data that nobody needs: jobs, readings and people are added to it. Prints the answers by
status, and each answer that the contract does not know or that is a fault of the server's own.
"""

import argparse
import json
import sys
from collections import Counter
from pathlib import Path
from random import Random
from traceback import format_exception

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench_people import Session

from tests.contract import Live, operations, try_operation

DOCUMENT = Path(__file__).resolve().parents[1] / "docs" / "openapi.json"


def main() -> None:
    """Ask, count, print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("url")
    parser.add_argument("--cases", type=int, default=20_000)
    parser.add_argument("--seed", type=int, default=7)
    options = parser.parse_args()
    session = Session(options.url, "Chiara")
    jobs = [job["id"] for job in session.get("/api/jobs?size=100")["jobs"]]
    people = [item["id"] for item in session.get("/api/people/here")["people"]]
    cookies = "; ".join(f"{name}={session.cookie(name)}" for name in ("sessionid", "csrftoken"))
    live = Live(jobs, people, {"Cookie": cookies, "X-CSRFToken": session.cookie("csrftoken")})
    found = list(operations(json.loads(DOCUMENT.read_text(encoding="utf-8"))))
    answers: Counter[int] = Counter()
    wrong = 0
    for operation in found:
        each, seed = -(-options.cases // len(found)), Random(options.seed).getrandbits(32)
        try:
            answers += try_operation(operation, live, options.url, each, seed)
        except (Exception, BaseExceptionGroup) as problem:  # all of them are told
            wrong += 1
            print(f"{operation.method.upper()} {operation.path}:", *format_exception(problem), sep="\n")
        print(f"\r{answers.total()} answers ", end="", file=sys.stderr, flush=True)
    print(file=sys.stderr)
    print(
        f"{answers.total()} answers: {dict(sorted(answers.items()))}; {wrong} operations with an answer that the contract does not know"
    )


if __name__ == "__main__":
    main()
