"""The circuit drawing as a picture of its own, for paper: states told by line, not by colour."""

from xml.sax.saxutils import escape

from dianoia.drawings.circuit import Drawing, DrawnElement

#: Height of a text in units of the board: over 8 points where the board is as wide as the text of an A4 sheet (174 mm).
LABEL = 22
_LINES = ("wire", "ground", "input", "plug")
#: State -> width of the line and its dashes.
_STROKE = {
    "proven": "stroke-width='4'", "condemned": "stroke-width='3'", "suspect": "stroke-width='2' stroke-dasharray='7 4'",
    "scenery": "stroke-width='1.2'", "untouched": "stroke-width='1.4' stroke-dasharray='5 4'",
    "unproven": "stroke-width='1.6' stroke-dasharray='5 4'",
}  # fmt: skip


def svg_of(drawing: Drawing) -> str:
    """The drawing as SVG, black on white."""
    parts = [_element(item) for item in drawing.elements]
    if drawing.stretch:
        (left, top), (right, bottom) = drawing.stretch
        box = f"x='{min(left, right):g}' y='{top - 15:g}' width='{abs(right - left):g}' height='{bottom - top + 30:g}'"
        parts.append(f"<rect {box} rx='5' stroke-width='2.5' stroke-dasharray='9 5'/>")
    for row in drawing.terminals:
        told = " · ".join(text for text in (row.label, f"pin {row.pin}" if row.pin else "", row.colour or "") if text)
        parts.append(_text(row.at.x, row.at.y, told, row.at.anchor))
    box = f"0 0 {drawing.width:g} {drawing.height:g}"
    return (
        f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='{box}' fill='none' stroke='black' "
        f"font-family='Libertinus Serif' font-size='{LABEL}'>{''.join(parts)}</svg>"
    )


def _element(item: DrawnElement) -> str:
    (left, top), (right, bottom) = item.ends
    stroke = _STROKE[item.state]
    if item.kind in _LINES or len(item.path) > 2 or left == right or top == bottom:
        points = " ".join(f"{x:g},{y:g}" for x, y in item.path)
        drawn = f"<polyline points='{points}' {stroke}/>"
    else:
        drawn = f"<rect x='{left:g}' y='{top:g}' width='{right - left:g}' height='{bottom - top:g}' rx='4' {stroke}/>"
    x, y = (left + right) / 2, (top + bottom) / 2
    if item.label and item.kind not in _LINES:
        between_wires = len(item.path) > 3  # its name stands beside it
        at = (x + 24, y + 6, "start") if between_wires else (x, min(top, bottom) - 7, "middle")
        drawn += _text(at[0], at[1], item.label, at[2])
    if item.state == "condemned":
        drawn += f"<path d='M{x - 13:g} {y - 13:g}l26 26m0 -26l-26 26' stroke-width='5'/>"
    return drawn


def _text(x: float, y: float, text: str, anchor: str) -> str:
    return f"<text x='{x:g}' y='{y:g}' font-size='{LABEL}' text-anchor='{anchor}' fill='black' stroke='none'>{escape(text)}</text>"
