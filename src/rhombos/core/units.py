"""Reading and writing quantities as people type them: 4k7, 3,3 mH, 0.1u, 45 °C, 4.5 A/mm².

Numbers are SI inside. One table says, unit by unit, what may stand behind a number; whatever is not in it is refused,
naming what was typed and what was expected. `show` writes from the same table.
"""

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

KELVIN_AT_ZERO = 273.15
LONGEST = 60
"""Characters that a quantity may have: more is a slip of the clipboard."""


class QuantityError(ValueError):
    """What was typed is not a quantity of the unit expected. Fields: `typed`, `expected`."""

    def __init__(self, typed: str, expected: str, why: str) -> None:
        super().__init__(typed, expected, why)
        self.typed, self.expected, self.why = typed, expected, why

    def __str__(self) -> str:
        shown = self.typed if len(self.typed) <= LONGEST else self.typed[:LONGEST] + "…"
        return f"{shown!r} is not understood: {self.why}; expected {self.expected}"


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
_SIZES = ((1e9, "G"), (1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))
"""The prefixes that are written and read; `u` is read for µ."""
_PREFIXES = {prefix: size for size, prefix in _SIZES if prefix} | {"u": 1e-6}

PREFIXED = "SI"
"""Not a unit: a number that may carry a prefix and nothing else, as in the catalogue's files."""
_WITH_PREFIX: dict[str, tuple[str, ...]] = {
    **{u: (u,) for u in ("V", "A", "W", "VA", "F", "H", "Hz", "J", "T", "S", "C", "m", "s")},
    "Ω": ("Ω", "Ohm", "ohm"),
    "V·s": ("V·s", "Vs"),
    PREFIXED: (),
}
"""Units that take every prefix, with their spellings."""
_BESIDE: dict[str, dict[str, float]] = {
    "Ω": {"R": 1.0, "r": 1.0, "K": 1e3},
    "s": {"min": 60.0, "h": 3600.0},
    "m": {"cm": 1e-2},
    "": {"%": 0.01},
    "K": {"K": 1.0},
    "1/K": {"1/K": 1.0},
    "V/K": {"V/K": 1.0, "mV/K": 1e-3},
    "m^2": {"mm²": 1e-6, "mm2": 1e-6, "mm^2": 1e-6, "cm²": 1e-4, "cm2": 1e-4, "m²": 1.0, "m2": 1.0},
    "m^3": {"cm³": 1e-6, "cm3": 1e-6, "mm³": 1e-9, "mm3": 1e-9, "m³": 1.0, "m3": 1.0},
    "m^4": {"cm⁴": 1e-8, "cm4": 1e-8, "mm⁴": 1e-12, "mm4": 1e-12, "m⁴": 1.0, "m4": 1.0},
    "A/m^2": {"A/mm²": 1e6, "A/mm2": 1e6, "A/mm^2": 1e6, "A/cm²": 1e4, "A/m²": 1.0, "A/m2": 1.0, "A/m^2": 1.0},
    "C_Ah": {"Ah": 3600.0, "mAh": 3.6, "C": 1.0, "kC": 1e3},
    "kg": {"mg": 1e-6, "g": 1e-3, "kg": 1.0},
    "credit": {"credits": 1.0, "credit": 1.0, "cr": 1.0},
    "credit·K/W": {"cr·K/W": 1.0},
    "K/W": {"K/W": 1.0, "°C/W": 1.0},
    "J/K": {"J/K": 1.0},
    "A^2·s": {"A²s": 1.0, "A²·s": 1.0, "A2s": 1.0},
    "W·h": {"Wh": 1.0, "W·h": 1.0, "kWh": 1e3},
    "K_abs": {"°C": 1.0, "C": 1.0, "degC": 1.0, "K": 1.0},
}
"""What else may stand behind a number, by unit."""
_WORDS = {"credit": "cr", "credit·K/W": "cr·K/W", "W·h": "Wh", "A^2·s": "A²s", "steinmetz": "", "W/T": "", "dB": "dB", "°": "°", "%": "%", PREFIXED: ""}
"""What is written for units that take no prefix, where it is not the unit itself."""
NOT_FITTED = {"Ω": 1e12}
"""What an optional part that is left out counts as: a resistor across something is open."""
_LEFT_OUT = ("not fitted", "none", "open")
_INFIX = re.compile(r"([+-]?[0-9]+)([pnuµmkKMGRr])([0-9]+)\s*(.*)", re.DOTALL)
_NUMBER = re.compile(r"([+-]?(?:[0-9][0-9.,]*|[.,][0-9]+))([eE][+-]?[0-9]+)?\s*(.*)", re.DOTALL)
_WRITTEN_ALIKE = str.maketrans({"\u2126": "Ω", "\u03bc": "µ", "−": "-", "\u2009": " ", "\u00a0": " ", "\u202f": " "})


@lru_cache(maxsize=64)
def accepted(unit: str) -> dict[str, float]:
    """What may stand behind a number of this unit, and the factor to SI; the empty string is no unit at all."""
    out: dict[str, float] = {}
    spellings = _WITH_PREFIX.get(unit)
    if spellings is not None:
        if unit != "m":  # a bare m would be a metre or a thousandth
            out.update(_PREFIXES)
        for spelling in spellings:
            out.update({prefix + spelling: size for prefix, size in _PREFIXES.items()})
            out[spelling] = 1.0
    out.update(_BESIDE.get(unit, {}))
    out[""] = SHOWN[unit].factor if unit in SHOWN else 1.0
    return out


