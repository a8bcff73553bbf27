"""Control in the browser: the drivers side by side, one fault in the feedback, the cut-off's setting, a build that is held."""

from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select


def ways(page, title: str) -> dict[str, str]:
    """The first cell and the verdict of every row of a table of ways."""
    return page.driver.execute_script(
        "const t = [...document.querySelectorAll('.ways')].find(w => w.ariaLabel === arguments[0]);"
        "return t ? Object.fromEntries([...t.querySelectorAll('tbody tr')].map(r => "
        "[r.querySelector('th').innerText.trim(), r.querySelector('svg.verdict')?.ariaLabel ?? ''])) : null",
        title,
    )


def test_the_drivers_stand_side_by_side_and_a_bad_one_fails(page):
    page.open("/alone/driver_schools")
    page.until(lambda: ways(page, "What would drive these gates"), "the table")
    told = ways(page, "What would drive these gates")
    assert len(told) == 6
    assert told["driver chip (taken)"] == "holds"
    assert told["optocoupler with pull-up"] == "fails"
    Select(page.one("[id='driver_schools.driver_school']")).select_by_visible_text("optocoupler with pull-up")
    page.until(lambda: "optocoupler with pull-up (taken)" in ways(page, "What would drive these gates"), "the one taken")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".judge svg[aria-label=fails], .judge.fails, [data-verdict=fails]"), "the check that fails")


def test_every_single_fault_is_told_and_none_acts_where_the_trip_is_taken_out(page):
    page.open("/project/1/stages/feedback")
    page.settled()
    title = "One part open or shorted"
    page.until(lambda: ways(page, title), "the table of faults")
    assert ways(page, title)["upper resistor open"] == "holds"
    Select(page.one("[id='feedback.detector']")).select_by_visible_text("none")
    page.until(lambda: ways(page, title).get("upper resistor open") == "fails", "the same fault with nothing that acts")
    assert ways(page, title)["pot wiper open, spare leg tied to it"] == "holds", "down is safe"
    page.click_text("undo")
    page.until(lambda: ways(page, title)["upper resistor open"] == "holds", "the trip back")
    page.settled()


def test_the_cut_off_is_set_with_the_numbers_of_its_steps(page):
    page.open("/project/1/build")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=parts]"), "the build pages")
    said = page.says("main").lower()
    for words in (
        "Try the cut-off",
        "Calibrate the gauge",
        "First power, limited",
        "Prove the sense of the feedback",
        "Low-voltage alarm",
        "Over-voltage inhibit",
    ):
        assert words.lower() in said, words
    assert "(not known" not in said


def test_a_build_is_held_in_one_action_shown_on_the_line_and_let_go(page):
    page.open("/project/1/build")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "form.hold"), "the offer")
    assert page.driver.find_elements(By.CSS_SELECTOR, "rect.held") == []
    page.click("form.hold button")
    page.until(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, ".line rect.held")) >= 6, "the marks on the line")
    assert "build held" in page.says(".top")
    page.settled()
    page.open("/project/1/log")
    page.until(lambda: page.driver.find_elements(By.XPATH, "//button[.='What changed since']"), "the revisions")[0].click()
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=since] [data-kind=pin]"), "what changed")
    kinds = {row.get_attribute("data-kind") for row in page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=since] [data-kind]")}
    assert "part" not in kinds, "to hold a build changes nothing of it"
    page.open("/project/1/build")
    page.until(lambda: page.driver.find_elements(By.XPATH, "//button[.='Let it go']"), "the way back")[0].click()
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "rect.held"), "the line without marks")
    page.settled()


def test_a_part_of_a_line_up_is_a_project_whose_missing_load_is_given(page):
    page.open("/project/2/brief")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=part]"), "what is given at the joint")
    page.settled()
    tabs = [tab.text for tab in page.driver.find_elements(By.CSS_SELECTOR, ".tabs a")]
    assert tabs == ["Brief", "Stages", "Build", "Log"]
    for view in ("line-up", "scope"):
        page.open(f"/project/2/{view}")
        page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=part]"), "the same in place of the view")
    page.open("/project/2/stages/cutoff")
    page.settled()
    assert "Cut-off's pot" in page.says("main")
    page.open("/project/2/build")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=parts]"), "its parts")
    assert "stumbled" not in page.says("body")
