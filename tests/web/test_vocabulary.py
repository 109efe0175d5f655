"""The front end holds no word that the server says."""

import re
from pathlib import Path
from unittest import TestCase

from dianoia.diagnosis.verdict.vocabulary import COMPONENTS, PARTS, RESULTS, vocabulary

_SRC = Path(__file__).parents[2] / "web" / "src"
_STRINGS = re.compile(r"'((?:[^'\\\n]|\\.)*)'|\"([^\"\n]*)\"|`([^`]*)`|>([^<>{}\n]+)<")


class OneVocabulary(TestCase):
    """web/src against what ``/api/vocabulary`` serves."""

    def test_no_word_of_it_stands_in_the_front_end(self) -> None:
        served = vocabulary()
        said = {words for name, words in served.words.items() if words != name and " " in words}
        said |= {words for name, words in served.fields.items() if words != name and " " in words}
        said |= {words for name, words in served.keys.items() if words != name}
        said |= {text for item in RESULTS.values() for text in (item.sentence, item.word) if " " in text}
        said |= {item.phrase for item in (*PARTS.values(), *COMPONENTS.values())}
        said |= {item.label for item in PARTS.values() if " " in item.label}
        found = []
        for path in sorted(_SRC.rglob("*.ts*")):
            if path.name.endswith(("gen.ts", "env.d.ts")):
                continue
            for match in _STRINGS.finditer(path.read_text(encoding="utf-8")):
                text = next((group for group in match.groups() if group is not None), "").strip()
                if text in said:
                    found.append(f"{path.relative_to(_SRC)}: {text}")
        self.assertEqual(found, [])
