"""The shelf: a new project, just one stage, and what can be done with what stands there."""

from selenium.webdriver.common.by import By
from selenium.webdriver.support.select import Select

from rhombos.core.lineups import LINE_UPS
from tests.ui.test_page import project


def test_a_stage_alone_from_the_shelf(page):
    page.open("/")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "a[href='/alone/bootstrap']"), "the stages on the shelf")
    page.click("a[href='/alone/bootstrap']")
    row = "tr[data-figure='bootstrap.bootstrap_capacitor']"
    page.until(lambda: "nF" in page.says(row), "the capacitor at usual values, before anything is typed")
    assert page.says("[data-check='bootstrap.droop']"), "and its verdict"
    ports = {"gate_charge": "60 nC", "switch_quantity": "1", "gate_on_voltage": "12 V", "gate_frequency": "20 kHz", "low_side_drop": "0.3 V"}
    for name, typed in ports.items():
        page.type(f"[id='outside.{name}']", typed, "")
    page.until(lambda: "470" in page.says(row), "the capacitor for what was typed")
    page.driver.refresh()
    page.until(lambda: "470" in page.says(row), "what was typed is kept by the address")
    page.click_text("Keep as a project")
    page.until(lambda: "/project/" in page.driver.current_url, "the stage as a project")
    page.settled()
    assert "470" in page.says(row)


def test_a_new_project_from_a_brief(page):
    page.open("/")
    page.click_text("New from a brief")
    page.type("input[placeholder='Ridge hut lights']", "Reed bed pump", "")
    page.click_text("Make it")
    page.until(lambda: page.driver.current_url.endswith("/brief"), "the brief")
    page.settled()
    assert "300" in page.says("[data-sum='output.rated_active_power']")
    page.open(page.driver.current_url.removeprefix(page.base).replace("/brief", "/log"))
    page.until(lambda: "300 W at 26 V" in page.says("main"), "the reason for its line-up, with the first revision")
    page.open(page.driver.current_url.removeprefix(page.base).replace("/log", "/brief"))
    page.click_text("Add a load")
    page.until(lambda: "340" in page.says("[data-sum='output.rated_active_power']"), "the second load in the sums")


def test_a_part_of_a_line_up_as_a_project(page):
    page.open("/")
    page.click_text("New from a brief")
    page.type("input[placeholder='Ridge hut lights']", "Weir gate pump", "")
    for what, option in (("Line-up to begin with", LINE_UPS["boost_link_bridge"].title), ("How much of it", "up to input")):
        label = next(e for e in page.driver.find_elements(By.TAG_NAME, "label") if e.text.startswith(what))
        Select(label.find_element(By.TAG_NAME, "select")).select_by_visible_text(option)
    assert "what it would draw" in page.says("[role=dialog]")
    assert not page.driver.find_elements(By.TAG_NAME, "textarea"), "no load list where nothing is fed"
    page.click_text("Make it")
    page.until(lambda: page.driver.current_url.endswith("/brief"), "the part")
    page.settled()
    assert "up to input" in page.says("[data-testid=part]")


def test_a_project_by_volts_and_a_pasted_list(page):
    page.open("/")
    page.click_text("New from a brief")
    page.type("input[placeholder='Ridge hut lights']", "Weaver's loft", "")
    for field, text in (("or nominal volts", "51,2 V"), ("Output frequency", "60")):
        name = page.until(lambda f=field: next((e for e in page.driver.find_elements(By.TAG_NAME, "label") if e.text == f), None), field).get_attribute("for")
        page.type(f"[id='{name}']", text, "")
    page.type("textarea", "Name; Watts; Pieces\nLamps; 12 W; 9\nLoom; 0,4 kW; motor", "")
    page.click_text("Make it")
    page.until(lambda: page.driver.current_url.endswith("/brief"), "the brief")
    page.settled()
    assert "508" in page.says("[data-sum='output.rated_active_power']")
    fields = {key: page.one(f"[id='{key}']").get_attribute("value") for key in ("battery.cells", "output.output_frequency", "load_1.count")}
    assert fields == {"battery.cells": "16", "output.output_frequency": "60 Hz", "load_1.count": "9"}


def more(page, title, what):
    page.click(f"[aria-label='More for {title}']")
    page.until(
        lambda: next((e for e in page.driver.find_elements(By.CSS_SELECTOR, "[role=menuitem]") if e.is_displayed() and e.text == what), None), what
    ).click()


def tiles(page):
    return [e.text for e in page.driver.find_elements(By.CSS_SELECTOR, "li.tile a") if e.is_displayed()]


def test_the_shelf_duplicates_renames_deletes_and_brings_back(app, page):
    project(app, "Grain store")
    page.open("/")
    more(page, "Grain store", "Duplicate …")
    page.click_text("Duplicate")
    page.until(lambda: "Grain store, copy" in tiles(page), "the copy")
    more(page, "Grain store, copy", "Rename …")
    page.type("[role=dialog] input", "Mill race")
    page.until(lambda: "Mill race" in tiles(page), "the new name")
    more(page, "Mill race", "Delete")
    page.until(lambda: "Mill race" not in tiles(page), "the copy to go")
    page.click_text("Undo")
    page.until(lambda: "Mill race" in tiles(page), "the copy to come back")
    more(page, "Mill race", "Delete")
    page.until(lambda: "Mill race" not in tiles(page), "the copy to go again")
    page.driver.refresh()
    page.click("details:last-of-type summary")
    more(page, "Mill race", "Remove for good …")
    page.click_text("Remove it")
    page.until(lambda: "Mill race" not in page.says("main"), "nothing of it to be left")
    assert "Grain store" in tiles(page)
