"""Declaring a stage: its givens, choices, picks, figures and checks.

A figure is a pure function; its parameter names are the wiring (see `wiring`).
Definitions are frozen and check themselves when made.
"""

import inspect
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from rhombos.core.graph.errors import DeclarationError
from rhombos.core.graph.shows import Shows

Kind = Literal["given", "choice", "pick", "build", "operation", "published", "collected"]
Scope = Literal["host", "section", "line-up"]
Harm = Literal["none", "equipment", "people"]

_NAME = re.compile(r"^[a-z][a-z0-9_]*$")
_PLACEHOLDER = re.compile(r"\{([a-z][a-z0-9_]*)\}")


@dataclass(frozen=True)
class Every:
    """A collector: the sum (or the highest) of the figure `name` over every place in `scope` that makes it."""

    name: str
    scope: Scope = "line-up"
    how: Literal["sum", "highest"] = "sum"


def every(name: str, scope: Scope = "line-up", how: Literal["sum", "highest"] = "sum") -> Any:
    """Mark a parameter as a collector: `def loss_sum(losses=every("loss", "host"))`."""
    return Every(name, scope, how)


@dataclass(frozen=True)
class Example:
    """A worked example from an independent source: inputs in SI, the result, and its relative tolerance."""

    inputs: Mapping[str, float]
    gives: float
    tolerance: float = 5e-3


@dataclass(frozen=True)
class Figure:
    """One named quantity. `fn` takes and returns arrays in SI; `unit` is the SI unit it stands for."""

    name: str
    kind: Kind
    unit: str
    symbol: str
    sentence: str
    fn: Callable[..., Any] | None = None
    tex: str = ""
    source: str = ""
    group: str = ""
    title: str = ""
    start: float | None = None
    grows: Mapping[str, float] = field(default_factory=dict)
    """By which powers of the brief's sizes the starting value grows; `start` is that of the usual brief."""
    low: float | None = None
    high: float | None = None
    default: float | str | None = None
    safe: Literal["up", "down"] | None = None
    decided: bool = False
    valid: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    empirical: bool = False
    example: Example | None = None
    judgement: bool = False
    owner: str = ""
    column: str = ""
    whole: bool = False
    """It is a number of things."""
    sags: float = 1.0
    """What is left of it under a start that has no operation with the build as it stands: so much stands in while the next one is decided."""

    @property
    def params(self) -> tuple[str, ...]:
        return tuple(inspect.signature(self.fn).parameters) if self.fn else ()

    @property
    def collectors(self) -> dict[str, Every]:
        if self.fn is None:
            return {}
        return {k: p.default for k, p in inspect.signature(self.fn).parameters.items() if isinstance(p.default, Every)}

    def __post_init__(self) -> None:
        if not _NAME.match(self.name):
            raise DeclarationError(f"figure name {self.name!r} must be lower-case words joined by underscores", name=self.name)
        if not self.sentence:
            raise DeclarationError(f"figure {self.name!r} needs a docstring that says what it is", name=self.name)
        if self.kind in ("build", "operation"):
            self._check_formula()

    def _check_formula(self) -> None:
        if not self.source:
            raise DeclarationError(f"figure {self.name!r} needs a source", name=self.name)
        if not self.tex:
            raise DeclarationError(f"figure {self.name!r} needs a formula in TeX", name=self.name)
        strangers = set(self.valid) - set(self.params)
        if strangers:
            raise DeclarationError(f"{self.name!r} is valid over {sorted(strangers)}, which it does not read", name=self.name)
        named = set(placeholders(self.tex, self.params))
        if named != set(self.params):
            raise DeclarationError(f"the TeX of {self.name!r} names {sorted(named)}, its parameters are {sorted(self.params)}", name=self.name)


def placeholders(tex: str, params: Sequence[str]) -> list[str]:
    """The parameters that a TeX template names, in order of appearance."""
    return [m for m in _PLACEHOLDER.findall(tex) if m in params]


@dataclass(frozen=True)
class Need:
    """What a pick asks of a part where no check says it: the figure `capability` over the figure `demand` reaches `level`, at every corner."""

    title: str
    capability: str
    demand: str
    level: float = 1.0


