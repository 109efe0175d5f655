"""A parsed code -> what it says, looked up in the tables or read off its structure."""

from typing import Any

from dianoia.codes.tables import CodeRow, Sense, codes, failure_types, fmis, sense, spns
from dianoia.codes.types import CodeText, Decoded, FailureType

_SYSTEMS = {"P": "powertrain", "C": "chassis", "B": "body", "U": "network"}
_GROUPS = {
    "0": "fuel, air and auxiliary emission controls", "1": "fuel and air metering", "2": "fuel and air metering",
    "3": "ignition and misfire", "4": "auxiliary emission controls", "5": "vehicle speed, idle and auxiliary inputs",
    "6": "computer and output circuits", "7": "transmission", "8": "transmission", "9": "transmission",
    "A": "hybrid drive", "B": "hybrid drive", "C": "hybrid drive",
}  # fmt: skip
_CLEAR: dict[str, str] = {
    "hard": "Clear it and see: back within seconds of key on or engine start means the fault is there now and can be "
    "measured standing still. Not back means intermittent or already mended. Note the freeze frame first: clearing "
    "loses it and the readiness monitors.",
    "drive": "This code needs a drive to come back, so clearing tells little in the bay and loses the freeze frame "
    "and the readiness monitors. Measure first, clear after the repair.",
}


def decode(text: CodeText) -> Decoded:
    """What one code says. Never fails: an unlisted code is answered by its structure."""
    if text.spn is not None and text.fmi is not None:
        return _decode_spn(text, text.spn, text.fmi)
    row = codes().get(text.code)
    answer = _from_row(row) if row else _from_structure(text.code)
    byte = text.failure_byte
    says = failure_types().get(byte, "not in the standard table: see the maker's list") if byte else ""
    if byte:
        answer["failure_type"] = FailureType(byte, says)
        more = f" Failure type {byte}: {says}."
        answer |= {"says": answer["says"] + more, "explains": answer["explains"] + more}
    return Decoded(code=text.code, status=text.status, **answer)


def _from_row(row: CodeRow) -> dict[str, Any]:
    words = sense(row.kind, row.circuit, row.failure or row.relation)
    bank = int(row.bank) if row.bank else None
    position = int(row.position) if row.position else None
    own = (f"B{bank}S{position}",) if bank and position else ()
    return {
        "title": row.title, "standard": True, "known": True, "kind": row.kind, "cell": row.cell or None,
        "bank": bank, "position": position, "circuit": row.circuit or None, "failure": row.failure or None,
        "direction": row.direction or None, "sensors": tuple(row.sensors.split()) or own,
        "twin": f"B{3 - bank}S{position}" if bank and position else None, "relation": row.relation or None,
        **_sentences(row.title, words),
    }  # fmt: skip


def _sentences(title: str, words: Sense) -> dict[str, Any]:
    return {
        **_said(title, f"{words.saw} What would make it say so: {words.makes}."),
        "makes": words.makes,
        "does_not_say": words.not_said,
        "severity": f"Driver: {words.driver}. Emissions: {words.emissions}.",
        "onset": words.onset,
        "clear_and_see": _CLEAR[words.onset],
    }


def _said(title: str, explains: str) -> dict[str, Any]:
    return {"says": f"{title}. {explains}" if title else explains, "explains": explains}


def _decode_spn(text: CodeText, spn: int, fmi: int) -> Decoded:
    mode, row = fmis().get(fmi), spns().get(spn)
    mode_says = mode.says if mode else "a failure mode that is not in the standard table"
    common: dict[str, Any] = {"code": text.code, "status": text.status, "source_address": text.source_address}
    if row is None:
        return Decoded(
            title=f"Suspect parameter {spn}", standard=spn < 516096, known=False, kind="unknown",
            **_said("", f"J1939 parameter {spn}, failure mode {fmi}: {mode_says}."),
            does_not_say="This parameter is not one of the NOx sensors': look it up in the maker's list.",
            severity="Not known for an unlisted code.", **common,
        )  # fmt: skip
    if row.relation:
        answer = _sentences(f"{row.title}: {mode_says}", sense("related", "", row.relation))
        return Decoded(
            title=row.title, standard=True, known=True, kind="related", relation=row.relation, bank=1, **answer, **common  # type: ignore[arg-type]
        )  # fmt: skip
    failure: Any = mode.failure if mode and (fmi != 31 or not row.failure) else row.failure or "circuit"
    position, circuit = int(row.position), row.circuit
    if failure == "lost":
        circuit = "communication"
    words = sense("nox", circuit, failure)
    answer = _sentences(f"{row.title}: {mode_says}", words)
    return Decoded(
        title=row.title, standard=True, known=True, kind="nox", bank=1, position=position,
        circuit=circuit, failure=failure, sensors=(f"B1S{position}",), **answer, **common,  # type: ignore[arg-type]
    )  # fmt: skip


def _from_structure(code: str) -> dict[str, Any]:
    system = _SYSTEMS[code[0]]
    standard = code[1] in ("0", "2") or (code[1] == "3" and code[0] == "P" and code[2] >= "4")
    group = _GROUPS.get(code[2], "a reserved group") if code[0] == "P" else f"{system} systems"
    owner = "a generic code" if standard else "a code of the vehicle maker's own"
    return {
        "title": f"Unlisted {system} code", "standard": standard, "known": False, "kind": "unknown",
        **_said("", f"{code} is {owner}: {system}, {group}. It is not in this code book."),
        "does_not_say": "Its exact sense: look it up in the maker's list before measuring anything for it.",
        "severity": "Not known for an unlisted code.",
    }  # fmt: skip
