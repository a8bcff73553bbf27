"""What is shown is what is computed: every formula's TeX, with the numbers that *why* puts in, gives the value shown."""

import itertools

import numpy as np
import pytest
from scipy.integrate import quad
from scipy.optimize import brentq

from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.why import binding_corner, gives, numbers_put_in
from rhombos.core.lineups import STAGES, TITLES
from rhombos.core.lineups.tools import TOOLS
from rhombos.core.magnetics.copper import MU0, RHO_70, RHO_100
from rhombos.core.magnetics.winding import pulse_factor
from rhombos.core.modulation import peak_factors
from rhombos.core.modulation.hard_share import hard_share, recovered_share
from rhombos.core.modulation.rectifier_factors import CREST_FACTORS, POWER_FACTORS, REACTANCES
from rhombos.core.stages.control.gate_guard import RESISTOR_WATTS
from rhombos.core.stages.front.clamp import RATINGS
from rhombos.core.stages.magnetics.transformer_core import table_flux
from rhombos.core.stages.output.output_window import ARRESTERS, ENERGIES
from rhombos.core.stages.source.first_power import LAMPS
from rhombos.core.stages.source.source_input_line import CABLE_AREAS
from rhombos.formats.design import model_for, of_sample
from tests.core.tex import Reader, TexError
from tests.core.trial import strained

CONSTANTS = {"\\rho_70": RHO_70, "\\rho_100": RHO_100, "\\mu_0": MU0}


def _extreme(pick, reference, upper, lower, feedback, output, resistors, references, offset, outputs, drift):
    """Every corner of the tolerances, written out."""
    found = []
    spread = [(1 - resistors, 1 + resistors)] * 3
    spread[1] = 1 - resistors - drift, 1 + resistors + drift
    for r, v, o, u, d, f in itertools.product((1 - references, 1 + references), (-offset, offset), (1 - outputs, 1 + outputs), *spread):
        feed = upper * u / (feedback * f)
        found.append((reference * r + v) * (1 + upper * u / (lower * d) + feed) - output * o * feed)
    return pick(found)


def _carried(share):
    def shown(crest, ripple, cosine, reactive, index, multiple):
        sine = np.sqrt(max(1 - cosine**2, 0)) * (-1 if reactive < 0 else 1)
        return share(crest, ripple, cosine, sine, index, multiple - 1)

    return shown


def _class(reference, upper, lower, feedback, high, low, offset, outputs, drift, sensed, rested, deep):
    """The coarsest of what is sold with which both thresholds stand, by trying."""
    for number, (resistors, of_reference) in enumerate(((0.01, 0.01), (0.005, 0.005), (0.001, 0.002))):
        parts = (reference, upper, lower, feedback)
        falls, rises = (_extreme(max, *parts, level, resistors, of_reference, offset, outputs, drift) for level in (high, low))
        if falls <= sensed and rises <= rested and _extreme(min, *parts, high, resistors, of_reference, offset, outputs, drift) >= deep:
            return number
    return 2


def _crossing(f, high):
    return brentq(f, 0, high, xtol=1e-14)


def _gain(quality, delay, share):
    """Inverse of |G| where its phase is −180°, by another root finder."""
    u = _crossing(lambda u: (1 - u**2) * np.cos(u * delay) - u / quality * np.sin(u * delay), min(1, np.pi / 2 / delay))
    return u * abs(1 - u**2 + 1j * u / quality) / share


def _phase(quality, delay, share):
    """Degrees of G above −180° where |G| is one, from complex numbers."""
    u = _crossing(lambda u: u * abs(1 - u**2 + 1j * u / quality) - share, 1 / np.sqrt(3))
    return 180 + np.degrees(np.angle(np.exp(-1j * u * delay) / (1j * u * (1 - u**2 + 1j * u / quality))))


def _mains(three_phase, fraction):
    """Time constants from the mains, by SciPy's quadrature of the handbook's two laws."""

    def single(v):
        return 2 / np.pi * (np.sqrt(1 - v**2) - v * np.arccos(v))

    def three(v):
        return 3 / np.pi - v if v <= np.sqrt(3) / 2 else 3 * single(v)

    return quad(lambda v: 1 / (three if three_phase else single)(v), 0, fraction, points=[np.sqrt(3) / 2])[0]


