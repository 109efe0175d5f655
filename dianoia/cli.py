"""Commands on codes and case files. Exit status 0: answered; 2: refused, with the message on standard error."""

import argparse
import gc
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dianoia.errors import RefusedInput, refuse

REFUSED = 2
#: Lists of a verdict that its JSON always has.
_ALWAYS = (
    "components", "found", "found_one_of", "because", "would_change_it", "suspects", "proven", "unproven", "before_fitting", "after_repair", "judged", "warnings",
)  # fmt: skip
#: The same of its repair.
_REPAIR_ALWAYS = ("done", "proof", "found", "may_come")


def main(arguments: Sequence[str]) -> int:
    """Run one command; returns the exit status."""
    options = _parser().parse_args(arguments)
    try:
        answer: str = options.run(options)
    except RefusedInput as refusal:
        print(refusal, file=sys.stderr)
        return REFUSED
    print(answer)
    return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="dianoia", description="Find out what a sensor code really means.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    decode = commands.add_parser("decode", help="what codes say")
    decode.add_argument("codes", nargs="+", metavar="CODE", help="a code, or a list of codes; - reads standard input")
    decode.set_defaults(run=_decode)
    diagnose = commands.add_parser("diagnose", help="the verdict on a case file")
    diagnose.add_argument("file", metavar="JOB.json", help="a case file; - reads standard input")
    diagnose.set_defaults(run=_diagnose)
    schema = commands.add_parser("schema", help="the JSON Schema of the case file")
    schema.set_defaults(run=_schema)
    simulate = commands.add_parser("simulate", help="what simulated instruments record of a car with a fault")
    simulate.add_argument("--family", default="switching-4w", metavar="FAMILY", help="the sensor's family")
    simulate.add_argument(
        "--fault", action="append", default=[], metavar="FAULT", help="what is wrong; may stand twice"
    )
    simulate.add_argument("--of", metavar="B1S1", help="the sensor in question; left out: drawn by the seed")
    simulate.add_argument("--seed", default="1", metavar="N", help="another seed gives another vehicle")
    simulate.add_argument(
        "--plan",
        default="cold-start",
        metavar="PLAN",
        help="a plan's name, or steps such as 'key=running 30s; rpm=2500 with=rich 10s'",
    )
    simulate.add_argument(
        "--leads",
        metavar="POINT[,POINT]",
        help="record with a scope at these points (against battery "
        "negative; 'clamp' for the heater's current) instead of with a scan tool",
    )
    simulate.add_argument("--rate", default="2000", metavar="HZ", help="the scope's samples a second")
    simulate.add_argument(
        "--out", type=Path, required=True, metavar="LOG", help="a file that ends with .csv, .mf4, .asc, .log or .blf"
    )
    simulate.set_defaults(run=_simulate)
    trace = commands.add_parser("trace", help="figures of every sensor signal in a recording")
    trace.add_argument(
        "file", type=Path, metavar="LOG", help="a recording: CSV, MDF 4, or one that Dianoia kept (Parquet)"
    )
    trace.set_defaults(run=_trace)
    benchmark = commands.add_parser("benchmark", help="how well and how fast the engine isolates simulated faults")
    benchmark.add_argument(
        "--jobs", type=int, default=500, metavar="N", help="work N simulated jobs (about 1 s each); 0 for speed only"
    )
    benchmark.add_argument("--seed", type=int, default=1, help="another seed gives other vehicles")
    benchmark.add_argument("--keep", type=Path, metavar="FILE", help="write each worked job to FILE; those in it are not "
                           "worked again, so that a benchmark that was stopped goes on where it was")  # fmt: skip
    benchmark.add_argument("--field", action="store_true", help="put the engine to the second car and the people who work on "
                           "it, whom it does not know, instead of to its own physics")  # fmt: skip
    benchmark.add_argument("--bound", action="store_true", help="with --field: what the people's readings can decide at all, by "
                           "Bayes that knows the second car")  # fmt: skip
    benchmark.add_argument(
        "--out", type=Path, metavar="FILE", help="with --field: write each worked job to FILE, and go on from it"
    )
    benchmark.set_defaults(run=_benchmark)
    for command in (decode, diagnose, trace, benchmark):
        command.add_argument("--json", action="store_true", help="answer in JSON")
    return parser


def _text(name: str) -> str:
    if name == "-":
        return sys.stdin.read()
    try:
        return Path(name).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as problem:
        raise refuse("file", "a readable text file", f"{name} ({problem.__class__.__name__})") from problem


def _decode(options: argparse.Namespace) -> str:
    from dataclasses import asdict

    from dianoia.codes.decode import decode
    from dianoia.codes.parse import parse_codes
    from dianoia.codes.triage import triage

    texts = [text for item in options.codes for text in parse_codes(sys.stdin.read() if item == "-" else item)]
    answers = triage(texts) if len(texts) > 1 else [decode(texts[0])]
    if options.json:
        plain: Any = [asdict(answer) for answer in answers]
        return json.dumps(plain if len(texts) > 1 else plain[0], indent=1, ensure_ascii=False)
    return "\n\n".join(
        "\n".join(
            line for line in (
                f"{f'{answer.order}. ' if answer.order else ''}{answer.code}  {answer.title}", answer.says,
                answer.does_not_say, answer.severity, answer.why_here or "",
            ) if line
        )
        for answer in answers
    )  # fmt: skip


