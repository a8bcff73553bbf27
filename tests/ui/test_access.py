"""Nobody is shut out, as far as a machine can tell: every view, in both looks, at three widths, and by keys alone."""

import pytest
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from tests.ui.access import violations

VIEWS = (
    "/",
    "/project/1/brief",
    "/project/1/line-up",
    "/project/1/scope",
    "/project/1/build",
    "/project/1/log",
    "/project/1/stages/transformer?figure=transformer.core",
    "/project/1/stages/bridge?figure=bridge.junction_temperature",
    "/alone/bootstrap",
    "/nothing",
)
DRAWN = ("/project/1/stages/bridge?figure=bridge.junction_temperature", "/alone/bootstrap")
"""Views with a circuit, which comes a moment later."""
WIDTHS = (390, 1024, 1280)


def excepted(rule: str, dense_row: bool, width: int) -> bool:
    """The rows of a long ledger are 19 px high where there is a mouse, so that sixty figures are seen at once.

    Each is reached in another way as well: by the finder, by the arrow keys, and a touch screen makes them 36 px high (WCAG 2.5.8, equivalent).
    """
    return rule == "target-size" and width > 500 and dense_row


@pytest.mark.parametrize("look", ["light", "dark"])
def test_no_view_breaks_a_rule(page, look):
    page.open("/")
    page.driver.execute_script("localStorage.setItem('rhombos-look', arguments[0])", look)
    try:
        broken = []
        for view in VIEWS:
            page.resize(WIDTHS[0])
            page.open(view)
            if "/project/" in view:
                page.settled()
            for width in WIDTHS:
                page.resize(width)
                page.until(lambda: view == "/nothing" or not page.driver.find_elements(By.CSS_SELECTOR, ".wait"), "what is fetched to come")  # noqa: B023
                if view in DRAWN:
                    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=probe] tbody tr"), "the circuit and its traces")
                broken += [(view, width, *found) for found in violations(page) if not excepted(found[0], found[2], width)]
        assert not broken
    finally:
        page.resize(1280, 800)
        page.driver.execute_script("localStorage.clear()")


def test_each_view_says_its_name_and_the_first_key_skips_to_it(page):
    titles = set()
    for view, word in (("brief", "Brief"), ("build", "Build"), ("stages/link", "Stages")):
        page.open(f"/project/1/{view}")
        page.settled()
        page.until(lambda: page.driver.title.startswith(word), f"the title of {view}")  # noqa: B023
        titles.add(page.driver.title)
    assert len(titles) == 3
    page.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.TAB)
    assert page.driver.switch_to.active_element.text == "Skip to the view"


def focused(page) -> str:
    return page.driver.execute_script("const e = document.activeElement; return e.getAttribute('aria-label') || e.textContent")


def test_arrows_walk_the_line_the_ledger_and_what_the_finder_found(page):
    page.open("/project/1/stages/transformer")
    page.settled()
    page.driver.execute_script("document.querySelector('[data-place=transformer]').focus()")
    spot = page.driver.switch_to.active_element
    spot.send_keys(Keys.ARROW_RIGHT)
    assert focused(page).startswith("Rectifier")
    page.driver.switch_to.active_element.send_keys(Keys.HOME)
    assert focused(page).startswith("Battery")
    page.driver.execute_script("document.querySelector('.ledgers .name button').focus()")
    page.driver.switch_to.active_element.send_keys(Keys.ARROW_DOWN)
    assert focused(page) == "Core"
    page.driver.switch_to.active_element.send_keys(Keys.ENTER)
    page.until(lambda: "ETD59" in page.says("[data-testid=why]"), "why the core")
    page.key("/")
    page.type("[aria-label='Words to find']", "link voltage", Keys.ARROW_DOWN)
    first = focused(page)
    page.driver.switch_to.active_element.send_keys(Keys.ENTER)
    page.until(lambda: "figure=" in page.driver.current_url and first.lower() in page.says("[data-testid=why]").lower(), first)


def test_verdicts_are_told_to_those_who_listen(page):
    page.open("/project/1/brief")
    page.settled()
    page.until(lambda: any("hold" in e.get_attribute("textContent") for e in page.driver.find_elements(By.CSS_SELECTOR, "[role=status].sr")), "the verdicts")
