"""Every figure of every stage: documented, proved by units and examples, the same on arrays as on single numbers."""

import ast
import inspect
import textwrap
from typing import Any

import numpy as np
import pint
import pytest

from rhombos.catalogue.loader import load
from rhombos.core.formulas.numeric import context
from rhombos.core.graph.declare import Figure, Stage
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.telling import joints
from rhombos.core.lineups import STAGES, TITLES, lineup
from rhombos.core.lineups.tools import TOOLS
from rhombos.core.vocabulary import VOCABULARY
from rhombos.formats.design import model_for
from tests.core.trial import strained

UNITS = pint.UnitRegistry()
UNITS.define("credit = [money]")
UNITS.define("steinmetz = []")
PINT = {
    "": "",
    "Ω": "ohm",
    "K_abs": "kelvin",
    "C_Ah": "coulomb",
    "W·h": "watt*hour",
    "V·s": "volt*second",
    "A^2·s": "ampere**2*second",
    "VA": "watt",
    "K/W": "kelvin/watt",
    "J/K": "joule/kelvin",
    "A/m^2": "ampere/meter**2",
    "1/K": "1/kelvin",
    "V/K": "volt/kelvin",
    "W/T": "",
}
FORMULAS = [(s, f) for s in STAGES.values() for f in s.figures.values() if f.kind in ("build", "operation")]
IDS = [f"{s.name}.{f.name}" for s, f in FORMULAS]


@pytest.fixture(scope="module", name="sheets")
def _sheets() -> dict[str, Sheet]:
    made = {}
    for id in TITLES:
        design = strained(id).model_copy(update={"pins": {}})
        made[id] = design.model().solve(design.inputs())
    for stage in TOOLS:
        made[f"{stage.name}_alone"] = model_for(f"{stage.name}_alone", ()).solve(Inputs())
    return made


def arguments(sheets: dict[str, Sheet], stage: Stage, figure: Figure) -> tuple[list[Any], list[str]] | None:
    """The solved values and the units of a figure's parameters, at the first place of its stage."""
    for sheet in sheets.values():
        for place in sheet.wiring.lineup.places:
            if place.stage is stage:
                node = sheet.node(f"{place.name}.{figure.name}")
                return [sheet.values[a] for a in node.args], [sheet.wiring.nodes[a].figure.unit for a in node.args]
    return None


@pytest.mark.parametrize(("stage", "figure"), FORMULAS, ids=IDS)
def test_units_balance(sheets, stage, figure):
    if figure.empirical:
        pytest.skip("empirical: its units do not balance, and it says so")
    found = arguments(sheets, stage, figure)
    assert found, f"{stage.name} is in no line-up"
    values, units = found
    quantities = [UNITS.Quantity(np.atleast_1d(v).astype(float), PINT.get(u, u)) for v, u in zip(values, units, strict=True)]
    with np.errstate(all="ignore"):
        result = figure.fn(*quantities)
    context.causes.clear()
    unit = getattr(result, "units", UNITS.dimensionless)
    assert UNITS.Quantity(1.0, unit).check(UNITS.Quantity(1.0, PINT.get(figure.unit, figure.unit)).dimensionality), f"{unit} is not {figure.unit}"


@pytest.mark.parametrize(("stage", "figure"), [p for p in FORMULAS if p[1].example], ids=[i for i, p in zip(IDS, FORMULAS, strict=True) if p[1].example])
def test_worked_examples_hold(stage, figure):
    example = figure.example
    assert set(example.inputs) == set(figure.params)
    with np.errstate(all="ignore"):
        result = float(np.atleast_1d(figure.fn(*[float(example.inputs[p]) for p in figure.params]))[0])
    context.causes.clear()
    assert result == pytest.approx(example.gives, rel=example.tolerance)


@pytest.mark.parametrize(("stage", "figure"), FORMULAS, ids=IDS)
def test_arrays_equal_the_loop_over_single_numbers(sheets, stage, figure):
    values, _ = arguments(sheets, stage, figure)
    reduces = figure.kind == "build" or any(word in inspect.getsource(figure.fn) for word in ("highest(", "lowest(", "before_surge(", "highest_lasting("))
    stack = [np.atleast_1d(v).astype(float) for v in values]
    rows = np.array([0.93, 1.0, 1.11])[:, None]
    moved = [v[None, :] * rows for v in stack]
    with np.errstate(all="ignore"):
        together = np.asarray(figure.fn(*moved), dtype=float)
        for k in range(3):
            if reduces:
                alone = np.asarray(figure.fn(*[m[k] for m in moved]), dtype=float)
                row = np.broadcast_to(together, np.broadcast_shapes(together.shape, (3, alone.shape[-1])))[k]
                np.testing.assert_allclose(row, np.atleast_1d(alone), rtol=1e-10, equal_nan=True)
            else:
                corners = max(m.shape[-1] for m in moved)
                row = np.broadcast_to(together, (3, corners))[k]
                for c in range(corners):
                    alone = figure.fn(*[float(m[k, c if m.shape[-1] > 1 else 0]) for m in moved])
                    np.testing.assert_allclose(row[c], float(np.atleast_1d(alone)[0]), rtol=1e-10, equal_nan=True)
    context.causes.clear()