def _diagnose(options: argparse.Namespace) -> str:
    gc.disable()  # nothing that is imported is ever garbage
    from dianoia.answer.answer import answer
    from dianoia.case.load import case_from_json, to_plain

    gc.freeze()
    gc.enable()
    verdict = answer(case_from_json(_text(options.file)))
    if options.json:
        return json.dumps(verdict_plain(to_plain(verdict)), indent=1, ensure_ascii=False)
    lines = [verdict.says, *(f"- {line}" for line in verdict.because)]
    lines += [f"{item.probability:6.1%}  {item.component:8} {item.says}" for item in verdict.suspects[:5]]
    if verdict.repair.state != "none":
        lines += [f"Repair: {verdict.repair.title}"]
        lines += [
            f"[{'x' if item.by is not None else ' '}] {item.what}: {item.expect}" for item in verdict.repair.proof
        ]
    if verdict.next:
        from dianoia.readings.describe import describe

        proposed = verdict.next
        lines.append(
            f"Next ({proposed.minutes:g} min): {describe(proposed.reading).step}; expect {proposed.expect}. {proposed.why}"
        )
        lines += [f"Caution: {line}" for line in proposed.cautions]
    lines += [f"Warning {item.warning}: {item.says}" for item in verdict.warnings]
    return "\n".join(lines)


def _schema(options: argparse.Namespace) -> str:
    from dianoia.schema import case_schema

    return json.dumps(case_schema(), indent=1, ensure_ascii=False)


def _simulate(options: argparse.Namespace) -> str:
    from dianoia.instruments.plans import plan_named
    from dianoia.instruments.recording import record
    from dianoia.instruments.scope import Lead
    from dianoia.instruments.vehicle import SimulatedVehicle

    vehicle = SimulatedVehicle(
        options.family, options.fault, int(_number("seed", options.seed, whole=True)), options.of
    )
    leads = [Lead(point.strip()) for point in options.leads.split(",")] if options.leads else []
    try:
        written = record(vehicle, plan_named(options.plan), options.out, leads, _number("rate", options.rate))
    except OSError as problem:
        raise refuse("out", "a file that can be written", f"{options.out} ({problem.__class__.__name__})") from problem
    return f"{options.out}: {written}"


def _trace(options: argparse.Namespace) -> str:
    gc.disable()  # a recording is read once, and nothing of it is garbage before the end
    from dianoia.signals.load import measured_file

    measured = measured_file(options.file)
    from dianoia.signals.answer import figures_plain, figures_text

    if options.json:
        return json.dumps(figures_plain(measured, options.file.name), indent=1, ensure_ascii=False, allow_nan=False)
    return figures_text(measured, options.file.name)


def _number(field: str, text: str, whole: bool = False) -> float:
    try:
        return int(text) if whole else float(text)
    except ValueError:
        raise refuse(field, "a whole number" if whole else "a number", text) from None


def _benchmark(options: argparse.Namespace) -> str:
    if options.field:
        from dianoia.bench.field import run as run_field

        if options.jobs < 1:
            raise refuse("--jobs", "a number of jobs, 1 or more", str(options.jobs))
        if options.bound:
            from dianoia.bench.bound import run as run_bound

            return json.dumps(run_bound(options.jobs, options.seed, options.out), indent=1)
        return json.dumps(run_field(options.jobs, options.seed, options.out), indent=1)
    from dianoia.bench.speed import measure

    if options.jobs < 0:
        raise refuse("--jobs", "a number of jobs, 0 or more", str(options.jobs))
    from dianoia.bench.kept import KeptOutcomes

    kept = KeptOutcomes(options.keep)
    figures: dict[str, Any] = {"speed": dict(measure())}
    if options.jobs:
        from dianoia.bench.isolate import run
        from dianoia.bench.optimum import compare

        figures["reduced_problem"] = dict(compare())
        figures["isolation"] = run(options.jobs, options.seed, kept)
    return json.dumps(figures, indent=1)


def verdict_plain(plain: dict[str, Any]) -> dict[str, Any]:
    """The answer's JSON with its lists always present, and null where nothing is known of what may be."""
    empty: dict[str, Any] = {name: [] for name in _ALWAYS}
    known = plain.get("repair", {})
    repair: dict[str, Any] = {**{name: [] for name in _REPAIR_ALWAYS}, "closed": None, **known}
    repair["proof"] = [{"by": None, **item} for item in repair["proof"]]
    nullable = {name: plain.get(name) for name in ("next", "nothing_else")}
    return {**empty, **plain, **nullable, "repair": repair}
