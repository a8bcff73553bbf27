"""The real page, in headless Chromium, over the running application."""

import json
import os
import re
import signal
import time
import urllib.request

import pytest
from selenium.webdriver import Keys
from selenium.webdriver.common.by import By

from tests.conftest import Running


def project(app: Running, title: str) -> int:
    """A fresh project with the demo's design."""
    with urllib.request.urlopen(f"{app.base}/api/projects/1") as answer:
        design = json.load(answer)["draft"]["design"]
    body = json.dumps({"title": title, "design": {**design, "parts": {}, "title": title}}).encode()
    with urllib.request.urlopen(urllib.request.Request(f"{app.base}/api/projects", data=body, headers={"content-type": "application/json"})) as answer:
        return int(json.load(answer)["id"])


def test_the_demo_opens_from_the_shelf_solved(page):
    page.open("/")
    page.until(lambda: "Tern Islet field station" in page.says("main"), "the demo on the shelf")
    page.driver.find_element(By.XPATH, "//li[contains(@class, 'tile')]//a[contains(., 'Tern Islet')]").click()
    page.settled()
    assert len(page.driver.find_elements(By.CSS_SELECTOR, ".line [data-place]")) >= 25
    assert re.search(r"1\d\d hold · 0 tight · 0 fail", page.says("[data-testid=summary]"))
    assert page.driver.execute_script("return document.documentElement.scrollWidth") <= 1280, "no horizontal scroll"


def test_a_changed_load_moves_line_and_verdict_and_says_what_moved(app, page):
    page.open(f"/project/{project(app, 'Load')}/brief")
    page.settled()
    before = float(page.one(".line .conductor").get_attribute("data-current"))
    thick = float(page.one(".line .conductor").get_attribute("stroke-width"))
    page.type("[id='load_3.rated_power']", "1.9 kW")
    page.until(lambda: float(page.one(".line .conductor").get_attribute("data-current")) > 2.5 * before, "the current to rise")
    page.settled()
    assert float(page.one(".line .conductor").get_attribute("stroke-width")) > thick
    assert "input" in page.says("[data-testid=changed]").lower()
    verdicts = {e.get_attribute("data-verdict") for e in page.driver.find_elements(By.CSS_SELECTOR, ".line [data-place]")}
    assert verdicts & {"fails", "tight"}
    assert "2.33" in page.says("[data-sum='output.rated_active_power']")


def test_a_mistyped_number_is_named_and_kept(app, page):
    page.open(f"/project/{project(app, 'Typing')}/brief")
    page.settled()
    page.type("[id='input.cable_length']", "1,234 m", "")
    page.until(lambda: "decimal or thousands" in page.says("main"), "the mistake to be named")
    assert page.one("[id='input.cable_length']").get_attribute("value") == "1,234 m"
    page.one("[id='input.cable_length']").send_keys(Keys.ESCAPE)
    page.type("[id='input.cable_length']", "1,2 m")
    page.settled()
    page.until(lambda: page.one("[id='input.cable_length']").get_attribute("value") == "1.2 m", "the value to stand")


def test_corners_are_chosen_by_key_and_click(app, page):
    page.open(f"/project/{project(app, 'Corners')}/stages/front")
    page.settled()
    full = page.value("front.flat_top_current")
    page.key("2")
    page.until(lambda: page.value("front.flat_top_current") != full, "the surge's current")
    assert page.one("[data-corner=lowest_surge]").get_attribute("aria-pressed") == "true"
    page.click("[data-corner=nominal_full]")
    page.until(lambda: page.value("front.flat_top_current") == full, "the full load's current")
    page.key("]")
    page.until(lambda: page.driver.current_url.endswith("/stages/supply"), "the next stage along the line")


def test_the_front_end_is_swapped_and_undone(app, page):
    page.open(f"/project/{project(app, 'Swap')}/line-up")
    page.until(lambda: page.says("[data-testid=compare]").count("Use this line-up") == 2, "all line-ups solved")
    assert "58.4" in page.says("[data-testid=compare]")
    assert "29.2" in page.says("[data-testid=compare]")
    page.key("f")
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[data-place=transformer]"), "a line without a transformer")
    page.settled()
    page.key("f")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-place=front_bootstrap]"), "the bridge's bootstrap on the line")
    page.settled()
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-place=clamp]")
    page.chord(Keys.CONTROL, "z")
    page.chord(Keys.CONTROL, "z")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-place=clamp]"), "the clamp back")


