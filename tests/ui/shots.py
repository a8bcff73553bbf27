"""`make shots`: retakes docs/screenshots from the demo data, one picture of each main view."""

import tempfile
import time
from pathlib import Path

from selenium.webdriver.common.by import By

from rhombos.launch.database import free_port
from tests.conftest import ROOT, Running
from tests.ui.browser import chromium
from tests.ui.page import Page

VIEWS = [
    ("shelf", "/", "li.tile"),
    ("brief", "/project/1/brief", "[data-load]"),
    ("line-up", "/project/1/line-up", "[data-testid=compare]"),
    ("stage", "/project/1/stages/transformer", "svg[aria-label='Winding window to scale']"),
    ("why", "/project/1/stages/front?figure=front.flat_top_current", ".sens"),
    ("battery", "/project/1/stages/battery", "svg.plot"),
    ("link", "/project/1/stages/link", ".judge"),
    ("precharge", "/project/1/stages/precharge", ".scenes .tracks"),
    ("circuit", "/project/1/stages/front", "[data-testid=probe] tbody tr"),
    ("circuits", "/project/1/build", "[data-testid=circuits] figure svg"),
    ("trip", "/project/1/stages/trip", ".plot"),
    ("feedback", "/project/1/stages/feedback", ".ways"),
    ("scope", "/project/1/scope", "[data-testid=meters]"),
    ("build", "/project/1/build", "[data-testid=parts]"),
    ("log", "/project/1/log", ".table"),
    ("alone", "/alone/bootstrap", ".judge"),
]
SCROLLED = {"circuits": "[data-testid=circuits]"}
"""What is wanted at the top of the picture, where that is not what stands there anyhow."""


def main() -> None:
    """Start the application in a home of its own, walk the views, save a PNG of each."""
    folder = ROOT / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        running = Running(Path(home) / "home", free_port())
        running.start()
        try:
            with chromium() as driver:
                page = Page(driver, running.base)
                for name, path, ready in VIEWS:
                    page.open(path)
                    page.one(ready)
                    if "/project/" in path:
                        page.settled()
                    if name in SCROLLED:
                        driver.execute_script("document.querySelector(arguments[0]).scrollIntoView()", SCROLLED[name])
                    time.sleep(0.6)
                    driver.save_screenshot(str(folder / f"{name}.png"))
                _failing(page, folder)
                _dark_and_small(page, folder)
        finally:
            running.stop()


def _failing(page: Page, folder: Path) -> None:
    """The second revision: something tight, something failing, with its remedies."""
    page.open("/project/1/log")
    page.settled()
    page.until(lambda: page.driver.find_elements(By.XPATH, "//tr[td[1][.='2']]//button[.='Open']"), "the revisions")[0].click()
    page.until(lambda: page.verdict("transformer") == "fails", "the second revision")
    page.click("[data-place=transformer]")
    page.until(lambda: page.driver.find_elements(By.CSS_SELECTOR, "[data-remedy]"), "the remedies")
    page.settled()
    time.sleep(0.5)
    page.driver.save_screenshot(str(folder / "failing.png"))
    page.click_text("undo")
    page.until(lambda: page.verdict("transformer") == "holds", "the first design back")
    version = page.one(".frame").get_attribute("data-version")
    page.until(
        lambda: page.one(".frame").get_attribute("data-version") != version or page.one(".frame").get_attribute("data-save") == "saved", "the draft saved"
    )
    time.sleep(1.0)
    page.settled()


def _dark_and_small(page: Page, folder: Path) -> None:
    page.open("/project/1/stages/transformer?figure=transformer.peak_flux")
    page.one(".sens")
    page.click("[aria-label='Light or dark']")
    time.sleep(0.4)
    page.driver.save_screenshot(str(folder / "dark.png"))
    page.click("[aria-label='Light or dark']")
    page.resize(390)
    page.open("/project/1/stages/precharge")
    page.settled()
    time.sleep(0.6)
    page.driver.save_screenshot(str(folder / "phone.png"))


if __name__ == "__main__":
    main()
