"""The page as a person works it: clicks, typing, what is read off the screen."""

import time
from collections.abc import Callable
from typing import Any

from selenium.common.exceptions import ElementClickInterceptedException, StaleElementReferenceException, WebDriverException
from selenium.webdriver import ActionChains, Chrome, Keys
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

PATIENCE = 40.0


class Page:
    """A thin hand on one browser."""

    def __init__(self, driver: Chrome, base: str) -> None:
        self.driver = driver
        self.base = base

    def open(self, path: str) -> None:
        self.driver.get(self.base + path)

    def resize(self, width: int, height: int = 844) -> None:
        """Give the window another size (a phone's is that of a touch screen), and wait until it is drawn so."""
        size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 500}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)
        self.driver.execute_async_script("const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 50)))")
        self.until(lambda: self.driver.execute_script("return innerWidth") == width, f"the window to be {width} px wide")

    def one(self, css: str) -> WebElement:
        return self.until(lambda: next(iter(self.driver.find_elements(By.CSS_SELECTOR, css)), None), f"{css} to appear")

    def says(self, css: str) -> str:
        return self.until(lambda: self.one(css).text, f"{css} to say something")

    def until(self, found: Callable[[], Any], what: str) -> Any:
        end = time.monotonic() + PATIENCE
        while time.monotonic() < end:
            try:
                value = found()
                if value:
                    return value
            except StaleElementReferenceException:
                pass
            time.sleep(0.05)
        raise AssertionError(f"waited {PATIENCE:.0f} s for {what}; the page says: {self.driver.find_element(By.TAG_NAME, 'body').text[:600]}")

    def click(self, css: str) -> None:
        def press() -> bool:
            try:
                element = self.one(css)
                self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
                # What is still moved by something that comes in above it would be missed.
                before = element.rect
                time.sleep(0.05)
                if element.rect != before:
                    return False
                element.click()
            except (ElementClickInterceptedException, WebDriverException):
                return False
            return True

        self.until(press, f"{css} to take a click")

    def click_text(self, text: str, tag: str = "button") -> None:
        def press() -> bool:
            for element in self.driver.find_elements(By.TAG_NAME, tag):
                if element.text.strip() == text and element.is_displayed() and element.is_enabled():
                    self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
                    element.click()
                    return True
            return False

        self.until(press, f"a {tag} that says {text!r}")

    def type(self, css: str, text: str, end: str = Keys.ENTER) -> None:
        field = self.one(css)
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", field)
        field.click()
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text + end)

    def key(self, *keys: str) -> None:
        self.driver.execute_script("document.activeElement && document.activeElement.blur()")
        body = self.driver.find_element(By.TAG_NAME, "body")
        body.send_keys(*keys)

    def chord(self, *keys: str) -> None:
        chain = ActionChains(self.driver)
        for held in keys[:-1]:
            chain = chain.key_down(held)
        chain = chain.send_keys(keys[-1])
        for held in keys[:-1]:
            chain = chain.key_up(held)
        chain.perform()

    def settled(self) -> None:
        """Solved and saved."""
        self.until(
            lambda: self.driver.execute_script("const f=document.querySelector('.frame'); return f && f.dataset.solving==='false' && f.dataset.save==='saved'"),
            "the sheet to be solved and the draft saved",
        )
        self.until(lambda: not self.driver.find_elements(By.CSS_SELECTOR, "[aria-busy=true]"), "what is fetched to stand")

    def edit(self, css: str, text: str) -> None:
        """Type into a field and wait until the edit is solved and saved."""
        version = self.one(".frame").get_attribute("data-version")
        self.type(css, text)
        self.until(lambda: self.one(".frame").get_attribute("data-version") != version, f"{text} to be saved")
        self.settled()

    def verdict(self, place: str) -> str:
        return self.one(f"[data-place='{place}']").get_attribute("data-verdict")

    def value(self, figure: str) -> str:
        return self.one(f"tr[data-figure='{figure}'] td.v").text

    def complaints(self) -> list[str]:
        """What the browser's console complained about, answers that a test provoked left out."""
        return [
            e["message"]
            for e in self.driver.get_log("browser")
            if e["level"] == "SEVERE" and "status of" not in e["message"] and "net::ERR" not in e["message"]
        ]
