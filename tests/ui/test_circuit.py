"""A stage's circuit: drawn, walked by keys, probed; the trace of before stays in grey."""

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys


def traces(page):
    return page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=probe] svg.probed g[fill=none] path")


def opened(page, stage):
    page.open(f"/alone/{stage}")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=probe] tbody tr"), "the traces")


def test_a_node_is_probed_by_a_click_and_let_go_by_another(page):
    opened(page, "doubler")
    assert len(traces(page)) == 4
    page.click("[aria-label='Probe the voltage of middle']")
    page.until(lambda: len(traces(page)) == 3, "one trace less")
    assert "middle" not in page.says("[data-testid=probe] table")
    page.click("[aria-label='Remove Second diode']")
    page.until(lambda: len(traces(page)) == 2, "and another")


def test_arrows_walk_the_parts_and_enter_opens_one(page):
    opened(page, "doubler")
    page.driver.execute_script("document.querySelector('[data-part=source]').focus()")
    walked = []
    for key in (Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT):
        page.driver.switch_to.active_element.send_keys(key)
        walked.append(page.driver.switch_to.active_element.get_attribute("data-part"))
    assert walked[0] == "series"
    assert walked[-1] in ("load", "output")
    page.driver.execute_script("document.querySelector('[data-part=series]').focus()")
    assert page.driver.switch_to.active_element.get_attribute("aria-label").startswith("Series capacitor 100 nF, between node 1 and middle, holds")
    page.driver.switch_to.active_element.send_keys(Keys.ENTER)
    page.until(lambda: "coupling_capacitor" in page.driver.current_url, "its figure is open")
    page.click_text("probe its voltage")
    page.until(lambda: "Series capacitor" in page.says("[data-testid=probe] table"), "and its voltage is probed")


def test_after_an_edit_the_former_trace_stays_in_grey(page):
    opened(page, "clipper")
    before = len(traces(page))
    page.type("[id='clipper.limit_level']", "8 V")
    page.until(lambda: len(traces(page)) == 2 * before, "new traces over those of before")
    assert "In grey" in page.says("[data-testid=probe]")
    page.until(lambda: "8.7" in page.says("[data-testid=probe] table"), "the new level")


def test_a_part_that_fails_is_marked(page):
    opened(page, "clipper")
    page.type("[id='clipper.diode_rating']", "1 mA")
    page.until(lambda: "fails" in page.one("[data-part=diode]").get_attribute("aria-label"), "marked by word and shape")
    assert page.driver.find_elements(By.CSS_SELECTOR, "[data-part=diode] path[stroke='var(--fail)']")


def test_volts_and_amperes_stand_in_the_circuit_on_demand(page):
    opened(page, "rcd_clamp")
    page.click_text("volts and amperes")
    page.until(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, ".schematic .reading")) >= 8, "readings at nodes and parts")
    shown = [e.text for e in page.driver.find_elements(By.CSS_SELECTOR, ".schematic .reading")]
    assert any(text.endswith("V") for text in shown)
    assert any(text.endswith("A") for text in shown)
    page.click_text("without readings")
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".schematic .reading"), "gone")


def test_the_whole_circuit_is_zoomed_and_a_part_opens_its_stage(page):
    page.open("/project/1/build")
    whole = "[data-testid=whole-circuit]"
    page.one(f"{whole} svg")
    stages = [e.text for e in page.driver.find_elements(By.CSS_SELECTOR, f"{whole} text.stage")]
    assert stages == ["Input", "Push-pull", "Rectifier", "DC link", "H-bridge", "Filter"]
    width = page.driver.execute_script(f"return document.querySelector('{whole} svg').getBoundingClientRect().width")
    page.driver.execute_script("document.querySelector('[aria-label=\"Zoom of the sheet\"]').scrollIntoView()")
    page.one("[aria-label='Zoom of the sheet']").send_keys("× 2")
    page.until(lambda: page.driver.execute_script(f"return document.querySelector('{whole} svg').getBoundingClientRect().width") > 1.5 * width, "twice as wide")
    page.driver.execute_script("document.querySelector('[data-part=\"link.capacitor\"]').focus()")
    page.driver.switch_to.active_element.send_keys(Keys.ENTER)
    page.until(lambda: "/stages/link?figure=link.link_capacitance" in page.driver.current_url, "its figure is open")


def test_the_scope_draws_one_load_of_the_list_alone(page):
    page.open("/project/1/scope")
    page.one("[data-testid=meters]")
    before = page.says("[data-testid=readouts]")
    assert "Link, V" in before
    assert "Front end, A" in before
    loads = page.driver.find_elements(By.CSS_SELECTOR, "[aria-label=Load] option")
    assert [e.text for e in loads[:3]] == ["the brief's", "resistance of equal power", "none"]
    assert len(loads) > 3
    loads[3].click()
    page.until(lambda: page.says("[data-testid=readouts]") != before, "other currents")
