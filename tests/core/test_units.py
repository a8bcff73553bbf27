"""Quantities as people type them, and back."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhombos.core.graph.numeric import SERIES, nearest_in, up, up_to_step
from rhombos.core.units import QuantityError, parse, show, si_unit
from tests.conftest import ROOT


@pytest.mark.parametrize(
    ("typed", "unit", "value"),
    [
        ("4k7", "Ω", 4700),
        ("2n2", "F", 2.2e-9),
        ("0.1u", "F", 1e-7),
        ("10 kHz", "Hz", 1e4),
        ("3,5 mH", "H", 3.5e-3),
        ("3,3 mH", "H", 3.3e-3),
        ("12", "V", 12),
        ("1e-3", "A", 1e-3),
        ("0R22", "Ω", 0.22),
        ("4R7", "Ω", 4.7),
        ("45", "K_abs", 318.15),
        ("45 °C", "K_abs", 318.15),
        ("318.15 K", "K_abs", 318.15),
        ("4.5 A/mm²", "A/m^2", 4.5e6),
        ("4.5", "A/m^2", 4.5e6),
        ("16 mm2", "m^2", 16e-6),
        ("100 Ah", "C_Ah", 360000),
        ("100", "C_Ah", 360000),
        ("360 kC", "C_Ah", 360000),
        ("6e-8", "C", 60e-9),
        ("60n", "C", 60e-9),
        ("60 nC", "C", 60e-9),
        ("15 %", "", 0.15),
        ("92%", "", 0.92),
        ("-3", "V", -3),
        ("−3", "V", -3),
        ("22 \u2126", "Ω", 22),
        ("4.7 kΩ", "Ω", 4700),
        ("0,5", "", 0.5),
        ("0,125", "", 0.125),
        ("250 ns", "s", 250e-9),
        ("2 h", "s", 7200),
        ("120 g", "kg", 0.12),
        ("2.2 µF", "F", 2.2e-6),
        ("2.2 \u03bcF", "F", 2.2e-6),
        ("1.2 K/W", "K/W", 1.2),
    ],
)
def test_what_people_type_is_understood(typed, unit, value):
    assert parse(typed, unit) == pytest.approx(value)


@pytest.mark.parametrize(
    ("typed", "unit", "why"),
    [
        ("1,234", "H", "decimal or thousands"),
        ("", "V", "nothing"),
        ("abc", "V", "start with a number"),
        ("12 A", "V", "it is in 'A'"),
        ("3 kg", "Ω", "kg"),
        ("1.2,3", "V", "comma"),
        ("5 bananas", "V", "bananas"),
    ],
)
def test_what_is_not_understood_is_named(typed, unit, why):
    with pytest.raises(QuantityError, match="is not understood") as error:
        parse(typed, unit)
    assert why in str(error.value)
    assert error.value.typed == typed
    assert error.value.expected


@given(st.floats(1e-11, 1e8), st.sampled_from(["Ω", "V", "A", "F", "H", "Hz", "W", "s", "T", "K_abs", "m^2", "A/m^2", "K/W", "J/K", "W·h", "m", "m^3", "m^4", "C", "C_Ah", "kg", "credit"]))
def test_what_is_shown_can_be_typed(value, unit):
    assert parse(show(value, unit, 9), unit) == pytest.approx(value, rel=1e-6, abs=1e-5 if unit == "K_abs" else 0)


QUANTITIES = json.loads((ROOT / "web" / "tests" / "quantities.json").read_text(encoding="utf-8"))


@pytest.mark.parametrize(("value", "unit", "digits", "text"), QUANTITIES)
def test_numbers_are_shown_as_the_field_writes_them_here_as_on_the_page(value, unit, digits, text):
    """The page's own tests read the same table: a number looks the same wherever it is written."""
    assert show(value, unit, digits) == text
    assert parse(text, unit) == pytest.approx(value, rel=1e-3)


def test_what_is_not_a_number_says_so():
    assert show(float("nan"), "V") == "unknown"
    assert show(float("inf"), "V") == "without bound"


def test_other_programs_get_plain_si_units():
    assert [si_unit(u) for u in ("K_abs", "C_Ah", "C", "A/m^2", "")] == ["K", "C", "C", "A/m^2", ""]


@given(st.floats(1e-12, 1e9), st.sampled_from(["E6", "E12", "E24", "E96"]))
def test_preferred_values_bracket_and_stay_in_their_series(x, series):
    low, high, near = (nearest_in(series, s)(x) for s in ("down", "up", "nearest"))
    assert low <= x * (1 + 1e-6) <= high * (1 + 2e-6)
    assert near in (low, high)
    for value in (low, high):
        mantissa = value / 10 ** __import__("math").floor(__import__("math").log10(value) + 1e-9)
        assert any(abs(mantissa - s) < 1e-3 * s for s in SERIES[series])
        assert nearest_in(series)(value) == pytest.approx(value, rel=1e-9), "a preferred value is its own"


def test_rounding_forgives_noise_and_nothing_else():
    assert up(3.0000000001) == 3
    assert up(3.0001) == 4
    assert up_to_step(366.0, 5.0) == 370
    assert up_to_step(370.0, 5.0) == 370


def test_iec_60063_values():
    assert SERIES["E12"].tolist() == [1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2]
    assert len(SERIES["E96"]) == 96
    assert 4.99 in SERIES["E96"].round(2)