@pytest.mark.parametrize(("stage", "figure"), FORMULAS, ids=IDS)
def test_a_constant_that_units_cannot_prove_has_a_worked_example(stage, figure):
    """2, √2, π and their kin in a formula ask for an example; 0, 1 and tiny guards do not."""
    source = textwrap.dedent(inspect.getsource(inspect.unwrap(figure.fn)))
    try:
        tree = ast.parse(source[source.index("def ") :] if not source.startswith("def") else source)
    except (SyntaxError, ValueError):
        pytest.skip("declared by a helper; its example stands with it")
    numbers = [n.value for n in ast.walk(tree) if isinstance(n, ast.Constant) and isinstance(n.value, int | float) and not isinstance(n.value, bool)]
    telling = [n for n in numbers if n not in (0, 1) and not 0 < abs(n) < 1e-5 and n != 0.999999]
    if telling:
        assert figure.example or figure.empirical, f"{figure.name} holds {telling} and no example"


@pytest.mark.parametrize(("stage", "figure"), FORMULAS, ids=IDS)
def test_each_says_what_it_is_and_where_it_is_from(stage, figure):
    assert figure.sentence.endswith((".", ")"))
    assert len(figure.sentence) > 12
    assert figure.source
    assert figure.symbol or figure.empirical


def test_names_that_cross_stages_agree_with_the_vocabulary():
    for id in TITLES:
        model = Model(lineup(id, ("load_1", "load_2")), load())
        for place in model.wiring.lineup.places:
            for name, figure in place.stage.figures.items():
                if name in VOCABULARY and figure.kind in ("build", "operation"):
                    assert VOCABULARY[name].unit == figure.unit, f"{place.name}.{name}"


def test_the_lineups_have_the_breadth_that_was_asked():
    for id in TITLES:
        model = Model(lineup(id), load())
        assert sum(n.figure.kind in ("build", "operation") for n in model.wiring.nodes) >= 110
        assert len(model.wiring.checks) >= 38
        lettered = joints(model.wiring)
        assert len(lettered) >= len(model.wiring.path()) - 1, "every bus of the path is lettered"
        for joint in lettered:
            assert {joint["voltage"], joint["current"]} <= set(model.wiring.index)


def test_every_check_says_why_and_what_to_do(sheets):
    moves: dict[tuple[str, str, str], list[bool]] = {}
    for sheet in sheets.values():
        for wired in sheet.wiring.checks:
            check = wired.check
            assert "{demand}" in check.sentence or "{capability}" in check.sentence
            assert check.why
            assert check.harm in ("none", "equipment", "people")
            for move in check.remedies:
                here = sheet.wiring.lineup.place(wired.place)
                moves.setdefault((here.stage.name, check.name, move.figure), []).append(_resolves(sheet, here, move.figure))
    # A stage that stands in several line-ups may name a move that only some have.
    assert [key for key, found in moves.items() if not any(found)] == []


def _resolves(sheet: Sheet, place: Any, name: str) -> bool:
    try:
        sheet.wiring.resolve(place, name)
    except WiringError:
        return False
    return True


def test_the_catalogue_is_as_broad_as_asked():
    tables = load()
    volts = tables["mosfet"].columns["rated_voltage"]
    assert len(volts) >= 16
    assert (volts.min(), volts.max()) == (40, 650)
    assert len(tables["rectifier"].codes) >= 8
    assert len(tables["core"].codes) >= 12
    assert len(tables["ferrite"].codes) >= 2
    assert 500 in tables["link"].columns["rated_voltage"]
    for table in tables.values():
        assert (table.columns["price"] >= 0).all()
    core = tables["core"].columns
    np.testing.assert_allclose(core["effective_volume"], core["effective_area"] * core["effective_length"], rtol=0.02)
    gauge = [(c, d) for c, d in zip(tables["wire"].codes, tables["wire"].columns["diameter"], strict=True) if c.startswith("CW-A")]
    for code, diameter in gauge:
        assert diameter == pytest.approx(0.127e-3 * 92 ** ((36 - int(code[4:])) / 39), rel=2e-3), "ASTM B258"
