"""Quantities as people type them, and back."""

import json
import re

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from rhombos.core.formulas.numeric import SERIES, nearest_in, up, up_to_step
from rhombos.core.units import _BESIDE, _WITH_PREFIX, _WRITTEN_ALIKE, QuantityError, accepted, parse, parse_list, show, si_unit
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
        ("47R", "Ω", 47),
        ("not fitted", "Ω", 1e12),
        ("4K7", "Ω", 4700),
        ("100 m", "Ω", 0.1),
        ("4k7 Ω", "Ω", 4700),
        ("2n2F", "F", 2.2e-9),
        ("0.71 mm", "m", 0.71e-3),
        ("3 m", "m", 3),
        ("2500 mAh", "C_Ah", 9000),
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
        ("47R", "V", "'R' is not a unit"),
        ("not fitted", "V", "start with a number"),
        ("5 Q", "Ω", "'Q' is not a unit"),
        ("5Y", "V", "'Y' is not a unit"),
        ("5E", "F", "'E' is not a unit"),
        ("5P", "F", "'P' is not a unit"),
        ("5 a", "A", "'a' is not a unit"),
        ("5 c", "C", "'c' is not a unit"),
        ("1_000", "V", "'_000' is not a unit"),
        ("5 mAh", "A", "it is in 'mAh'"),
        ("200 mAh", "V", "it is in 'mAh'"),
        ("5 kV", "A", "it is in 'kV'"),
        ("1e999", "V", "larger than any number"),
        ("1e308 kV", "V", "larger than any number"),
        ("1e-999", "V", "smaller than any number"),
        ("-300 °C", "K_abs", "below absolute zero"),
        ("-1 K", "K_abs", "below absolute zero"),
        ("12k", "", "'k' is not a unit"),
        ("٤", "V", "start with a number"),
        ("1,2,3", "V", "comma"),
        ("9" * 80, "V", "80 characters"),
    ],
)
def test_what_is_not_understood_is_named(typed, unit, why):
    with pytest.raises(QuantityError, match="is not understood") as error:
        parse(typed, unit)
    assert why in str(error.value)
    assert error.value.typed == typed
    assert error.value.expected


@given(
    st.floats(1e-11, 1e8),
    st.sampled_from(
        ["Ω", "V", "A", "F", "H", "Hz", "W", "s", "T", "K_abs", "m^2", "A/m^2", "K/W", "J/K", "W·h", "m", "m^3", "m^4", "C", "C_Ah", "kg", "credit"]
    ),
)
def test_what_is_shown_can_be_typed(value, unit):
    assert parse(show(value, unit, 9), unit) == pytest.approx(value, rel=1e-6, abs=1e-5 if unit == "K_abs" else 0)


@given(st.floats(1e-11, 1e8), st.sampled_from(sorted(u for u in (*_WITH_PREFIX, *_BESIDE) if u != "K_abs")))
def test_every_accepted_spelling_reads_as_its_factor(value, unit):
    for spelling, factor in accepted(unit).items():
        for gap in (" ",) if spelling[:1].isdigit() else ("", " "):
            assert parse(f"{value!r}{gap}{spelling}", unit) == pytest.approx(value * factor, rel=1e-12), spelling


@given(
    st.text(st.characters(min_codepoint=32, max_codepoint=0x2FFF), min_size=1, max_size=12),
    st.sampled_from(["Ω", "V", "s", "m", "K_abs", "C_Ah", "", "kg", "m^2"]),
)
@example("5", "V")
@example("NONE", "V")
@example("NONE", "Ω")
def test_garbage_is_an_error_and_never_a_number(text, unit):
    """What is read stands in the table: a number of plain digits, and behind it an accepted spelling, or a part of one as in 4k7.

    Of a resistor it can be said in words that none is fitted.
    """
    try:
        value = parse(text, unit)
    except QuantityError as error:
        assert error.typed == text  # noqa: PT017 - most of what is drawn is refused
        return
    assert np.isfinite(value)
    plain = text.strip().translate(_WRITTEN_ALIKE)
    if plain.lower() in ("none", "open", "not fitted"):
        assert unit == "Ω"
        return
    behind = re.sub(r"^[+-]?[0-9.,]+(?:[eE][+-]?[0-9]+)?", "", plain).strip()
    assert behind in accepted(unit) or re.fullmatch(r"[pnuµmkKMGRr][0-9]+\s*(Ω|Ohm|ohm|V|s)?", behind)


@pytest.mark.parametrize("typed", ["3,5 mH", "0,1,0,2", "12 V,11,5 V"])
def test_a_comma_between_digits_in_a_list_is_told(typed):
    with pytest.raises(QuantityError, match="decimal comma"):
        parse_list(typed, "H" if "H" in typed else "V" if "V" in typed else "s")


def test_a_list_is_parted_by_semicolons_or_commas_with_a_space():
    assert parse_list("0.1; 0.2", "s") == parse_list("0.1, 0.2", "s") == [0.1, 0.2]
    assert parse_list("12 V, 11.5 V", "V") == [12, 11.5]


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