def parse(typed: str, unit: str) -> float:
    """Read what a person typed as a quantity of `unit`, in SI. Raises QuantityError.

    A bare number counts in the unit shown: 45 means 45 °C, 100 means 100 Ah.
    """
    text = typed.strip().translate(_WRITTEN_ALIKE)
    expected = _expected(unit)
    if not text:
        raise QuantityError(typed, expected, "nothing was typed")
    if len(text) > LONGEST:
        raise QuantityError(typed, expected, f"it is {len(text)} characters long")
    if text.lower() in _LEFT_OUT and unit in NOT_FITTED:
        return NOT_FITTED[unit]
    infix = _INFIX.fullmatch(text)
    if infix and unit in _WITH_PREFIX and unit != "m" and infix[2] in accepted(unit) and infix[4] in ("", *_WITH_PREFIX[unit]):
        return _finite(typed, expected, float(f"{infix[1]}.{infix[3]}"), accepted(unit)[infix[2]])
    match = _NUMBER.fullmatch(text)
    if not match:
        raise QuantityError(typed, expected, "it does not start with a number")
    number, rest = _decimal(typed, match[1], match[2] or "", expected), match[3]
    factor = accepted(unit).get(rest)
    if factor is None:
        raise QuantityError(typed, expected, _stranger(rest, unit))
    value = _finite(typed, expected, number, factor)
    if unit == "K_abs" and rest != "K":
        value += KELVIN_AT_ZERO
    if unit == "K_abs" and value < 0:
        raise QuantityError(typed, expected, "it is below absolute zero, −273.15 °C")
    return value


def parse_list(typed: str, unit: str) -> list[float]:
    """Several quantities, one a corner, apart by a semicolon or by a comma and a space.

    A comma between two digits may be a decimal comma or a separator: it is refused, never guessed.
    """
    if re.search(r"[0-9],[0-9]", typed):
        raise QuantityError(
            typed,
            f"values apart by '; ', each {_expected(unit)}",
            "the comma may be a decimal comma or part two values: type a point in numbers, '; ' between them",
        )
    return [parse(part, unit) for part in re.split(r";|,", typed)]


def _expected(unit: str) -> str:
    if unit == "":
        return "a plain number, or one with %"
    if unit == PREFIXED:
        return "a number, if you like with a prefix"
    return f"a number, if you like with a prefix and {shown_unit(unit)}" if unit in _WITH_PREFIX else f"a number, if you like with {shown_unit(unit)}"


def _stranger(rest: str, unit: str) -> str:
    """Why what stands behind a number is refused: another quantity's unit, or none at all."""
    others = {s for u in (*_WITH_PREFIX, *_BESIDE) if u != unit for s in accepted(u)} - set(_PREFIXES) - {"", "R", "r", "K", "%"}
    return f"it is in {rest!r}" if rest in others else f"{rest!r} is not a unit"


def _decimal(typed: str, digits: str, exponent: str, expected: str) -> float:
    if "," in digits:
        after = digits.split(",")[1]
        if "." in digits or digits.count(",") > 1 or (len(after) == 3 and digits.split(",")[0].lstrip("+-") not in ("", "0")):
            raise QuantityError(typed, expected, "the comma may mean a decimal or thousands: type a point, or no comma")
        digits = digits.replace(",", ".")
    try:
        number = float(digits + exponent)
    except ValueError:
        raise QuantityError(typed, expected, f"{digits!r} is not one number") from None
    return _finite(typed, expected, number, 1.0, zero=not re.search(r"[1-9]", digits))


def _finite(typed: str, expected: str, number: float, factor: float, *, zero: bool | None = None) -> float:
    value = number * factor
    if not math.isfinite(value):
        raise QuantityError(typed, expected, "it is larger than any number here")
    if value == 0 and not (number == 0 if zero is None else zero):
        raise QuantityError(typed, expected, "it is smaller than any number here")
    return value


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
    if value >= NOT_FITTED.get(unit, math.inf):
        return _LEFT_OUT[0]
    if unit == "kg" and abs(value) >= 1:
        return f"{_plain(value, digits)} kg"
    if unit == "s" and abs(value) >= 600:
        return f"{_plain(value / 3600, digits)} h"
    if unit in SHOWN:
        scale = SHOWN[unit]
        return f"{_plain((value - scale.offset) / scale.factor, digits)} {scale.shown}"
    if unit not in _WITH_PREFIX or unit == PREFIXED:
        return f"{_plain(value, digits)} {_WORDS.get(unit, unit)}".strip()
    return _engineering(value, unit, digits)


def written() -> dict[str, Any]:
    """How numbers are written, as a table for whoever writes them elsewhere: the page is built with it."""
    plain = {u: _WORDS.get(u, u) for u in ("", *_BESIDE, *_WORDS) if u not in _WITH_PREFIX and u not in SHOWN}
    scales = {u: [s.shown, s.factor, s.offset] for u, s in SHOWN.items()}
    return {"scales": scales, "plain": plain, "not_fitted": NOT_FITTED, "prefixes": [list(size) for size in _SIZES]}


def _plain(value: float, digits: int) -> str:
    if value == 0:
        return "0"
    text = f"{value:.{digits}g}"
    return f"{float(text):g}" if "e" in text and 1e-4 <= abs(value) < 1e7 else text


def _engineering(value: float, unit: str, digits: int) -> str:
    """Prefix and unit. Thousands of figures are written after every edit, so this is kept short."""
    if value == 0 or abs(value) < 1e-18:
        return f"0 {unit}".strip()
    if unit == "m" and 1e-5 <= abs(value) < 1:
        return f"{_plain(value * 1e3, digits)} mm"
    rounded = float(f"{value:.{digits}g}")
    size, prefix = next(((s, p) for s, p in _SIZES if abs(rounded) >= s * (1 - 1e-9)), _SIZES[-1])
    return f"{rounded / size:.{digits}g} {prefix}{unit.replace('^2', '²')}".strip()