@dataclass(frozen=True)
class Pick:
    """A choice of part: the cheapest candidate that meets every one of `needs`.

    Needs are checks of the stage, or of what hangs on it, by name (the part must make them hold), and pairs of figures.
    All that follows from the part within the stage and what hangs on it is worked out for every candidate.

    `prefix` is put before the part's columns to make figure names; `quantities` are the counts in parallel
    tried; `pieces` names how many of these places the stage has (a bridge has four switches).
    """

    name: str
    part_type: str
    prefix: str
    needs: tuple[str | Need, ...]
    sentence: str
    title: str = ""
    quantities: tuple[int, ...] = (1,)
    pieces: int = 1
    source: str = ""
    group: str = ""


@dataclass(frozen=True)
class Option:
    """One row of a choice: the numbers that figures read."""

    title: str
    numbers: Mapping[str, float]


@dataclass(frozen=True)
class Choice:
    """A choice between rows of numbers; figures read the numbers, never the name."""

    name: str
    title: str
    sentence: str
    options: Mapping[str, Option]
    columns: Mapping[str, tuple[str, str, str]]
    default: str
    group: str = ""


@dataclass(frozen=True)
class Move:
    """A remedy to try: move `figure` (a given, or a build figure by a pin) towards `to`, by steps if whole.

    What the designer sets is offered. What the parts and the surroundings are (`world`), or what is called good
    (`yardstick`), is only told: to wish for it makes a check green and the thing no better.
    """

    figure: str
    to: Literal["up", "down"]
    reach: float = 3.0
    kind: Literal["setting", "world", "yardstick"] = "setting"


@dataclass(frozen=True)
class Check:
    """A judgement: margin = capability/demand at every corner; below `fail` it fails, from `hold` it holds.

    Where nothing is demanded, `no_demand` is what it says in place of its sentence.
    """

    name: str
    title: str
    demand: str
    capability: str
    fail: float | str
    hold: float | str
    harm: Harm
    sentence: str
    why: str
    remedies: tuple[Move, ...] = ()
    no_demand: str = ""

    @property
    def ports(self) -> tuple[str, ...]:
        return tuple(p for p in (self.demand, self.capability, self.fail, self.hold) if isinstance(p, str))


