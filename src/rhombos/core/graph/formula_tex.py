"""Formulas as they are typeset: a figure's TeX with symbols, or with numbers and their units, in place of its parameters."""

import math
import re

from rhombos.core.graph.declare import Figure
from rhombos.core.units import NOT_FITTED, show

MOST_TERMS = 6
_NEXT_FACTOR = re.compile(r"(\\,)*(?=\\t?frac|\\sqrt)")


def formula_of(figure: Figure, params: tuple[str, ...]) -> str:
    """The figure's TeX with its parameters in braces; a sum, where it was collected and has none of its own."""
    return figure.tex or "+".join(f"{{{p}}}" for p in params[:MOST_TERMS])


def symbol_of(figure: Figure) -> str:
    """The figure's symbol, or its title where it has none."""
    return figure.symbol or rf"\text{{{figure.title}}}"


def fill(tex: str, words: dict[str, str], *, times: bool = False) -> str:
    """Put words in place of `{parameter}`; with `times` a dot is set between factors, so that numbers do not run together."""
    out, last = "", 0
    for match in re.finditer(r"\{([a-z][a-z0-9_]*)\}", tex):
        if match[1] not in words:
            continue
        out += tex[last : match.start()]
        if times and _is_factor(out):
            out = re.sub(r"(\\,)+$", "", out) + r"\cdot "
        word = words[match[1]]
        # After a sign or a dot a negative number is set apart, as one writes it.
        out += "{" + (f"({word})" if times and word.startswith("-") and re.search(r"([+-]|\\cdot)\s*$", out) else word) + "}"
        last = match.end()
        factor = _NEXT_FACTOR.match(tex, last) if times else None
        if factor:
            out, last = out + r"\cdot", factor.end()
    return out + tex[last:]


def _is_factor(before: str) -> bool:
    """Whether what stands before is a factor too: a number, π, a space between factors, or a closed brace that is no numerator."""
    text = before.rstrip()
    if text.endswith("\\,"):
        return bool(re.search(r"[\w})]$", re.sub(r"(\\,)+$", "", text)))
    if text.endswith("\\pi") or re.search(r"(?<![_^{])\d$", text) or re.search(r"\^\d$", text):
        return True
    if not text.endswith("}"):
        return False
    depth = 0
    for at in range(len(text) - 1, -1, -1):
        depth += {"}": 1, "{": -1}.get(text[at], 0)
        if depth == 0:
            return not re.search(r"\\t?frac$|\\begin$|\\mathrm$|_$", text[:at])
    return False


def tex_number(value: float | None, unit: str) -> str:
    """A value with its unit as TeX."""
    if value is None:
        return r"\text{?}"
    text = show(value, unit)
    if value >= NOT_FITTED.get(unit, math.inf):
        return rf"\text{{{text}}}"
    number, _, tail = text.partition(" ")
    mantissa, e, exponent = number.partition("e")
    body = mantissa + (rf"\cdot10^{{{int(exponent)}}}" if e else "")
    tail = (
        tail.replace("%", r"\%")
        .replace("°", r"^\circ ")
        .replace("²", "^2")
        .replace("³", "^3")
        .replace("⁴", "^4")
        .replace("µ", r"\mu ")
        .replace("Ω", r"\Omega ")
        .replace("·", r"\cdot ")
    )
    return body + (rf"\,\mathrm{{{tail}}}" if tail else "")
