"""Reading and writing quantities as people type them: 4k7, 3,3 mH, 0.1u, 45 °C, 4.5 A/mm².

Numbers are SI inside. `parse` refuses what is ambiguous, naming what was typed and what was expected;
`show` writes engineering notation. quantiphy reads and writes prefixes; shapes it does not know are handled here.
"""

import re
from dataclasses import dataclass

from quantiphy import InvalidNumber, Quantity

KELVIN_AT_ZERO = 273.15


class QuantityError(ValueError):
    """What was typed is not a quantity of the unit expected. Fields: `typed`, `expected`."""

    def __init__(self, typed: str, expected: str, why: str) -> None:
        super().__init__(typed, expected, why)
        self.typed, self.expected, self.why = typed, expected, why

    def __str__(self) -> str:
        return f"{self.typed!r} is not understood: {self.why}; expected {self.expected}"


@dataclass(frozen=True)
class Scale:
    """A unit that people use beside SI: value_SI = value·factor + offset."""

    shown: str
    factor: float
    offset: float = 0.0


# What the screen shows for an SI unit, where plain prefixes would not be what the field says. `K_abs` is a temperature
# (not a difference) in kelvin, `C_Ah` the charge of a battery (not of a gate) in coulombs.
SHOWN: dict[str, Scale] = {
    "K_abs": Scale("°C", 1.0, KELVIN_AT_ZERO),
    "m^2": Scale("mm²", 1e-6),
    "m^3": Scale("cm³", 1e-6),
    "m^4": Scale("cm⁴", 1e-8),
    "A/m^2": Scale("A/mm²", 1e6),
    "C_Ah": Scale("Ah", 3600.0),
    "kg": Scale("g", 1e-3),
}
ALIASES: dict[str, dict[str, float]] = {
    "m^2": {"mm²": 1e-6, "mm2": 1e-6, "mm^2": 1e-6, "cm²": 1e-4, "cm2": 1e-4, "m²": 1.0, "m2": 1.0},
    "m^3": {"cm³": 1e-6, "cm3": 1e-6, "mm³": 1e-9, "mm3": 1e-9, "m³": 1.0, "m3": 1.0},
    "m^4": {"cm⁴": 1e-8, "cm4": 1e-8, "mm⁴": 1e-12, "mm4": 1e-12, "m⁴": 1.0, "m4": 1.0},
    "A/m^2": {"A/mm²": 1e6, "A/mm2": 1e6, "A/mm^2": 1e6, "A/cm²": 1e4, "A/m²": 1.0, "A/m2": 1.0},
    "C_Ah": {"Ah": 3600.0, "mAh": 3.6, "C": 1.0, "kC": 1e3},
    "kg": {"g": 1e-3, "kg": 1.0},
    "credit": {"credits": 1.0, "credit": 1.0, "cr": 1.0},
    "s": {"min": 60.0, "h": 3600.0},
    "K/W": {"K/W": 1.0, "°C/W": 1.0},
    "J/K": {"J/K": 1.0},
    "W·h": {"Wh": 1.0, "W·h": 1.0, "kWh": 1e3},
    "V·s": {"Vs": 1.0, "V·s": 1.0},
}
_PREFIX = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "µ": 1e-6, "m": 1e-3, "k": 1e3, "K": 1e3, "M": 1e6, "G": 1e9, "R": 1.0, "r": 1.0}
_INFIX = re.compile(r"^([+-]?\d+)([pnuµmkKMGRr])(\d+)$")
_NUMBER = re.compile(r"^([+-]?(?:\d[\d.,]*|[.,]\d+)(?:[eE][+-]?\d+)?)\s*(.*)$")


