"""Formulas with symbols and with numbers in place of their parameters: what a person reads must be the same formula."""

import re

import pytest

from rhombos.core.graph.formula_tex import fill, formula_of, symbol_of, tex_number
from rhombos.core.lineups import STAGES

FIGURES = [(stage, figure) for stage in STAGES.values() for figure in stage.figures.values() if figure.tex]
SPACE = re.compile(r"\\[,;:! ]|\\(?:left|right|big|Big)|\s")


@pytest.mark.parametrize(
    ("tex", "numbers"),
    [
        ("{a}{b}", r"{2}\cdot {3}"),
        (r"{a}\,{b}", r"{2}\cdot {3}"),
        (r"{a}\,\,{b}", r"{2}\cdot {3}"),
        ("2{a}", r"2\cdot {2}"),
        (r"\pi{a}", r"\pi\cdot {2}"),
        (r"\frac{{a}}{{b}}", r"\frac{{2}}{{3}}"),
        (r"\frac{1}{2}{a}", r"\frac{1}{2}\cdot {2}"),
        (r"\min({a},{b})", r"\min({2},{3})"),
        (r"\min({a},\,{b})", r"\min({2},\,{3})"),
        ("{a}+{b}", "{2}+{3}"),
        ("{a}^2{b}", r"{2}^2\cdot {3}"),
        ("x_{{a}}", "x_{{2}}"),
        (r"\sqrt{{a}}\,{b}", r"\sqrt{{2}}\cdot {3}"),
        (r"{a}\frac{b}{x}", r"{2}\cdot\frac{3}{x}"),
        (r"{a}\,\sqrt{b}", r"{2}\cdot\sqrt{3}"),
    ],
)
def test_numbers_beside_one_another_are_parted_by_a_dot_and_nothing_else_is(tex, numbers):
    assert fill(tex, {"a": "2", "b": "3"}, times=True) == numbers
    assert fill(tex, {"a": "A", "b": "B"}) == tex.replace("{a}", "{A}").replace("{b}", "{B}")


@pytest.mark.parametrize(("stage", "figure"), FIGURES, ids=[f"{s.name}.{f.name}" for s, f in FIGURES])
def test_no_formula_multiplies_nothing(stage, figure):
    """A dot stands between two factors: never after an opening bracket, a comma, a sign or a relation."""
    text = SPACE.sub("", fill(figure.tex, dict.fromkeys(figure.params, "7"), times=True))
    for dot in re.finditer(r"\\cdot", text):
        assert text[: dot.start()][-1:] not in ("", "(", ",", "+", "-", "=", "{", "&", "<", ">", "/", ":"), text
        assert text[dot.end() :][:1] not in ("", ")", ",", "+", "=", "}", "&", "/"), text


def test_numbers_never_run_together():
    for stage, figure in FIGURES:
        text = re.sub(r"\\t?frac\{7\}", r"\\over", fill(figure.tex, dict.fromkeys(figure.params, "7"), times=True))
        assert not re.search(r"\{7\}(\\[,;:!])*(\{7\}|\\over|\\t?frac|\\sqrt)", text), f"{stage.name}.{figure.name}: {text}"


@pytest.mark.parametrize(
    ("value", "unit", "tex"),
    [
        (4700.0, "Ω", r"4.7\,\mathrm{k\Omega }"),
        (1e-6, "m^2", r"1\,\mathrm{mm^2}"),
        (318.15, "K_abs", r"45\,\mathrm{^\circ C}"),
        (0.5, "", "0.5"),
        (3e-6, "s", r"3\,\mathrm{\mu s}"),
        (None, "V", r"\text{?}"),
    ],
)
def test_a_value_is_set_with_its_unit_upright(value, unit, tex):
    assert tex_number(value, unit) == tex


def test_what_has_no_symbol_goes_by_its_title_and_what_was_collected_is_a_sum():
    battery = STAGES["battery"].figures
    assert symbol_of(battery["capacity"]) == "C"
    given = battery["capacity"]
    assert formula_of(given, ("a.loss", "b.loss")) == "{a.loss}+{b.loss}"