class Stage(Shows):
    """A template of figures. `path` stages carry the power; attachments hang on a host.

    `telling` is what stands below the stage's name on the line, with the names of figures, picks and choices in braces.
    """

    def __init__(self, name: str, title: str, *, path: bool = True, telling: str = "") -> None:
        super().__init__()
        self.name = name
        self.title = title
        self.path = path
        self.telling = telling
        self.renames: dict[str, str] = {}
        self.figures: dict[str, Figure] = {}
        self.picks: dict[str, Pick] = {}
        self.choices: dict[str, Choice] = {}
        self.checks: dict[str, Check] = {}
        self.sizes: dict[str, tuple[str, float]] = {}

    def size(self, name: str, figure: str, usual: float) -> None:
        """Say that a figure is a size of the brief, and what it is in the usual one, for which starting values are written down."""
        self.sizes[name] = figure, usual

    def add(self, figure: Figure) -> None:
        if figure.name in self.figures:
            raise DeclarationError(f"stage {self.name!r} makes {figure.name!r} twice", name=figure.name, stage=self.name)
        self.figures[figure.name] = figure

    def give(
        self,
        name: str,
        value: float,
        unit: str,
        symbol: str,
        low: float | None,
        high: float | None,
        sentence: str,
        title: str = "",
        *,
        judgement: bool = False,
        whole: bool = False,
    ) -> None:
        """Declare a given with its starting value and the range it may be typed in."""
        self.add(
            Figure(
                name, "given", unit, symbol, sentence, title=title or _title(name), low=low, high=high, default=float(value), judgement=judgement, whole=whole
            )
        )

    def _formula(self, kind: Kind, options: dict[str, Any]) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        def declare(fn: Callable[..., Any]) -> Callable[..., Any]:
            example = options.pop("example", None)
            options.setdefault("decided", kind == "build" and options.get("safe") is not None)
            if isinstance(example, tuple):
                example = Example(*example)
            options.setdefault("title", _title(fn.__name__))
            options.setdefault("symbol", "")
            self.add(Figure(name=fn.__name__, kind=kind, sentence=_sentence(fn), fn=fn, example=example, **options))
            return fn

        return declare

    def build(self, **options: Any) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        """Declare a build figure (one value): unit, tex, source and optionally symbol, start, grows, safe, example, valid.

        With a safe side, or `decided=True`, it is a decision (turns, a resistor, a level): a held sheet keeps it. Other
        build figures follow from decisions and from the highest and lowest of the corners, held or not.
        """
        return self._formula("build", options)

    def operation(self, **options: Any) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
        """Declare an operation figure (a value per corner): unit, tex, source and optionally symbol, start, grows, example."""
        return self._formula("operation", options)

    def pick(
        self,
        name: str,
        part_type: str,
        columns: Mapping[str, tuple[str, str, str]],
        *,
        needs: Sequence[str | Need],
        sentence: str,
        prefix: str = "",
        title: str = "",
        quantities: Sequence[int] = (1,),
        pieces: int = 1,
        source: str = "",
        group: str = "",
    ) -> None:
        """Declare a pick of a part; `columns` maps the part's columns to (unit, symbol, sentence), `needs` names checks or pairs of figures."""
        if not needs or not sentence:
            raise DeclarationError(f"pick {name!r} of {self.name!r} must say in a sentence what it picks, and what it needs", name=name)
        prefix, title = prefix or f"{name}_", title or _title(name)
        self.picks[name] = Pick(name, part_type, prefix, tuple(needs), sentence, title, tuple(quantities), pieces, source, group)
        for column, (unit, symbol, text) in {**columns, "quantity": ("", "n", f"How many of the part stand in parallel: {title}.")}.items():
            made = prefix + column
            self.add(Figure(made, "published", unit, symbol, text, title=_title(made), group=group, owner=name, column=column, whole=column == "quantity"))

    def choice(
        self,
        name: str,
        options: Mapping[str, Option],
        columns: Mapping[str, tuple[str, str, str]],
        *,
        default: str,
        sentence: str,
        title: str = "",
        group: str = "",
    ) -> None:
        """Declare a choice; `columns` maps each number of its rows to (unit, symbol, sentence)."""
        for key, option in options.items():
            if set(option.numbers) != set(columns):
                raise DeclarationError(f"option {key!r} of {name!r} must hold {sorted(columns)}", name=name)
        self.choices[name] = Choice(name, title or _title(name), sentence, options, columns, default, group)
        for column, (unit, symbol, text) in columns.items():
            self.add(Figure(column, "published", unit, symbol, text, title=_title(column), group=group, owner=name, column=column))

    def check(
        self,
        name: str,
        *,
        demand: str,
        capability: str,
        harm: Harm,
        sentence: str,
        why: str,
        title: str = "",
        fail: float | str = 1.0,
        hold: float | str = 1.1,
        remedies: Sequence[Move] = (),
        no_demand: str = "",
    ) -> None:
        """Declare a check; `sentence` may name `{demand}`, `{capability}`, `{margin}` and `{corner}`."""
        if name in self.checks:
            raise DeclarationError(f"stage {self.name!r} has the check {name!r} twice", name=name)
        self.checks[name] = Check(name, title or _title(name), demand, capability, fail, hold, harm, sentence, why, tuple(remedies), no_demand)

    def names(self) -> set[str]:
        """Every name that the stage makes, hands on or reads."""
        needs = [need for pick in self.picks.values() for need in pick.needs if isinstance(need, Need)]
        read = {p for f in self.figures.values() for p in f.params} | {p for need in needs for p in (need.capability, need.demand)}
        return {*self.figures, *self.renames, *self.renames.values(), *read}

    def rename(self, **names: str) -> None:
        """Hand on figures under other names: `rename(output_voltage="terminal_voltage")`. What they mean may be of another stage."""
        for name, of in names.items():
            if name in self.figures or name in self.renames:
                raise DeclarationError(f"stage {self.name!r} makes {name!r} twice", name=name, stage=self.name)
            self.renames[name] = of


def _sentence(fn: Callable[..., Any]) -> str:
    return " ".join((fn.__doc__ or "").split())


def _title(name: str) -> str:
    words = name.replace("_", " ")
    return words[0].upper() + words[1:]
