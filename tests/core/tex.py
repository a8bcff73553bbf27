"""Reads the TeX of a formula as a calculation, so that what is shown can be compared with what is computed.

It knows the notation that our formulas use: fractions, roots, powers, cases, Iverson brackets, maxima, preferred values,
and lines that define a letter. Everything else is an error, so a formula that only looks like one is found out.
"""

import math
import re
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import SERIES

TOKEN = re.compile(r"\\[A-Za-z]+|\\.|\d+\.?\d*(?:e-?\d+)?|[A-Za-z]|[^\s]")
SPACES = {"\\,", "\\;", "\\!", "\\:", "\\quad", "\\displaystyle"}
UNITS = {"s": 1.0, "ms": 1e-3, "V": 1.0, "m": 1.0, "kg": 1.0, "h": 1.0, "J": 1.0, "mJ": 1e-3, "Ohm": 1.0, "W": 1.0, "K/W": 1.0}
FUNCTIONS: dict[str, Callable[[float], float]] = {
    "\\ln": math.log, "\\exp": math.exp, "\\sin": math.sin, "\\cos": math.cos, "\\arctan": math.atan, "\\Gamma": math.gamma
}  # fmt: skip
LETTERS = {"\\omega", "\\Delta", "\\zeta", "\\varphi", "\\alpha", "\\mu", "\\rho", "\\xi", "\\theta"}


class TexError(ValueError):
    """The formula says something that is no calculation."""


def preferred(series: str, side: str) -> Callable[[float], float]:
    """The nearest, next or last preferred value, by looking through a few decades."""
    rungs = sorted(float(f"{r:g}") * 10.0**k for r in SERIES[series] for k in range(-14, 10))

    def pick(x: float) -> float:
        if side == "up":
            return next(r for r in rungs if r >= x * (1 - 1e-9))
        if side == "down":
            return next(r for r in reversed(rungs) if r <= x * (1 + 1e-9))
        return min(rungs, key=lambda r: abs(math.log(r / x)))

    return pick


class Reader:
    """One formula, with the numbers of its parameters and the functions that it may name."""

    def __init__(self, tex: str, numbers: Mapping[str, float], operators: Mapping[str, Callable[..., float]], constants: Mapping[str, float]) -> None:
        self.numbers, self.operators, self.constants = numbers, operators, constants
        main, self.defined = self._parts(re.sub(r"(\\[td]?frac)(\d)(?=\{)", r"\1{\2}", re.sub(r"(\\[td]?frac)(\d)(\d)", r"\1{\2}{\3}", tex)))
        self.main = main
        self.values: dict[str, float] = {}

    def value(self) -> float:
        return self.read(self.main)

    def holds(self, unknown: str, value: float) -> tuple[float, float]:
        """Both sides of a formula that is an equation for a letter."""
        self.values[unknown] = value
        left, right = self.main.split(":", 1)[1].rsplit("=", 1)
        return self.read(left), self.read(right)

    def read(self, tex: str) -> float:
        parser = _Parser(self, self._tokens(tex))
        out = parser.sum()
        if parser.at < len(parser.tokens):
            raise TexError(f"{tex!r} goes on with {parser.tokens[parser.at :]}")
        return out

    def letter(self, name: str) -> float:
        if name in self.constants:
            return self.constants[name]
        if name not in self.values:
            if name not in self.defined:
                raise TexError(f"{name} is not defined")
            self.values[name] = self.read(self.defined[name])
        return self.values[name]

    def _parts(self, tex: str) -> tuple[str, dict[str, str]]:
        inner = re.fullmatch(r"\\begin\{gathered\}(.*)\\end\{gathered\}", tex, re.S)
        lines = _split(inner[1], "\\\\") if inner else [tex]
        lines = [part for line in lines for part in _split(line, "\\quad")]
        main, defined = "", {}
        for line in lines:
            found = re.match(r"\s*(?:\\[,;])?(\\?[A-Za-z]+(?:_\\?[A-Za-z0-9]+|_\{[^{}]*\})?)\s*=(.*)", line, re.S)
            if found and main:
                defined[_name(found[1])] = found[2]
            elif re.match(r"\s*\(.*=.*\)\s*$", line):
                continue  # a remark in which state the formula speaks
            else:
                main += " " + line
        return main, defined

    def _tokens(self, tex: str) -> list[Any]:
        out: list[Any] = []
        last = 0
        for match in re.finditer(r"\{([a-z][a-z0-9_]*)\}", tex):
            if match[1] in self.numbers:
                out += TOKEN.findall(tex[last : match.start()])
                out.append(("{", match[1]))
                last = match.end()
        out += TOKEN.findall(tex[last:])
        return [t for t in out if t not in SPACES]


