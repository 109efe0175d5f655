"""Any text that names codes -> CodeText, in the order they stand.

Takes any separator and case, letters O for zeros, the failure type byte after ``-``, ``:`` or nothing,
J1939 pairs with a source address, and status words after a code.
"""

import re

from dianoia.codes.types import CodeText, Status
from dianoia.errors import refuse

_LONGEST = 20_000
_CODE = re.compile(
    r"(?<![A-Z0-9])([PCBU])[\s\-]?([0-3O])([0-9A-FO]{3})(?:[\-:]([0-9A-FO]{2})|([0-9A-FO]{2}))?(?![A-Z0-9])"
)
_SPN = re.compile(
    r"SPN\s*[:=#]?\s*(\d{1,6})\s*[,;/|\-]?\s*(?:FMI)?\s*[:=#]?\s*(\d{1,2})(?!\d)"
    r"(?:\s*[,;/|]?\s*(?:SA|SOURCE(?: ADDRESS)?)\s*[:=]?\s*(0X[0-9A-F]{1,2}|\d{1,3}))?"
)
_BARE_SPN = re.compile(r"(?<![A-Z0-9.])(\d{3,6})\s*[/:\-]\s*(\d{1,2})(?![A-Z0-9])")
_ATTEMPT = re.compile(r"(?<![A-Z0-9])(?:[PCBU][\s\-]?[0-9O][0-9A-Z]*|SPN[^,;\n]*)")
_STATUS_WORDS: dict[str, Status] = {
    "STORED": "stored", "CONFIRMED": "stored", "CURRENT": "stored", "ACTIVE": "stored",
    "PENDING": "pending", "PERMANENT": "permanent",
    "HISTORY": "history", "HISTORIC": "history", "INACTIVE": "history", "PREVIOUSLY": "history",
}  # fmt: skip
_STATUS = re.compile(r"\b(" + "|".join(_STATUS_WORDS) + r")\b")


def parse_codes(text: str, field: str = "code") -> list[CodeText]:
    """Every code that ``text`` names, at least one. Raises RefusedInput naming ``field``."""
    if len(text) > _LONGEST:
        raise refuse(field, f"at most {_LONGEST} characters of codes", f"{len(text)} characters")
    upper = text.upper()
    found = sorted(_matches(upper), key=lambda item: item[0])
    if not found:
        raise refuse(field, "a code such as P0057, P0050-12 or SPN 3226 FMI 5", text.strip())
    _refuse_leftovers(upper, found, field)
    ends = [start for start, _, _ in found[1:]] + [len(upper)]
    return [_with_status(code, upper[stop:end]) for (_, stop, code), end in zip(found, ends, strict=True)]


def _matches(upper: str) -> list[tuple[int, int, CodeText]]:
    found = [(match.start(), match.end(), _from_letters(match)) for match in _CODE.finditer(upper)]
    taken = [(match.start(), match.end(), _from_spn(match)) for match in _SPN.finditer(upper)]
    for match in _BARE_SPN.finditer(upper):
        if not any(start < match.end() and match.start() < stop for start, stop, _ in found + taken):
            taken.append((match.start(), match.end(), _from_spn(match)))
    return found + taken


def _from_letters(match: re.Match[str]) -> CodeText:
    system, first, rest, marked, joined = match.groups()
    failure = marked or joined
    code = system + (first + rest).replace("O", "0")
    return CodeText(code=code, failure_byte=failure.replace("O", "0") if failure else None)


def _from_spn(match: re.Match[str]) -> CodeText:
    spn, fmi = int(match.group(1)), int(match.group(2))
    address = match.group(3) if match.re is _SPN else None
    return CodeText(code=f"SPN {spn} FMI {fmi}", spn=spn, fmi=fmi, source_address=int(address, 0) if address else None)


def _refuse_leftovers(upper: str, found: list[tuple[int, int, CodeText]], field: str) -> None:
    """A mistyped code in a list is said, not dropped."""
    rest = list(upper)
    for start, stop, code in found:
        rest[start:stop] = " " * (stop - start)
        if code.fmi is not None and code.fmi > 31:
            raise refuse(field, "an FMI from 0 to 31", code.code)
        if code.source_address is not None and code.source_address > 255:
            raise refuse(field, "a source address from 0 to 255", str(code.source_address))
    attempt = _ATTEMPT.search("".join(rest))
    if attempt and any(character.isdigit() for character in attempt.group()):
        raise refuse(field, "a code of one letter and four digits, such as P0057", attempt.group().strip())


def _with_status(code: CodeText, after: str) -> CodeText:
    word = _STATUS.search(after)
    if not word:
        return code
    return CodeText(**{**code.__dict__, "status": _STATUS_WORDS[word.group()]})
