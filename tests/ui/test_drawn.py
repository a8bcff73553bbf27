"""An edit draws anew what it changed, and little else."""

import pytest

from tests.ui.drawn import COUNT, EDIT

EDITS = [
    ("/project/1/brief", "load_3.rated_power", "[data-sum='output.rated_active_power']", "{} W", 60),
    # Two dozen figures of the bridge follow from its sink; each is a row and a number. Its circuit and its traces are eight more, ten where their answers come one by one.
    (
        "/project/1/stages/bridge?figure=bridge.junction_temperature",
        "bridge.pad_resistance",
        "tr[data-figure='bridge.junction_temperature'] td.v",
        "1.{} K/W",
        64,
    ),
]


@pytest.mark.parametrize(("view", "field", "watched", "text", "most"), EDITS)
def test_an_edit_draws_little_anew(page, view, field, watched, text, most):
    added = page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": COUNT})
    try:
        page.open(view)
        page.settled()
        page.one(watched)
        drawn = []
        for k in (71, 72, 73):
            page.driver.execute_async_script(EDIT, field, watched, text.format(k))
            page.settled()
            drawn.append(page.driver.execute_script("return window.rendered"))
        assert 10 < sorted(drawn)[1] <= most
    finally:
        page.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", added)
