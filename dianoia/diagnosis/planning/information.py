"""How many bits readings tell about questions, for many readings and questions at once."""

from collections.abc import Sequence

import numpy as np

from dianoia.circuit.network import Array


def information(questions: Sequence[Array], tables: Sequence[Array]) -> Array:
    """Mutual information in bits, (questions, tables).

    questions: each (groups, rows), the weight of every row in every group; tables: each (rows, outcomes), the chance of
    every outcome in every row.
    """
    joint = np.concatenate(questions) @ np.concatenate(tables, axis=1)  # all groups, all outcomes
    group_at, outcome_at = _starts([len(item) for item in questions]), _starts([item.shape[1] for item in tables])
    by_group = np.add.reduceat(joint, outcome_at, axis=1)
    by_outcome = np.add.reduceat(joint, group_at, axis=0)
    total = np.add.reduceat(by_group, group_at, axis=0)
    cells = np.add.reduceat(np.add.reduceat(by_bits(joint), group_at, axis=0), outcome_at, axis=1)
    ends = np.add.reduceat(by_bits(by_group), group_at, axis=0)
    ends += np.add.reduceat(by_bits(by_outcome), outcome_at, axis=1)
    safe = np.where(total > 1e-12, total, 1.0)
    bits: Array = np.where(total > 1e-12, (cells - ends) / safe + np.log2(safe), 0.0)
    return bits


def _starts(lengths: Sequence[int]) -> list[int]:
    return [0, *np.cumsum(lengths)[:-1].tolist()]


def by_bits(share: Array) -> Array:
    """Shares times their logarithm to base 2; 0 where there is none. Summed and negated: an entropy in bits."""
    safe = np.where(share > 1e-15, share, 1.0)
    weighed: Array = safe * np.log2(safe)
    return weighed