def test_where_no_setting_helps_the_other_line_up_is_a_click(app, page):
    page.open(f"/project/{project(app, 'Outgrown')}/brief")
    page.settled()
    page.edit("[id='load_3.rated_power']", "1.5kW")
    page.open(page.driver.current_url.removeprefix(app.base).replace("/brief", "/stages/clamp"))
    offer = "[data-check='clamp.leakage_share'] [data-remedy=lineup]"
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, offer), "the other line-up")
    assert page.says(offer).startswith("Swap to ")
    page.click(offer)
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-place=front_bootstrap]"), "the bridge's line")
    page.settled()
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-place=clamp]")
    page.chord(Keys.CONTROL, "z")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-place=clamp]"), "the clamp back")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, offer), "the offer again")
    page.click(offer)
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-place=front_bootstrap]"), "the bridge's line again")
    page.settled()
    page.driver.refresh()
    page.until(lambda: "has no stage" in page.says("#root"), "the address of a stage that the line-up has not")
    page.click_text("to the one with the least room", "a")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[aria-label='Worked figures']"), "a stage that it has")


def test_why_pin_undo_and_a_remedy(app, page):
    page.open(f"/project/{project(app, 'Why')}/stages/transformer")
    page.settled()
    page.click("tr[data-figure='transformer.peak_flux']")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=why] .katex"), "the formula typeset")
    assert "Faraday" in page.says("[data-testid=why]")
    page.click("[data-walk='oscillator.lowest_switching_frequency']")
    page.until(lambda: page.driver.current_url.endswith("/stages/oscillator?figure=oscillator.lowest_switching_frequency"), "to walk to another stage")
    page.until(lambda: "lowest" in page.says("[data-testid=why] h2").lower(), "its figure open there")
    page.driver.back()
    page.until(lambda: "peak flux" in page.says("[data-testid=why] h2").lower(), "back where one was")
    page.click("[data-walk='transformer.primary_turns']")
    page.until(lambda: "primary turns" in page.says("[data-testid=why] h2").lower(), "to walk to the turns")
    page.key("p")
    page.type("#pin-value", "2", "")
    page.until(lambda: page.one("#pin-value").get_attribute("value") == "2", "the typed turns")
    time.sleep(0.3)
    page.type("#pin-reason", "two turns of foil at hand")
    page.until(lambda: page.verdict("transformer") == "fails", "the flux to fail")
    page.settled()
    assert "computed 3" in page.says("[aria-label=Given]")
    assert "primary turns" in page.says("[data-testid=why] h2").lower()
    assert page.driver.find_elements(By.CSS_SELECTOR, "[data-check='transformer.flux'].fails")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-check='transformer.flux'] [data-remedy]"), "a computed remedy")
    assert "from" in page.says("[data-check='transformer.flux'] [data-remedy]")
    page.click("[data-check='transformer.flux'] [data-remedy]")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-check='transformer.flux']:not(.fails):not(.tight)"), "the remedy to hold")
    page.chord(Keys.CONTROL, "z")
    page.until(lambda: page.verdict("transformer") == "fails", "undo of the remedy")
    page.chord(Keys.CONTROL, "z")
    page.until(lambda: page.verdict("transformer") == "holds", "undo of the pin")


def test_goal_seek_makes_a_figure_equal(app, page):
    page.open(f"/project/{project(app, 'Seek')}/stages/precharge?figure=precharge.precharge_time")
    page.settled()
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, ".sens"), "what moves it most")
    page.key("g")
    page.type("#seek-wanted", "480 ms", "")
    field = page.one("#seek-move")
    next(o for o in field.find_elements(By.TAG_NAME, "option") if o.get_attribute("value") == "precharge.usual_closing_fraction").click()
    page.click_text("Seek")
    page.until(lambda: "does it" in page.says("[data-testid=sought]"), "a value that does it")
    page.click_text("Take it")
    page.until(lambda: "480" in page.value("precharge.precharge_time"), "the time to be what was wanted")