def parse(typed: str, unit: str) -> float:
    """Read what a person typed as a quantity of `unit`, in SI. Raises QuantityError."""
    text = typed.strip().replace("\u2126", "Ω").replace("\u03bc", "µ").replace("−", "-").replace("\u2009", " ").replace("\u00a0", " ")
    expected = f"a number, if you like with a prefix and {shown_unit(unit)}" if unit else "a plain number"
    if not text:
        raise QuantityError(typed, expected, "nothing was typed")
    infix = _INFIX.match(text.rstrip("ΩFHVA ").strip() if text.rstrip("ΩFHVA ") else text)
    if infix:
        return _si(float(f"{infix[1]}.{infix[3]}") * _PREFIX[infix[2]], unit, prefixed=True)
    if unit == "" and text.endswith("%"):
        return parse(text[:-1], "") / 100
    match = _NUMBER.match(text)
    if not match:
        raise QuantityError(typed, expected, "it does not start with a number")
    number, rest = _decimal(typed, match[1], expected), match[2].strip()
    for alias, factor in ALIASES.get(unit, {}).items():
        if rest == alias:
            return number * factor
    if unit == "K_abs":
        return _temperature(typed, number, rest, expected)
    if not rest:
        return _si(number, unit, prefixed=False)
    plain = si_unit(unit)
    if plain and rest == plain:
        return number
    try:
        quantity = Quantity(f"{number!r} {rest}" if len(rest) > 1 or rest not in _PREFIX else f"{number!r}{rest.replace('µ', 'u')}")
    except InvalidNumber:
        raise QuantityError(typed, expected, f"{rest!r} is not a unit") from None
    found = quantity.units.replace("Ohm", "Ω").replace("ohm", "Ω")
    if found in ("", plain):
        return _si(float(quantity), unit, prefixed=True)
    raise QuantityError(typed, expected, f"it is in {found!r}")


def _decimal(typed: str, text: str, expected: str) -> float:
    if "," in text:
        digits = text.split("e")[0].split("E")[0].split(",")[1]
        if "." in text or (len(digits) == 3 and text.split(",")[0].lstrip("+-") not in ("", "0")):
            raise QuantityError(typed, expected, "the comma may mean a decimal or thousands: type a point, or no comma")
        text = text.replace(",", ".")
    try:
        return float(text)
    except ValueError:
        raise QuantityError(typed, expected, f"{text!r} is not one number") from None


def _temperature(typed: str, number: float, rest: str, expected: str) -> float:
    if rest in ("", "°C", "C", "degC"):
        return number + KELVIN_AT_ZERO
    if rest == "K":
        return number
    raise QuantityError(typed, expected, f"{rest!r} is not a temperature")


def _si(number: float, unit: str, *, prefixed: bool) -> float:
    """A bare number counts in the unit shown (45 means 45 °C, 100 means 100 Ah); a prefixed one in SI."""
    scale = SHOWN.get(unit)
    if prefixed or scale is None:
        return number
    return number * scale.factor + scale.offset


def shown_unit(unit: str) -> str:
    """The unit that the screen writes for an SI unit."""
    return SHOWN[unit].shown if unit in SHOWN else unit.replace("^2", "²").replace("^3", "³")


def si_unit(unit: str) -> str:
    """The SI unit in which a value is given to other programs: a temperature in K, a battery's charge in C."""
    return unit.split("_")[0]


def show(value: float, unit: str, digits: int = 4) -> str:
    """Write a value for people: 4.7 kΩ, 330 µF, 45 °C, 1.26 mm²."""
    if value != value:
        return "unknown"
    if value in (float("inf"), float("-inf")):
        return "without bound"
    if unit == "kg" and abs(value) >= 1:
        return f"{_plain(value, digits)} kg"
    if unit == "s" and abs(value) >= 600:
        return f"{_plain(value / 3600, digits)} h"
    if unit in SHOWN:
        scale = SHOWN[unit]
        return f"{_plain((value - scale.offset) / scale.factor, digits)} {scale.shown}"
    if unit in ("", "credit", "K", "1/K", "K/W", "W·h", "J/K", "steinmetz", "W/T"):
        word = {"credit": "cr", "W·h": "Wh", "steinmetz": "", "W/T": ""}.get(unit, unit)
        return f"{_plain(value, digits)} {word}".strip()
    return _engineering(value, unit, digits)


def _plain(value: float, digits: int) -> str:
    if value == 0:
        return "0"
    text = f"{value:.{digits}g}"
    return f"{float(text):g}" if "e" in text and 1e-4 <= abs(value) < 1e7 else text


_SIZES = ((1e9, "G"), (1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))


def _engineering(value: float, unit: str, digits: int) -> str:
    """Prefix and unit. Thousands of figures are written after every edit, so this does not go through the parser's library."""
    if value == 0 or abs(value) < 1e-18:
        return f"0 {unit}".strip()
    if unit == "m" and 1e-5 <= abs(value) < 1:
        return f"{_plain(value * 1e3, digits)} mm"
    rounded = float(f"{value:.{digits}g}")
    size, prefix = next(((s, p) for s, p in _SIZES if abs(rounded) >= s * (1 - 1e-9)), _SIZES[-1])
    return f"{rounded / size:.{digits}g} {prefix}{unit.replace('^2', '²')}".strip()
