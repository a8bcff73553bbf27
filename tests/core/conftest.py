"""What several files of tests look at."""

import pytest

from rhombos.core.lineups import LINE_UPS
from tests.core.trial import of_sample


@pytest.fixture(scope="session", name="sheets")
def _sheets():
    out = {}
    for id in LINE_UPS:
        design = of_sample(id)
        model = design.model()
        out[id] = model, model.solve(design.inputs())
    return out
