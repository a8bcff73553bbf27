"""Everything can be read: no text is cut off or lies on other text, nothing is wider than the window, with long names, many loads and the longest line-up, at three widths."""

import json
import urllib.request
from urllib.parse import quote

import pytest
from selenium.webdriver.common.by import By

from rhombos.core.lineups import LINE_UPS
from rhombos.formats.design import of_sample, write_design
from tests.ui.legible import illegible

WIDTHS = (390, 1024, 1280)
VIEWS = ("brief", "line-up", "scope", "build", "log")
MOST_LOADS = 24
NAMES = ("Kühlschrankverdichteranlaufkondensator", "Warmwasserumwälzpumpensteuergerät", "Leuchtstofflampenvorschaltgerät", "Bohrhammerdrehzahlregler")
BROKEN = """
<style>body{font:16px/20px sans-serif;margin:0} div{position:absolute;left:0;white-space:nowrap}</style>
<div style="top:0;width:60px;overflow:hidden">Cut off on its way</div>
<div style="top:40px">One thing</div><div style="top:44px;left:20px">and another</div>
<div style="top:80px;width:60px"><input value="More than the field can show of it" style="width:50px"></div>
"""
WHOLE = """
<style>body{font:16px/20px sans-serif;margin:0} div{position:absolute;left:0;white-space:nowrap}</style>
<div style="top:0;width:60px;overflow-x:auto">Longer, but it scrolls</div>
<div style="top:40px">Under a sheet</div><div style="top:40px;background:#fff">On a sheet of its own</div>
<div style="top:80px;width:400px"><input value="fits" style="width:90px"></div>
<div style="top:120px;clip-path:inset(50%);width:1px;overflow:hidden">For those who listen</div>
"""


def with_long_names() -> dict:
    """The line-up with the most stages, a title of two lines, as many loads as there may be, each with a name of one long word."""
    longest = max((k for k, v in LINE_UPS.items() if v.sample), key=lambda k: len(of_sample(k).model().wiring.lineup.places))
    design = json.loads(write_design(of_sample(longest)))
    design["title"] = "Schaltschrankheizungssteuerung der Feldstation Nebelhornbahnhof-Nordseite"
    design["loads"] = [{"place": f"load_{k + 1}", "title": f"{NAMES[k % len(NAMES)]} {k + 1}"} for k in range(MOST_LOADS)]
    for part in ("givens", "choices", "pins"):
        design[part] = {k: v for k, v in design[part].items() if not k.startswith("load_")}
    design["givens"] |= {f"load_{k + 1}.rated_power": 15.0 for k in range(MOST_LOADS)}
    return design


@pytest.fixture(scope="module", name="crowded")
def _crowded(app) -> int:
    """The number of a project that is hard to fit on a screen."""
    design = with_long_names()
    body = json.dumps({"title": design["title"], "design": design}).encode()
    request = urllib.request.Request(f"{app.base}/api/projects", data=body, headers={"content-type": "application/json"})
    with urllib.request.urlopen(request, timeout=20) as answer:
        return json.load(answer)["id"]


@pytest.fixture(name="sized")
def _sized(page):
    """A page that may be given other widths."""
    yield page
    page.resize(1280, 800)


def places(page) -> list[str]:
    return page.driver.execute_script("return [...new Set([...document.querySelectorAll('[data-place]')].map(e => e.dataset.place))]")


def unread(page, views: list[str]) -> list[tuple]:
    """What cannot be read or is wider than the window, by view and width; each view is opened once, as on a phone."""
    found = []
    for view in views:
        page.resize(WIDTHS[0])
        page.open(view)
        if "/project/" in view:
            page.settled()
        for width in WIDTHS:
            page.resize(width)
            page.until(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".wait"), "what is fetched to come")
            found += [(view, width, *each) for each in illegible(page)]
            wide = page.driver.execute_script("return document.documentElement.scrollWidth")
            found += [(view, width, "wide", wide)] if wide > width else []
    return found


def test_what_cannot_be_read_is_found(page):
    page.driver.get(f"data:text/html,{quote(BROKEN)}")
    kinds = [(kind, text) for kind, _, text, _ in illegible(page)]
    assert ("cut", "Cut off on its way") in kinds
    assert ("over", "One thing | and another") in kinds
    assert any(text.startswith("More than") for kind, text in kinds if kind == "cut")
    assert len(kinds) == 3
    page.driver.get(f"data:text/html,{quote(WHOLE)}")
    assert illegible(page) == []


def test_the_demo_can_be_read_everywhere(sized):
    sized.open("/project/1/brief")
    sized.settled()
    stages = [f"/project/1/stages/{place}" for place in places(sized)]
    assert len(stages) > 10
    asked = ["/project/1/stages/transformer?figure=transformer.core", "/project/1/stages/bridge?figure=bridge.junction_temperature"]
    asked.append("/project/1/stages/input?figure=input.input_power")
    assert not unread(sized, ["/", "/alone/bootstrap", *(f"/project/1/{view}" for view in VIEWS), *stages, *asked])


def test_long_names_many_loads_and_the_longest_line_up_can_be_read(sized, crowded):
    sized.open(f"/project/{crowded}/brief")
    sized.settled()
    stages = [f"/project/{crowded}/stages/{place}" for place in places(sized)]
    assert len(stages) >= 12
    assert not unread(sized, ["/", *(f"/project/{crowded}/{view}" for view in VIEWS), *stages[::2], stages[-1]])


@pytest.mark.parametrize("keys", ["/", "?"])
def test_dialogs_can_be_read(sized, crowded, keys):
    sized.open(f"/project/{crowded}/brief")
    sized.settled()
    sized.key(keys)
    sized.one("[role=dialog]")
    for width in WIDTHS:
        sized.resize(width)
        assert not illegible(sized), width