def _split(tex: str, mark: str) -> list[str]:
    """Pieces between `mark`, not within an environment."""
    out, depth, piece, at = [], 0, "", 0
    while at < len(tex):
        if tex.startswith("\\begin", at):
            depth += 1
        if tex.startswith("\\end", at):
            depth -= 1
        if depth == 0 and tex.startswith(mark, at):
            out.append(piece)
            piece, at = "", at + len(mark)
            continue
        piece += tex[at]
        at += 1
    return [*out, piece]


def _name(text: str) -> str:
    return re.sub(r"[{}\s]|\\(?:mathrm|text)", "", text)


class _Parser:
    def __init__(self, reader: Reader, tokens: list[Any]) -> None:
        self.reader, self.tokens, self.at = reader, tokens, 0

    def peek(self) -> Any:
        return self.tokens[self.at] if self.at < len(self.tokens) else None

    def take(self, *wanted: Any) -> Any:
        token = self.peek()
        if wanted and token not in wanted:
            raise TexError(f"{token} where {wanted} was expected in {self.tokens}")
        self.at += 1
        return token

    def sum(self) -> float:
        total = self.product()
        while self.peek() in ("+", "-"):
            total = total + self.product() if self.take() == "+" else total - self.product()
        return total

    def product(self) -> float:
        sign = -1.0 if self.peek() == "-" else 1.0
        if self.peek() in ("-", "+"):
            self.take()
        value = sign * self.power()
        while True:
            token = self.peek()
            if token == "\\cdot":
                self.take()
                value *= self.power()
            elif token == "/":
                self.take()
                value /= self.power()
            elif (
                token is None
                or token in ("+", "-", ")", "}", "]", ",", "&", "\\\\", "=", "<", ">", "\\ge", "\\le", "\\right", "\\end", "\\rceil", "\\rfloor", "\\big)", ";")
                or (token == "|" and self.closing)
                or (token in ("\\big", "\\Big") and self.tokens[self.at + 1] in (")", "]"))
            ):
                return value
            else:
                value *= self.power()

    closing = False

    def power(self) -> float:
        base = self.atom()
        while self.peek() in ("^", "_"):
            if self.take() == "_":
                self.skip_group()
            elif self.peek() == "\\circ":
                self.take()
                self.skip_group()
                base += 273.15
            else:
                exponent = self.group()
                base = base**exponent
        return base

    def group(self) -> float:
        token = self.peek()
        if token == "{":
            self.take()
            value = self.sum()
            self.take("}")
            return value
        return self.atom()

    def skip_group(self) -> None:
        if self.take() == "\\mathrm" or self.tokens[self.at - 1] == "\\text":
            self.skip_group()
            return
        if self.tokens[self.at - 1] == "{":
            depth = 1
            while depth:
                depth += {"{": 1, "}": -1}.get(self.take(), 0)

    def word(self) -> str:
        """The letters of a group, as of \\mathrm{…}."""
        self.take("{")
        out, depth = "", 1
        while True:
            token = self.take()
            depth += {"{": 1, "}": -1}.get(token, 0)
            if depth == 0:
                return out
            out += token if token not in "{}" else ""

    def arguments(self) -> list[float]:
        self.open()
        out = [self.sum()]
        while self.peek() in (",", ";"):
            self.take()
            out.append(self.sum())
        self.close()
        return out

    def open(self) -> None:
        while self.peek() in ("\\left", "\\big", "\\Big"):
            self.take()
        self.take("(", "[")

    def close(self) -> None:
        while self.peek() in ("\\right", "\\big", "\\Big"):
            self.take()
        self.take(")", "]")

    def condition(self) -> bool:
        left = self.sum()
        out, some = True, False
        while self.peek() in ("<", ">", "=", "\\ge", "\\le"):
            sign, right, some = self.take(), self.sum(), True
            near = math.isclose(left, right, rel_tol=1e-9, abs_tol=1e-15)
            out &= {"<": left < right and not near, ">": left > right and not near, "=": near, "\\ge": left > right or near, "\\le": left < right or near}[sign]
            left = right
        if not some:
            raise TexError(f"no comparison in {self.tokens}")
        return out

    def atom(self) -> float:
        token = self.take()
        if isinstance(token, tuple):
            return self.reader.numbers[token[1]]
        if re.fullmatch(r"\d+\.?\d*(?:e-?\d+)?", token):
            return float(token)
        reader: Callable[[], float] | None = {
            "\\frac": self.fraction, "\\tfrac": self.fraction, "\\dfrac": self.fraction, "\\sqrt": self.root, "\\begin": self.environment,
            "\\left": self.bracket, "\\big": self.bracket, "\\Big": self.bracket, "|": self.bars, "\\lceil": self.ceiling, "\\lfloor": self.floor, "\\operatorname": self.named,
            "\\mathrm": self.upright, "\\pi": lambda: math.pi, "\\Omega": lambda: 1.0, "\\infty": lambda: math.inf,
        }.get(token)  # fmt: skip
        if reader:
            return reader()
        if token in ("(", "["):
            self.at -= 1
            return self.bracket()
        if token == "{":
            value = self.sum()
            self.take("}")
            return value
        if token in ("\\max", "\\min"):
            return self.extreme(max if token == "\\max" else min)
        if token in FUNCTIONS:
            return FUNCTIONS[token](self.power())
        if token in LETTERS or (len(token) == 1 and token.isalpha()):
            return self.letter(token)
        raise TexError(f"{token!r} in {self.tokens}")

    def letter(self, token: str) -> float:
        name = token
        if self.peek() == "_":
            self.take()
            name += "_" + (self.word() if self.peek() == "{" else str(self.take()))
        return self.reader.letter(_name(name))

    def argument(self) -> float:
        """What stands behind \\frac or \\sqrt: a group, a parameter or one token."""
        return self.group()

    def fraction(self) -> float:
        top = self.argument()
        return top / self.argument()

    def root(self) -> float:
        return math.sqrt(self.argument())

    def bracket(self) -> float:
        while self.peek() in ("\\left", "\\big", "\\Big"):
            self.take()
        if self.peek() == "[":
            start = self.at
            self.take()
            try:
                holds = self.condition()
                self.close()
                return 1.0 if holds else 0.0
            except TexError:
                self.at = start
        if self.peek() in ("\\lceil", "\\lfloor"):
            return self.ceiling() if self.take() == "\\lceil" else self.floor()
        self.take("(", "[")
        value = self.sum()
        self.close()
        return value

    def bars(self) -> float:
        outer, self.closing = self.closing, True
        value = abs(self.sum())
        self.take("|")
        self.closing = outer
        return value

    def floor(self) -> float:
        value = self.sum()
        if self.peek() == "\\right":
            self.take()
        self.take("\\rfloor")
        return float(math.floor(value * (1 + 1e-9)))

    def ceiling(self) -> float:
        value = self.sum()
        if self.peek() == "\\right":
            self.take()
        self.take("\\rceil")
        step = 1.0
        if self.peek() == "_":
            self.take()
            step = self.group()
        return math.ceil(value / step * (1 - 1e-9)) * step

    def extreme(self, pick: Callable[..., float]) -> float:
        if self.peek() == "_":
            self.take()
            self.skip_group()
        if self.peek() in ("(", "\\left", "\\big", "\\Big"):
            values = self.arguments()
            return pick(values)
        return self.power()

    def upright(self) -> float:
        word = self.word()
        if word in SERIES:
            side = "nearest"
            if self.peek() == "_":
                self.take()
                side = {"\\uparrow": "up", "\\downarrow": "down"}[self.take()]
            return preferred(word, side)(*self.arguments())
        if word == "round":
            return float(np.round(self.arguments()[0]))
        if word in UNITS:
            return UNITS[word]
        raise TexError(f"\\mathrm{{{word}}} is no unit")

    def named(self) -> float:
        word = self.word()
        if self.peek() == "_":
            self.take()
            word += self.take()
        if word not in self.reader.operators:
            raise TexError(f"nobody knows {word}")
        return float(self.reader.operators[word](*self.arguments()))

    def environment(self) -> float:
        if self.word() != "cases":
            raise TexError("only cases")
        chosen: float | None = None
        while True:
            start = self.at
            end = self._find("&")
            self.at = end + 1
            holds = self._case()
            after = self.at
            if holds and chosen is None:
                self.at = start
                chosen = _Parser(self.reader, self.tokens[start:end]).sum()
                self.at = after
            if self.peek() == "\\\\":
                self.take()
                continue
            self.take("\\end")
            self.word()
            if chosen is None:
                raise TexError("no case holds")
            return chosen

    def _find(self, mark: str) -> int:
        depth = 0
        for at in range(self.at, len(self.tokens)):
            depth += {"\\begin": 1, "\\end": -1}.get(self.tokens[at], 0)
            if depth == 0 and self.tokens[at] == mark:
                return at
        raise TexError(f"no {mark} in {self.tokens}")

    def _case(self) -> bool:
        if self.peek() == "\\text":
            self.take()
            self.word()
            return True
        return self.condition()
