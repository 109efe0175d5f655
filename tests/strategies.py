"""Generators that several property tests share."""

import numpy as np
from hypothesis import strategies as st

from dianoia.diagnosis.lookahead import Problem

HYPOTHESES = 6


@st.composite
def problems(draw: st.DrawFn) -> tuple[Problem, np.ndarray]:
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
    return Problem(tables, speaks, price, group, gate, decide=1 - 1e-9, seldom=0.0), chance / chance.sum()
