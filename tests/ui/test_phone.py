"""The page on a phone at the bench: nothing may be wider than the screen, or its dialogs and rows are squeezed."""

import pytest

VIEWS = ("/", "/project/1/brief", "/project/1/line-up", "/project/1/scope", "/project/1/build", "/project/1/log", "/alone/bootstrap")


@pytest.fixture
def phone(page):
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True})
    yield page
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False})


def width(page) -> int:
    return int(page.driver.execute_script("return document.documentElement.scrollWidth"))


def places(page) -> list[str]:
    return page.driver.execute_script("return [...new Set([...document.querySelectorAll('[data-place]')].map(e => e.dataset.place))]")


def test_no_view_is_wider_than_the_phone(phone):
    phone.open("/project/1/brief")
    phone.settled()
    stages = [f"/project/1/stages/{place}" for place in places(phone)]
    assert len(stages) > 10
    wide = {}
    for view in (*VIEWS, *stages, f"{stages[4]}?figure={places(phone)[4]}.input_power"):
        phone.open(view)
        phone.one("main")
        if "/project/" in view:
            phone.settled()
        phone.until(lambda: not phone.driver.find_elements("css selector", ".wait"), "what is fetched to come")
        if (found := width(phone)) > 390:
            wide[view] = found
    assert not wide
