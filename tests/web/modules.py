"""The front end's own modules, called from a test."""

import json
from pathlib import Path
from subprocess import PIPE, Popen
from typing import Any
from unittest import TestCase

from dianoia.case.load import adapter
from dianoia.diagnosis.verdict.vocabulary import Vocabulary, vocabulary

_HERE = Path(__file__).parent
_WEB = _HERE.parents[1] / "web"


class ModuleTestCase(TestCase):
    """Tests that call a module of the front end. module: its path below ``web``."""

    module = ""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls._node = Popen(["node", _HERE / "modules.mjs"], cwd=_WEB, stdin=PIPE, stdout=PIPE, text=True)
        cls.addClassCleanup(cls._end)
        words = adapter(Vocabulary).dump_python(vocabulary(), mode="json", by_alias=True)
        cls.call("learn", words, module="/src/shared/vocabulary.ts")

    @classmethod
    def _end(cls) -> None:
        cls._node.communicate("", timeout=20)

    @classmethod
    def call(cls, name: str, *args: Any, module: str = "") -> Any:
        """What a function of the module, or of another one, answers; a constant's value where the name is one's."""
        assert cls._node.stdin and cls._node.stdout
        cls._node.stdin.write(json.dumps({"module": module or cls.module, "name": name, "args": args}) + "\n")
        cls._node.stdin.flush()
        answer = json.loads(cls._node.stdout.readline())
        if "problem" in answer:
            raise AssertionError(answer["problem"])
        return answer["value"]
