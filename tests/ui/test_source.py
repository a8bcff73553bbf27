"""The source side in the browser: a start with a fault, and what stands on a bank whose resistor stays."""

from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select


def tracks(page) -> dict[str, int]:
    return page.driver.execute_script(
        "return Object.fromEntries([...document.querySelectorAll('[data-track]')].map(g => [g.dataset.track, g.querySelectorAll('rect').length]))"
    )


def test_a_start_is_played_healthy_and_with_a_fault(page):
    page.open("/project/1/stages/precharge")
    page.settled()
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".scenes select"), "the scenes")
    assert "The contactor closes after" in page.says(".scenes [role=status]")
    assert tracks(page) == {"precharge relay": 1, "main contactor": 1, "fault": 0}
    Select(page.one(".scenes select")).select_by_visible_text("contactor welds")
    page.until(lambda: "welded" in page.says(".scenes [role=status]"), "what the fault says")
    assert tracks(page) == {"precharge relay": 1, "main contactor": 1, "fault": 1}
    Select(page.one(".scenes select")).select_by_visible_text("bus shorted")
    page.until(lambda: "shorted" in page.says(".scenes [role=status]"), "what the fault says")
    assert tracks(page) == {"precharge relay": 1, "main contactor": 0, "fault": 1}


def test_a_resistor_that_stays_says_that_the_bank_is_never_dead(page):
    page.open("/alone/precharge")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".frame[data-solving=false]"), "the sheet")
    Select(page.one("[id='precharge.school']")).select_by_visible_text("resistor for good")
    page.until(lambda: "never dead" in page.says("main"), "the caution")
    assert "Caution." in page.says(".caution")
    page.until(lambda: "for as long as the pack lasts" in page.says("main"), "the check that fails")
    page.driver.execute_script("document.querySelector('.scenes')?.scrollIntoView()")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".scenes select"), "the scenes")
    assert tracks(page) == {}
