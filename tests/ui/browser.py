"""Headless Chromium as the tests and the screenshots drive it."""

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager

from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

FLAGS = (
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-device-scale-factor=1",
    "--hide-scrollbars",
)


@contextmanager
def chromium(width: int = 1280, height: int = 800, downloads: str | None = None) -> Iterator[webdriver.Chrome]:
    """A browser with a fresh profile, whose inside is `width` by `height`."""
    profile = tempfile.mkdtemp(prefix="rhombos-profile-")
    options = Options()
    options.binary_location = shutil.which("chromium") or "/usr/bin/chromium"
    for flag in (*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    if downloads:
        options.add_experimental_option("prefs", {"download.default_directory": downloads, "download.prompt_for_download": False})
    driver = webdriver.Chrome(options=options, service=Service(shutil.which("chromedriver") or "/usr/bin/chromedriver"))
    try:
        driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False})
        yield driver
    finally:
        driver.quit()
        shutil.rmtree(profile, ignore_errors=True)
