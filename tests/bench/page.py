"""The page in headless Chromium: from an edit to what is painted, what is drawn anew, what is fetched, what stays in memory."""

import gzip
import time

import numpy as np
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from tests.conftest import ROOT
from tests.ui.browser import chromium
from tests.ui.drawn import COUNT, EDIT
from tests.ui.page import Page

CORNER = """
const done = arguments[arguments.length - 1], watched = () => [...document.querySelectorAll('main svg path')].map(p => p.getAttribute('d')).join()
const before = watched(), begin = performance.now()
document.body.dispatchEvent(new KeyboardEvent('keydown', {key: arguments[0], bubbles: true}))
const look = () => watched() !== before ? requestAnimationFrame(() => done(performance.now() - begin)) : performance.now() - begin > 5000 ? done(5000) : requestAnimationFrame(look)
requestAnimationFrame(look)
"""
PROBE = """
const done = arguments[arguments.length - 1], watched = () => [...document.querySelectorAll('[data-testid=probe] svg path')].map(p => p.getAttribute('d')).join()
const before = watched(), begin = performance.now()
document.querySelector(`[aria-label="Probe the voltage of ${arguments[0]}"]`).dispatchEvent(new MouseEvent('click', {bubbles: true}))
const look = () => watched() !== before ? requestAnimationFrame(() => done(performance.now() - begin)) : performance.now() - begin > 5000 ? done(5000) : requestAnimationFrame(look)
requestAnimationFrame(look)
"""
EDITS = 24
WARM = 3


def measured(base: str) -> dict[str, float]:
    """Edits on the brief, on a stage with why open, corners on the scope (ms, p95); most renders an edit; kB of shelf and stage; MB after 500 edits."""
    with chromium() as driver:
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": COUNT})
        page = Page(driver, base)
        page.open("/")
        page.until(lambda: driver.find_elements(By.CSS_SELECTOR, "a.tile"), "the shelf")
        shelf = _fetched(driver)
        brief, brief_drawn = _edits(page, "/project/1/brief", "load_3.rated_power", "[data-sum='output.rated_active_power']", lambda k: f"{301 + k} W")
        stage, stage_drawn = _edits(
            page,
            "/project/1/stages/bridge?figure=bridge.junction_temperature",
            "bridge.pad_resistance",
            "tr[data-figure='bridge.junction_temperature'] td.v",
            lambda k: f"{1.1 + 0.01 * k:.2f} K/W",
        )
        weight = _fetched(driver)
        page.open("/project/1/scope")
        page.settled()
        page.until(lambda: not driver.find_elements(By.CSS_SELECTOR, ".wait"), "the traces")
        scope = [driver.execute_async_script(CORNER, "43"[k % 2]) for k in range(EDITS)]
        probe = _probes(page)
        return {
            "probe": _p95(probe),
            "brief": _p95(brief),
            "stage": _p95(stage),
            "scope": _p95(scope),
            "drawn": max(float(np.median(brief_drawn)), float(np.median(stage_drawn))),
            "shelf_weight": shelf,
            "stage_weight": weight,
            "memory": _memory(page),
        }


def _edits(page: Page, view: str, field: str, watched: str, text: object) -> tuple[list[float], list[float]]:
    page.open(view)
    page.settled()
    page.one(watched)
    page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".wait"), "what is fetched to come")
    paints, drawn = [], []
    for k in range(EDITS):
        paints.append(page.driver.execute_async_script(EDIT, field, watched, text(k)))  # type: ignore[operator]
        page.settled()
        time.sleep(0.1)
        drawn.append(page.driver.execute_script("return window.rendered"))
    return paints[WARM:], drawn[WARM:]


def _probes(page: Page) -> list[float]:
    """From the click on a node of the rectifier to its painted trace, at one corner after the other."""
    page.open("/project/1/stages/rectifier")
    page.settled()
    page.one("[data-testid=probe] tbody tr")
    page.driver.execute_async_script(PROBE, "link")  # one of the four makes room
    clicks = []
    for k in (*"123456789", "0"):
        page.driver.execute_async_script(CORNER, k) if k != "3" else None
        time.sleep(0.5)
        clicks.append(page.driver.execute_async_script(PROBE, "secondary"))
        page.driver.execute_async_script(PROBE, "secondary")
    return clicks


def _memory(page: Page) -> float:
    """MB by which the page's memory has grown after 500 edits, after all rubbish is collected."""
    driver = page.driver
    page.open("/project/1/brief")
    page.settled()

    def heap() -> float:
        driver.execute_cdp_cmd("HeapProfiler.collectGarbage", {})
        return float(driver.execute_cdp_cmd("Runtime.getHeapUsage", {})["usedSize"]) / 1e6

    before = heap()
    for k in range(500):
        driver.execute_async_script(EDIT, "load_3.rated_power", "[data-sum='output.rated_active_power']", f"{200 + k} W")
    page.settled()
    return heap() - before


def _fetched(driver: Chrome) -> float:
    """The script and style that the page has fetched, in kB, compressed as they go over the wire."""
    names = driver.execute_script("return performance.getEntriesByType('resource').map(r => r.name).filter(n => /\\.(js|css)$/.test(n))")
    return sum(len(gzip.compress((ROOT / "web" / "dist" / "assets" / n.rsplit("/", 1)[-1]).read_bytes())) for n in set(names)) / 1000


def _p95(values: list[float]) -> float:
    return float(np.quantile(values, 0.95))