def test_the_scope_shows_a_sine_two_cursors_and_exports(app, page, browser):
    page.open(f"/project/{project(app, 'Scope')}/scope")
    page.until(lambda: "230" in page.says("[data-testid=meters]"), "the meters")
    before = page.says("[data-testid=readouts]")
    cursor = page.one("[role=slider][aria-label='Cursor A']")
    cursor.send_keys(Keys.ARROW_RIGHT * 12)
    page.until(lambda: page.says("[data-testid=readouts]") != before, "the read-outs to follow the cursor")
    thd = page.says("[data-testid=thd]")
    assert "to the 40th" in thd
    next(o for o in page.one("select[aria-label=Zoom]").find_elements(By.TAG_NAME, "option") if o.text == "× 16").click()
    wide = page.until(
        lambda: (
            (d := page.one("svg[aria-label='Waveforms of one output period'] g[fill=none] path:last-of-type").get_attribute("d")) and d.count("L") < 2000 and d
        ),
        "one sixteenth of the period",
    )
    assert wide.count("L") > 100, "sixteen times as near, the carrier is still whole"
    next(o for o in page.one("select[aria-label=Zoom]").find_elements(By.TAG_NAME, "option") if o.text == "one period").click()
    next(o for o in page.one("select[aria-label=Modulation]").find_elements(By.TAG_NAME, "option") if o.text == "bipolar").click()
    page.until(lambda: page.says("[data-testid=thd]") != thd, "the carrier residue of two levels")
    _, downloads = browser
    page.click_text("CSV")
    page.click_text("PNG")
    page.until(lambda: {p.suffix for p in downloads.iterdir()} >= {".csv", ".png"}, "both files")
    file = next(downloads.glob("*.csv"))
    assert file.read_text().splitlines()[0] == "time s,bridge node V,choke A,link V,front end A,load A,output V"
    assert next(downloads.glob("*.png")).read_bytes()[:4] == b"\x89PNG"


def test_build_lists_what_to_order_and_wind(app, page):
    page.open(f"/project/{project(app, 'Build')}/build")
    assert "Averaging choke" in page.says("[data-testid=parts]")
    card = page.says("[data-testid=winding]")
    assert "centre tap" in card
    assert len(page.driver.find_elements(By.CSS_SELECTOR, "svg[aria-label='Winding window to scale'] circle")) > 100


def test_export_and_import_from_the_page(app, page, browser, tmp_path):
    id = project(app, "Round trip")
    page.open(f"/project/{id}/log")
    page.settled()
    page.click_text("Export the draft")
    _, downloads = browser
    file = page.until(lambda: next(downloads.glob("round-trip.json"), None), "the design file")
    page.open("/")
    page.one("[data-testid=import]").send_keys(str(file))
    page.until(lambda: "/project/" in page.driver.current_url, "the imported project to open")
    page.settled()
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "rhombos-design", "lineup": 7}')
    page.open("/")
    page.one("[data-testid=import]").send_keys(str(bad))
    page.until(lambda: "was refused, nothing was changed" in page.says("main"), "the refusal")


def test_reload_finds_everything(app, page):
    page.open(f"/project/{project(app, 'Reload')}/stages/link")
    page.settled()
    page.edit("[id='link.ripple_fraction']", "0.04")
    page.driver.refresh()
    page.settled()
    assert page.one("[id='link.ripple_fraction']").get_attribute("value") == "0.04"
    assert page.driver.current_url.endswith("/stages/link")
    page.key("s")
    page.type("textarea", "Less ripple on the link", "")
    page.click_text("Save the revision")
    page.until(lambda: "rev 2" in page.says(".top"), "the revision's number")


def write_elsewhere(app, id, version, design):
    """A draft written by somebody else than the page."""
    body = json.dumps({"version": version, "design": design}).encode()
    headers = {"content-type": "application/json"}
    urllib.request.urlopen(urllib.request.Request(f"{app.base}/api/projects/{id}/draft", data=body, headers=headers, method="PUT")).close()


