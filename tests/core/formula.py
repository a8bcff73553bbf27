"""One figure's formula, called by its names."""

import numpy as np

from rhombos.core.lineups import STAGES


def figure(stage: str, name: str, **values: float) -> float:
    """A figure's formula on plain numbers, by the names of its parameters."""
    found = STAGES[stage].figures[name]
    assert set(values) == set(found.params), f"{name} reads {found.params}"
    with np.errstate(all="ignore"):
        return float(np.atleast_1d(found.fn(*[values[p] for p in found.params]))[0])