OPERATORS = {
    "mains": _mains,
    "gain": _gain,
    "phase": _phase,
    "interp": lambda level, a, b, c: np.interp(level, [0, 1, 2], [a, b, c]),
    "arctan2": np.arctan2,
    "arccos": np.arccos,
    "artanh": np.arctanh,
    "B_tab": table_flux,
    "F_pulse": pulse_factor,
    "lamp\\uparrow": lambda x: next((w for w in LAMPS if w >= x * (1 - 1e-9)), LAMPS[-1]),
    "watts\\uparrow": lambda x: next((w for w in RESISTOR_WATTS if w >= x * (1 - 1e-9)), RESISTOR_WATTS[-1]),
    "energy\\uparrow": lambda x: next((w for w in ENERGIES if w >= x * (1 - 1e-9)), ENERGIES[-1]),
    "arrester\\uparrow": lambda x: next((w for w in ARRESTERS if w >= x * (1 - 1e-9)), ARRESTERS[-1]),
    "hard": _carried(hard_share),
    "rec": _carried(recovered_share),
    "pk": peak_factors.peak_factor,
    "eff": peak_factors.effective_factor,
    "drop": peak_factors.drop_factor,
    "CF": lambda x: np.interp(x, REACTANCES, CREST_FACTORS),
    "PF": lambda x: np.interp(x, REACTANCES, POWER_FACTORS),
    "class": _class,
    "V_max": lambda *a: _extreme(max, *a),
    "V_min": lambda *a: _extreme(min, *a),
    "rating\\uparrow": lambda x: next((w for w in RATINGS if w >= x * (1 - 1e-9)), RATINGS[-1]),
    "area\\uparrow": lambda x: next((a for a in CABLE_AREAS if a >= x * (1 - 1e-9)), CABLE_AREAS[-1]) * max(np.ceil(x / CABLE_AREAS[-1] * (1 - 1e-9)), 1),
}
"""What a formula may name: each is said in words where it is declared."""

CORNERS = ("lowest_full", "lowest_surge", "nominal_tenth", "nominal_none", "highest_full", "highest_surge_watts")


@pytest.fixture(scope="module", name="sheets")
def _sheets():
    out = []
    for design_of, id in itertools.product((of_sample, strained), TITLES):
        design = design_of(id)
        out.append(design.model().solve(design.inputs()))
    for stage in TOOLS:
        out.append(model_for(f"{stage.name}_alone", ()).solve(Inputs()))
    return out


def _differs(sheet, node, corner):
    binds = binding_corner(sheet, node)
    at = sheet.corners.ids.index(corner) if binds is None else binds
    numbers = numbers_put_in(sheet, node, at)
    shown = sheet.computed.get(node.index, sheet.values[node.index])
    flat = np.atleast_1d(shown).reshape(-1)
    value = float(flat[0 if flat.size == 1 else at])
    if not np.isfinite(value) or None in numbers.values():
        return None
    if node.figure.decided and not gives(node, numbers.values(), value):
        return None  # held from an earlier pass: its own formula gives another
    reader = Reader(node.figure.tex, {**numbers}, OPERATORS, CONSTANTS)
    got, wanted = reader.holds("V", value) if reader.main.strip().startswith("V:") else (reader.value(), value)
    return None if got == pytest.approx(wanted, rel=1e-6, abs=1e-12) else f"{node.key} at {corner}: {got} for {wanted} by {node.figure.tex} with {numbers}"


@pytest.mark.parametrize("stage", STAGES)
def test_the_formula_shown_gives_the_value_shown(sheets, stage):
    wrong, judged = [], set()
    for sheet in sheets:
        places = {p.name for p in sheet.wiring.lineup.places if p.stage.name == stage}
        for node in sheet.wiring.nodes:
            if node.place in places and node.figure.kind in ("build", "operation"):
                for corner in CORNERS:
                    try:
                        said = _differs(sheet, node, corner)
                    except (TexError, ValueError, ZeroDivisionError, TypeError, KeyError, IndexError) as error:
                        said = f"{node.key}: {error!r} in {node.figure.tex}"
                    if said:
                        wrong.append(said)
                judged.add(node.figure.name)
    assert not wrong, f"{len(wrong)} differ, first of each:\n" + "\n".join({w.split(" at ")[0].split(":")[0]: w for w in wrong}.values())
    assert judged == {f.name for f in STAGES[stage].figures.values() if f.kind in ("build", "operation")}


@pytest.mark.parametrize("stage", STAGES)
def test_the_formula_shown_gives_the_worked_example(stage):
    for figure in STAGES[stage].figures.values():
        if figure.example is None:
            continue
        numbers = {p: float(v) for p, v in figure.example.inputs.items()}
        value = float(np.atleast_1d(figure.fn(*[np.float64(numbers[p]) for p in figure.params]))[0])
        reader = Reader(figure.tex, numbers, OPERATORS, CONSTANTS)
        got, wanted = reader.holds("V", value) if reader.main.strip().startswith("V:") else (reader.value(), value)
        assert got == pytest.approx(wanted, rel=1e-6), f"{figure.name}: {figure.tex}"


def test_the_reader_of_formulas_finds_out_what_is_wrong():
    def read(tex, **numbers):
        return Reader(tex, numbers, OPERATORS, CONSTANTS).value()

    assert read(r"\frac{a}{2}\sqrt{b}+\max(1,{a})^2", a=3.0, b=4.0) == 12
    assert read(r"\begin{cases}{a}&{b}\ge4\\0&\text{else}\end{cases}", a=3.0, b=4.0) == 3
    assert read(r"\begin{gathered}2X\\X={a}\,{b}\end{gathered}", a=3.0, b=4.0) == 24
    assert read(r"\mathrm{E12}_\uparrow\left({a}\right)", a=4.8e3) == 5.6e3
    for tex in (r"{a}_{b}+\surge", r"T:\;{a},{b}", r"{a}\;(1\;\text{at}\;{b})", r"f({a},{b})"):
        with pytest.raises((TexError, ValueError)):
            read(tex, a=1.0, b=2.0)