def test_a_second_tab_gets_both_sides(app, page):
    id = project(app, "Two tabs")
    page.open(f"/project/{id}/brief")
    page.settled()
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        draft = json.load(answer)["draft"]
    other = {**draft["design"], "givens": {**draft["design"]["givens"], "battery.cells": 7, "input.cable_length": 2.5}}
    write_elsewhere(app, id, draft["version"], other)
    page.type("[id='input.cable_length']", "1.5 m")
    page.until(lambda: "Two sides" in page.says("[role=alertdialog]"), "the conflict")
    said = page.says("[role=alertdialog]")
    assert "Input, cable length: 1.5" in said
    assert "cells" not in said, "what was edited on one side only is not asked about"
    page.driver.refresh()
    page.until(lambda: "1.5" in page.says("[role=alertdialog]"), "both sides again after a reload: what was typed here is kept")
    page.click_text("Keep what is here")
    page.settled()
    assert page.one("[id='battery.cells']").get_attribute("value") == "7"
    assert page.one("[id='input.cable_length']").get_attribute("value") == "1.5 m"
    assert "Battery, cells in series" in page.says(".strip[role=status]"), "what came in is told"


def test_another_field_comes_in_without_a_question_and_a_project_opened_again_is_the_newest(app, page):
    id = project(app, "Brought together")
    page.open(f"/project/{id}/brief")
    page.settled()
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        draft = json.load(answer)["draft"]
    write_elsewhere(app, id, draft["version"], {**draft["design"], "givens": {**draft["design"]["givens"], "battery.cells": 7}})
    page.type("[id='input.cable_length']", "1.5 m")
    page.until(lambda: page.one("[id='battery.cells']").get_attribute("value") == "7", "the other edit")
    page.settled()
    page.click("a.name")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, f"a[href='/project/{id}/stages']"), "the shelf")
    page.click(f"a[href='/project/{id}/stages']")
    page.settled()
    page.open(f"/project/{id}/brief")
    page.settled()
    assert page.one("[id='input.cable_length']").get_attribute("value") == "1.5 m"
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        stored = json.load(answer)["draft"]["design"]["givens"]
    assert (stored["battery.cells"], stored["input.cable_length"]) == (7, 1.5)


def test_a_save_whose_answer_is_lost_is_nobody_elses_edit(app, page):
    """The server has written it, the page did not hear of it: what is typed next follows from it without a question."""
    id = project(app, "Lost answer")
    page.open(f"/project/{id}/brief")
    page.settled()
    page.driver.execute_script(
        "const plain = window.fetch; let lost = false; window.fetch = async (to, how) => { const answer = await plain(to, how);"
        "if (how && how.method === 'PUT' && !lost) { lost = true; throw new TypeError('cut off') } return answer }"
    )
    page.type("[id='input.cable_length']", "1.2 m")
    page.until(lambda: "not saved" in page.says(".state"), "the loss to be told")
    page.type("[id='input.cable_length']", "1.3 m")
    page.settled()
    assert page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]") == []
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        assert json.load(answer)["draft"]["design"]["givens"]["input.cable_length"] == 1.3


def test_a_value_beyond_its_limits_is_told_at_its_field_and_never_reaches_the_design(app, page):
    id = project(app, "Limits")
    page.open(f"/project/{id}/brief")
    page.settled()
    page.type("[id='battery.capacity']", "0.1 Ah", "")
    page.until(lambda: "0.1\u2009Ah is outside 1 … 10000\u2009Ah" in page.says(".row2 .wrong"), "the limits at the field")
    time.sleep(0.6)
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        assert json.load(answer)["draft"]["version"] == 1
    page.edit("[id='battery.capacity']", "150")
    assert page.one("[id='battery.capacity']").get_attribute("value") == "150 Ah"


