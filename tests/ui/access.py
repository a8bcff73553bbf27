"""What keeps people out, as far as a machine can tell: axe-core on a view, and text that is clipped or lies on other text."""

from pathlib import Path
from typing import Any

AXE = (Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
RULES = ("wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice")
ASK = """
const [rules, row] = arguments
const done = arguments[arguments.length - 1]
axe.run(document, {runOnly: rules, resultTypes: ['violations']}).then(
  r => done(r.violations.flatMap(v => v.nodes.map(n => [v.id, n.target.join(' '), document.querySelector(n.target[0])?.matches(row) ?? false, (n.any[0] || n.all[0] || n.none[0] || {}).message || v.help]))),
  e => done([['axe', '', false, String(e)]]))
"""


DENSE_ROW = ".dense td.name > button"


def violations(page: Any) -> list[tuple[str, str, bool, str]]:
    """What axe finds on the view as it stands: rule, place, whether that is the row of a long ledger, and why."""
    # The page's own policy lets no script in: it comes by the browser's debugging side.
    page.driver.execute_cdp_cmd("Runtime.evaluate", {"expression": f"window.axe || (() => {{ {AXE} }})()"})
    page.driver.set_script_timeout(60)
    return [tuple(found) for found in page.driver.execute_async_script(ASK, list(RULES), DENSE_ROW)]
