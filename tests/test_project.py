"""The project tests itself: documents, lock files, layers' habits, contrast of the look."""

import ast
import json
import re
import subprocess
from pathlib import Path

import pytest

from rhombos.core.lineups import LINE_UPS

ROOT = Path(__file__).resolve().parents[1]
SOURCES = sorted((ROOT / "src").rglob("*.py"))
PAGE = sorted(p for p in (ROOT / "web" / "src").rglob("*") if p.suffix in (".ts", ".tsx", ".css") and not p.name.endswith(".d.ts"))


@pytest.mark.parametrize("path", SOURCES, ids=lambda p: str(p.relative_to(ROOT / "src")))
def test_every_module_and_public_class_says_what_it_is(path):
    tree = ast.parse(path.read_text(encoding="utf-8"))
    assert ast.get_docstring(tree), path
    for node in tree.body:
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            assert ast.get_docstring(node), f"{path.name}: {node.name}"


def test_files_stay_readable():
    long = {str(p.relative_to(ROOT)): n for p in (*SOURCES, *PAGE) if (n := len(p.read_text(encoding="utf-8").splitlines())) > 410}
    assert not long


def test_what_reads_the_graph_names_no_figure_of_a_stage():
    """Stages and line-ups say what is theirs; a reader that named `place.figure` would be a reader of one chain."""
    places = {p.name for line in LINE_UPS.values() for p in line.with_loads(("load_1",)).places}
    quoted = re.compile(rf"""["'`](?:{"|".join(sorted(places))})\.[a-z][a-z0-9_]*["'`]""")
    free = ("core/stages/", "core/lineups/", "demo/", "formats/renamed.py")
    found = []
    for path in (*SOURCES, *PAGE):
        name = path.as_posix()
        if not any(part in name for part in free):
            found += [f"{path.name}: {m[0]}" for m in quoted.finditer(path.read_text(encoding="utf-8"))]
    assert not found


def test_the_page_is_built_against_the_interface_that_is_served(tmp_path):
    """Types and units are made from the server's own; made again, they are the same."""
    subprocess.run([ROOT / "scripts" / "interface.sh", tmp_path], check=True, capture_output=True)
    for name in ("schema.d.ts", "units.json"):
        assert (tmp_path / name).read_text(encoding="utf-8") == (ROOT / "web" / "src" / "api" / name).read_text(encoding="utf-8"), f"{name}: make types"


def test_lock_files_hold_hashes_and_no_addresses():
    lock = (ROOT / "requirements.lock").read_text()
    assert "--hash=sha256:" in lock
    assert not re.search(r"^--(extra-)?index-url|^--find-links|file://|https?://", lock, re.M)
    packages = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
    assert all("resolved" not in p for p in packages.values())
    assert sum("integrity" in p for p in packages.values()) > 50


def test_documents_link_to_what_is_there():
    for document in ("README.md", "docs/ARCHITECTURE.md", "CONTRIBUTING.md", "CHANGELOG.md"):
        path = ROOT / document
        for target in re.findall(r"\]\(([^)#]+)\)", path.read_text(encoding="utf-8")):
            assert (path.parent / target).exists(), f"{document} links to {target}"


def test_screenshots_are_few_and_all_linked():
    shots = sorted(p.name for p in (ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    assert 8 <= len(shots) < 20
    assert all(f"screenshots/{name}" in readme for name in shots)


def test_the_continuous_run_calls_the_readme_s_test_command():
    assert "make test" in (ROOT / ".ci" / "run").read_text()
    assert "make test" in (ROOT / "README.md").read_text(encoding="utf-8")


def test_the_page_injects_no_markup_and_reaches_nowhere_else():
    for path in PAGE:
        text = path.read_text(encoding="utf-8")
        assert "dangerouslySetInnerHTML" not in text
        assert "innerHTML" not in text
        assert not re.search(r"https?://(?!www\.w3\.org)", text), path


def tokens(block: str) -> dict[str, tuple[float, float, float]]:
    """Colour variables of one theme, as linear light."""
    css = (ROOT / "web" / "src" / "look" / "base.css").read_text(encoding="utf-8")
    body = re.search(re.escape(block) + r"\s*\{([^}]*)\}", css)
    assert body

    def linear(pair: str) -> float:
        c = int(pair, 16) / 255
        return c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4

    return {name: tuple(linear(value[i : i + 2]) for i in (0, 2, 4)) for name, value in re.findall(r"--([\w-]+):\s*#([0-9A-Fa-f]{6})", body[1])}  # type: ignore[misc]


def contrast(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    """Contrast ratio of WCAG 2."""
    light = [0.2126 * r + 0.7152 * g + 0.0722 * bl for r, g, bl in (a, b)]
    return (max(light) + 0.05) / (min(light) + 0.05)


@pytest.mark.parametrize("theme", [":root", ".dark"])
@pytest.mark.parametrize(
    ("text", "ground"),
    [
        ("ink", "paper"),
        ("ink", "sheet"),
        ("slate", "paper"),
        ("slate", "sheet"),
        ("copper-text", "paper"),
        ("copper-text", "sheet"),
        ("copper-text", "wash"),
        ("ink", "wash"),
        ("fail", "paper"),
        ("fail", "sheet"),
        ("bar-text", "bar"),
    ],
)
def test_text_has_contrast_aa_in_both_themes(theme, text, ground):
    found = tokens(theme)
    assert contrast(found[text], found[ground]) >= 4.5


@pytest.mark.parametrize("theme", [":root", ".dark"])
@pytest.mark.parametrize("mark", ["hold", "tight", "fail", "copper"])
def test_marks_have_the_contrast_of_graphics(theme, mark):
    found = tokens(theme)
    for ground in ("paper", "sheet"):
        assert contrast(found[mark], found[ground]) >= 3.0


def test_the_page_knows_every_letter_of_the_symbols():
    """A symbol in a table is set by the page's own short list of letters; a missing one would stand there as a word."""
    known = set(re.findall(r"\\\\([A-Za-z]+)", (ROOT / "web/src/ui/Number.tsx").read_text()))
    known |= {word for group in re.findall(r"\\\\\(([a-z|,;!]+)\)", (ROOT / "web/src/ui/Number.tsx").read_text()) for word in group.split("|")} | {"cos"}
    used = {word for path in SOURCES for symbol in re.findall(r'symbol=r?"([^"]*)"', path.read_text()) for word in re.findall(r"\\([A-Za-z]+)", symbol)}
    assert used
    assert used <= known, used - known