def test_a_draft_that_cannot_be_solved_opens_and_leads_back(app, page):
    id = project(app, "Half an edit")
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        draft = json.load(answer)["draft"]
    broken = {**draft["design"], "givens": {**draft["design"]["givens"], "battery.cells": 0}}
    write_elsewhere(app, id, draft["version"], broken)
    page.open(f"/project/{id}/brief")
    page.until(lambda: "(battery.cells): 0 is outside" in page.says("[role=alert]"), "why it cannot be solved")
    page.click_text("Go back to revision 1")
    page.settled()
    assert page.one("[id='battery.cells']").get_attribute("value") == "8"


def test_an_address_that_is_no_page_says_so_and_leads_on(page):
    page.open("/project/1/windings")
    page.until(lambda: "no such page" in page.says("p.wait"), "the sentence")
    page.click("p.wait a")
    page.until(lambda: page.driver.current_url.endswith("/project/1/brief"), "the brief")
    page.settled()


def test_a_slow_save_does_not_collide_with_the_typing_that_follows(app, page):
    """Writes that take longer than the pause before the next one: no conflict with oneself, and the last word is kept."""
    id = project(app, "Slow disk")
    page.open(f"/project/{id}/brief")
    page.settled()
    page.driver.execute_script(
        "const plain = window.fetch; window.fetch = async (to, how) => { const answer = await plain(to, how);"
        "if (how && how.method === 'PUT') await new Promise((go) => setTimeout(go, 1200)); return answer }"
    )
    for watts in ("311 W", "312 W", "313 W"):
        page.type("[id='load_3.rated_power']", watts)
        time.sleep(0.5)
    page.settled()
    assert page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]") == []
    with urllib.request.urlopen(f"{app.base}/api/projects/{id}") as answer:
        assert json.load(answer)["draft"]["design"]["givens"]["load_3.rated_power"] == 313
    page.open(f"/project/{id}/brief")
    page.settled()
    assert page.one("[id='load_3.rated_power']").get_attribute("value").startswith("313")


@pytest.mark.parametrize("key", ["bridge.junction_temperature", "filter.node_peak_voltage", "rectifier.choke_ripple", "transformer.primary_ac_factor"])
def test_a_long_formula_fits_its_column(page, key):
    page.open(f"/project/1/stages/{key.split('.')[0]}?figure={key}")
    page.settled()
    page.until(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, ".formula .katex")) >= 2, "both formulas to be typeset")
    over = "return [...document.querySelectorAll('.formula')].map(f => f.scrollWidth - f.clientWidth)"
    page.until(lambda: max(page.driver.execute_script(over)) <= 1, "the formulas to fit")
    assert not page.driver.find_elements(By.CSS_SELECTOR, ".katex-error")


def test_keys_finder_and_dark(app, page):
    page.open(f"/project/{project(app, 'Keys')}/stages/battery")
    page.settled()
    page.key("?")
    page.until(lambda: "walk the line" in page.says("[role=dialog]"), "the list of keys")
    page.chord(Keys.ESCAPE)
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "[role=dialog]"), "the list to close")
    page.key("/")
    page.type("[role=dialog] input", "regulation floor")
    page.until(lambda: "figure=transformer.regulation_floor" in page.driver.current_url, "the figure found")
    page.click("[aria-label='Light or dark']")
    assert page.driver.execute_script("return getComputedStyle(document.body).backgroundColor") == "rgb(27, 36, 43)"
    page.click("[aria-label='Light or dark']")


def test_the_database_dies_and_returns_and_the_edits_are_kept(app, page):
    """Last: it kills the database of the shared application and starts everything anew."""
    id = project(app, "Lost and found")
    page.open(f"/project/{id}/brief")
    page.settled()
    os.kill(app.database_pid(), signal.SIGKILL)
    page.type("[id='input.cable_length']", "1.7 m")
    page.until(lambda: "draft saved" in page.says(".top"), "the database to be started again, and the edit saved by itself")
    os.kill(app.database_pid(), signal.SIGKILL)
    app.process.kill()
    app.process.communicate()
    app.start()
    page.settled()
    page.driver.refresh()
    page.settled()
    assert page.one("[id='input.cable_length']").get_attribute("value") == "1.7 m"
