"""Files that are being read into recordings: each by a process of its own, watched here until its recording is kept or given up."""

import json
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from secrets import token_hex
from threading import Lock, Thread
from typing import IO, Any, Literal

from django.conf import settings

from dianoia.errors import Finding, refuse

State = Literal["recording", "reading", "measuring", "keeping", "ready", "refused"]
ROOT = Path(__file__).parents[2]
#: Imports that run or wait at a time, and seconds after which one that nobody keeps is given up.
MOST, OLDEST_S = 8, 3600.0
#: Seconds that a process may take.
LONGEST_S = 180.0
BLOCK = 1 << 20


@dataclass
class Import:
    """A file on its way into a job."""

    id: str
    job: int
    folder: Path
    state: State = "reading"
    read: dict[str, Any] = field(default_factory=dict)
    """What the process has read; empty until it is ready."""
    findings: tuple[Finding, ...] = ()
    """Why it was refused."""
    simulated: bool = False
    """Whether a simulated instrument recorded it."""
    marks: tuple[dict[str, Any], ...] = ()
    """Marks that came with it."""
    began: float = field(default_factory=time.monotonic)
    process: subprocess.Popen[str] | None = None

    @property
    def source(self) -> Path:
        """The file as it came. Its name says nothing of the one that it had."""
        return self.folder / "source"

    @property
    def made(self) -> Path:
        """The recording that was made of it."""
        return self.folder / "made.parquet"


class Imports:
    """The files that are being read."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._held: dict[str, Import] = {}

    @staticmethod
    def folder() -> Path:
        """Where files lie while they are read."""
        return Path(settings.VAR_DIR) / "imports"

    def begin(self, job: int, body: IO[bytes], most: int, order: dict[str, Any]) -> Import:
        """Take a file in and start to read it. body: its bytes, at most ``most``; order: what its process is told besides.

        Raises RefusedInput.
        """
        made = self._new(job)
        process = self._process("dianoia.signals.importer")  # it starts up while the file is still coming in
        try:
            with made.source.open("wb") as file:
                size = 0
                while block := body.read(BLOCK):
                    size += len(block)
                    if size > most:
                        raise refuse("file", f"at most {most // 1_000_000} MB", "a larger file")
                    file.write(block)
        except BaseException:
            process.kill()
            process.wait()
            self.end(made.id)
            raise
        self._run(made, process, order)
        return made

    def record(self, job: int, order: dict[str, Any], then: dict[str, Any], marks: Sequence[dict[str, Any]]) -> Import:
        """Let a simulated instrument record, then read what it recorded. order: of the capture; then: of the reading."""
        made = self._new(job)
        made.state, made.simulated, made.marks = "recording", True, tuple(marks)
        Thread(target=self._recorded, args=(made, order, then), daemon=True).start()
        return made

    def again(self, made: Import, order: dict[str, Any]) -> None:
        """Read the same file once more, with other columns."""
        made.state, made.findings, made.read = "reading", (), {}
        self._run(made, self._process("dianoia.signals.importer"), order)

    def find(self, job: int, name: str) -> Import:
        """The import of a job. Raises RefusedInput where it is no more."""
        with self._lock:
            made = self._held.get(name)
        if made is None or made.job != job:
            raise refuse("import", "a file that is being read", "one that was given up: drop it again")
        return made

    def end(self, name: str) -> None:
        """Give an import up: its process ends, and its files go."""
        with self._lock:
            made = self._held.pop(name, None)
        if made is None:
            return
        if made.process is not None and made.process.poll() is None:
            made.process.kill()
            made.process.wait()
        shutil.rmtree(made.folder, ignore_errors=True)

    def _new(self, job: int) -> Import:
        self._tidy()
        name = token_hex(12)
        made = Import(name, job, self.folder() / name)
        while len(self._held) >= MOST:
            waits = [held.id for held in list(self._held.values()) if held.state in ("ready", "refused")]
            if not waits:
                raise refuse("file", f"at most {MOST} files that are read at a time", "one more: try again in a minute")
            self.end(waits[0])  # the oldest that nobody has kept
        with self._lock:
            self._held[name] = made
        made.folder.mkdir(parents=True, mode=0o700)
        return made

    def _tidy(self) -> None:
        """Give up what nobody has kept for long, and what an earlier server left behind."""
        old = [name for name, made in self._held.items() if time.monotonic() - made.began > OLDEST_S]
        for name in old:
            self.end(name)
        for left in self.folder().iterdir() if self.folder().is_dir() else ():
            if left.name not in self._held:
                shutil.rmtree(left, ignore_errors=True)

    @staticmethod
    def _process(module: str) -> subprocess.Popen[str]:
        return subprocess.Popen(
            [sys.executable, "-m", module],
            cwd=ROOT,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )

    def _run(self, made: Import, process: subprocess.Popen[str], order: dict[str, Any]) -> None:
        made.process = process
        whole = {**order, "path": str(made.source), "out": str(made.made)}
        Thread(target=_watched, args=(made, process, whole), daemon=True).start()

    def _recorded(self, made: Import, order: dict[str, Any], then: dict[str, Any]) -> None:
        process = self._process("dianoia.instruments.capture")
        made.process = process
        said = list(_said_by(process, {**order, "path": str(made.source)}))
        last = said[-1] if said else {}
        if "refused" in last or "recorded" not in last:
            _end_refused(made, last)
            return
        made.state = "reading"
        self._run(made, self._process("dianoia.signals.importer"), then)


def _watched(made: Import, process: subprocess.Popen[str], order: dict[str, Any]) -> None:
    last: dict[str, Any] = {}
    for said in _said_by(process, order):
        last = said
        if "columns" in said:  # they can be corrected, whatever becomes of the rest
            made.read = {name: said[name] for name in ("columns", "chosen")}
        if "doing" in said:
            made.state = said["doing"]
    if "read" in last:
        made.read, made.state = last["read"], "ready"
    else:
        _end_refused(made, last)


def _end_refused(made: Import, last: dict[str, Any]) -> None:
    findings = [Finding(**item) for item in last.get("refused", ())]
    gone = Finding("file", "a whole recording, read in 2 minutes and 3 GB of memory", "a damaged one, or a larger one")
    made.findings, made.state = tuple(findings or [gone]), "refused"


def _said_by(process: subprocess.Popen[str], order: dict[str, Any]) -> Iterator[dict[str, Any]]:
    """What a process says line by line, until it ends or its time is over."""
    if process.stdin is None or process.stdout is None:
        return
    late = Thread(target=_kill_late, args=(process,), daemon=True)
    with suppress(OSError, ValueError), process:
        process.stdin.write(json.dumps(order) + "\n")
        process.stdin.flush()
        late.start()
        for line in process.stdout:
            yield json.loads(line)


def _kill_late(process: subprocess.Popen[str]) -> None:
    try:
        process.wait(LONGEST_S)
    except subprocess.TimeoutExpired:
        process.kill()


imports = Imports()
