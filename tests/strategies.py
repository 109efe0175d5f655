"""Generators that several property tests share."""

from typing import Any

import numpy as np
from hypothesis import strategies as st

from dianoia.case.measures.offered import choices
from dianoia.case.points import FIXED
from dianoia.diagnosis.planning.lookahead import LookaheadProblem
from dianoia.families.tables import FamilyRow

HYPOTHESES = 6


@st.composite
def problems(draw: st.DrawFn) -> tuple[LookaheadProblem, np.ndarray]:
    """Small problems of deterministic readings whose groups can all be told apart, and the hypotheses' chances."""
    options = draw(st.integers(2, 4))
    shown = np.array(draw(st.lists(st.lists(st.integers(0, 2), min_size=HYPOTHESES, max_size=HYPOTHESES),
                                   min_size=options, max_size=options)))  # fmt: skip
    shown = np.vstack([shown, np.arange(HYPOTHESES) % 3, np.arange(HYPOTHESES) // 3])
    count = len(shown)
    tables = (shown[:, :, None] == np.arange(3)).astype(float)
    minutes = st.floats(0.5, 9.0)
    price = np.array(
        draw(st.lists(st.lists(minutes, min_size=count, max_size=count), min_size=count + 1, max_size=count + 1))
    )
    group = np.array(draw(st.lists(st.integers(0, 2), min_size=HYPOTHESES, max_size=HYPOTHESES)))
    speaks = np.array(
        draw(st.lists(st.lists(st.integers(0, 3), min_size=3, max_size=3), min_size=count, max_size=count))
    )
    speaks[-1] = 3
    gate = np.array([draw(st.integers(0, 3)) for _ in range(3)])
    chance = np.array(draw(st.lists(st.floats(0.05, 1.0), min_size=HYPOTHESES, max_size=HYPOTHESES)))
    return LookaheadProblem(
        tables, speaks, price, group, gate, decide=np.full(3, 1 - 1e-9), seldom=0.0
    ), chance / chance.sum()


_VALUES = {
    "voltage": ("0.02", "450mV", "7.1", "13.8 V", "-0.4", "24"), "resistance": ("0.4", "6.2", "18.6k", "1M", "OL"),
    "current": ("0", "0.8", "9"), "lamp": ("off", "dim", "bright", "flashing"),
    "scope": ({"high": "13.8", "low": "0.1", "duty_low": "60 %"}, {"high": "2"}),
}  # fmt: skip
_RECORDED = ({"min": "0.1", "max": "0.8", "switches_per_min": 60.0}, {"max": "0.45", "rise_s": 2.5}, {"first_activity_s": None,
             "mean": "0.2"})  # fmt: skip


@st.composite
def ledgers(draw: st.DrawFn, family: FamilyRow, most: int = 5) -> list[dict[str, Any]]:
    """Readings that a hurried person might note on a sensor: any instrument at any points, in any state that can be."""
    return [draw(_readings(family)) for _ in range(draw(st.integers(1, most)))]


@st.composite
def _readings(draw: st.DrawFn, family: FamilyRow) -> dict[str, Any]:
    offered = choices(family)
    measure = draw(st.sampled_from((*_VALUES, *_VALUES, "scan", "trace", "inspect", "act")))
    if measure == "inspect":
        target = draw(st.sampled_from(sorted(offered.looks)))
        return {"measure": measure, "target": target, "value": draw(st.sampled_from(offered.looks[target]))}
    if measure == "act":
        action = draw(st.sampled_from(sorted(offered.acts)))
        return {"measure": measure, "action": action, "value": draw(st.sampled_from(offered.acts[action]))}
    state: dict[str, Any] = {"key": draw(st.sampled_from(("off", "on", "running"))), "with": draw(st.sampled_from(("none", *offered.conditions))),
             "of": draw(st.sampled_from((None, None, None, "known-good", "B2S1"))),
             "codes_cleared": draw(st.booleans()), "at_s": draw(st.sampled_from((None, 5, 600)))}  # fmt: skip
    if state["with"] == "signal-fed":
        state["fed_v"] = draw(st.sampled_from((0.3, 0.8)))
    if measure == "scan":
        scan = draw(st.sampled_from(offered.scans))
        return {
            "measure": measure,
            "pid": scan.pid,
            **state,
            "value": draw(st.sampled_from(scan.words or ("0.4", "12"))),
        }
    if measure == "trace":
        signal = "sensor_voltage" if family.cell in ("zirconia", "titania") else "cell_current"
        return {"measure": measure, "signal": signal, **state, "value": draw(st.sampled_from(_RECORDED))}
    return {
        "measure": measure,
        **draw(_at_points(family, measure)),
        **state,
        "value": draw(st.sampled_from(_VALUES[measure])),
    }


@st.composite
def _at_points(draw: st.DrawFn, family: FamilyRow, measure: str) -> dict[str, Any]:
    places = ("harness", "sensor", "module", "module_pin", "inline")
    points = st.one_of(
        st.sampled_from(sorted(FIXED)),
        st.builds("{}.{}".format, st.sampled_from(places), st.sampled_from(family.terminals)),
    )
    named = draw(st.lists(points, min_size=2, max_size=2, unique=True))
    apart = any(point.startswith("sensor.") for point in named)
    plugs = {
        "connector": "unplugged" if apart else draw(st.sampled_from(("mated", "unplugged"))),
        "module_connector": "unplugged" if any(point.startswith("module_pin.") for point in named) else "mated",
    }
    return {**plugs, **({"at": named[0]} if measure == "current" else {"red": named[0], "black": named[1]})}
