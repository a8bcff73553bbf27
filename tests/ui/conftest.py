"""The running application and a browser, one of each a module; a page that must not have complained."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from rhombos.launch.database import free_port
from tests.conftest import Running
from tests.ui.browser import chromium
from tests.ui.page import Page


@pytest.fixture(scope="module", name="app")
def _app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    home = tmp_path_factory.mktemp("page")
    for folder in (home, *home.parents):
        if folder != Path("/tmp") and folder.is_relative_to("/tmp"):
            folder.chmod(0o755)
    running = Running(home / "home", free_port())
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="module", name="browser")
def _browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple]:
    downloads = tmp_path_factory.mktemp("downloads")
    with chromium(downloads=str(downloads)) as driver:
        yield driver, downloads


@pytest.fixture(name="page")
def _page(app: Running, browser: tuple) -> Iterator[Page]:
    driver, _ = browser
    page = Page(driver, app.base)
    yield page
    assert page.complaints() == []
