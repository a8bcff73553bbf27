"""A stage alone: one figure worked out from whatever it hangs on that is given (givens, ports, intermediate figures)."""

from dataclasses import dataclass
from difflib import get_close_matches

import numpy as np

from rhombos.core.formulas.numeric import Values, context
from rhombos.core.graph.declare import Every, Figure, Stage
from rhombos.core.graph.formula_tex import fill, symbol_of, tex_number
from rhombos.core.lineups import STAGES
from rhombos.core.units import parse_list, show
from rhombos.core.vocabulary import VOCABULARY


class AloneError(ValueError):
    """The figure is not there, a name was given that the stage does not have, or a value beyond its limits."""


@dataclass(frozen=True)
class Missing:
    """What must still be given: what it is and its unit (SI; empty for a plain number)."""

    sentence: str
    unit: str


@dataclass(frozen=True)
class Worked:
    """Values (one, or one per corner), their unit, what is still missing, what was used and what was not needed.

    `shorter` names intermediate figures of the stage any of which, given, would leave less to give. `formula` and
    `numbers` are TeX, `numbers` empty until everything is there; it speaks for the first corner.
    """

    values: list[float]
    unit: str
    missing: dict[str, Missing]
    used: dict[str, str]
    unused: tuple[str, ...]
    shorter: tuple[str, ...]
    formula: str
    numbers: str
    sentence: str
    source: str


def work_alone(wanted: str, typed: dict[str, str]) -> Worked:
    """Work out `stage.figure`. Givens fall back on their starting values; ports and picked parts must be given."""
    stage_name, _, name = wanted.partition(".")
    if stage_name not in STAGES:
        raise AloneError(f"no stage {stage_name!r}; there are {', '.join(STAGES)}")
    stage = STAGES[stage_name]
    if name not in stage.figures:
        raise AloneError(f"stage {stage_name!r} has no figure {name!r}; it has {', '.join(stage.figures)}")
    worker = _Worker(stage, typed)
    worker.check_names()
    value = worker.value(name)
    values = [] if value is None or worker.missing else [float(v) for v in np.atleast_1d(value).reshape(-1)]
    figure = stage.figures[name]
    numbers = worker.numbers(figure)
    return Worked(
        values,
        figure.unit,
        worker.missing,
        worker.used,
        tuple(k for k in typed if k not in worker.used),
        worker.shorter(figure),
        formula=fill(figure.tex, {p: worker.symbol(p) for p in figure.params}),
        numbers=fill(figure.tex, numbers, times=True) if values and numbers else "",
        sentence=figure.sentence,
        source=figure.source,
    )


MOST_SHORTER = 5


def inputs_alone(stage: Stage) -> list[dict[str, object]]:
    """What a stage reads when it stands alone: its givens, and its ports with what the vocabulary says of them.

    `suggested` is a usual value as a person would type it, or empty.
    """
    rows: list[dict[str, object]] = []
    for f in stage.figures.values():
        if f.kind == "given":
            rows.append(
                {
                    "name": f.name,
                    "kind": "given",
                    "title": f.title,
                    "unit": f.unit,
                    "symbol": f.symbol,
                    "sentence": f.sentence,
                    "suggested": show(f.default, f.unit, 6) if isinstance(f.default, float) else "",
                    "low": f.low,
                    "high": f.high,
                }
            )
    for name in ports(stage):
        word = VOCABULARY.get(name)
        rows.append(
            {
                "name": name,
                "kind": "port",
                "title": name.replace("_", " ").capitalize(),
                "unit": word.unit if word else "",
                "symbol": word.symbol if word else "",
                "sentence": word.sentence if word else "",
                "suggested": show(word.alone, word.unit, 6) if word and word.alone is not None else "",
                "low": None,
                "high": None,
            }
        )
    return rows


def ports(stage: Stage) -> list[str]:
    """Names that a stage reads and does not make, in the order in which it reads them."""
    names: dict[str, None] = {}
    for f in stage.figures.values():
        if f.kind in ("build", "operation"):
            for p in f.params:
                if p not in stage.figures and p not in f.collectors:
                    names[p] = None
    return list(names)


CORNER_DEFAULTS = {"surge": 0.0, "surge_by_watts": 0.0, "load_fraction": 1.0, "source_level": 1.0}
"""The corner that a stage alone speaks for where none is given: full load at the nominal source, no start."""
SURGE_ONLY = ("surge_time", "heating_time")


class _Worker:
    def __init__(self, stage: Stage, typed: dict[str, str]) -> None:
        self.stage = stage
        self.typed = typed
        self.used: dict[str, str] = {}
        self.missing: dict[str, Missing] = {}
        self._memo: dict[str, Values | None] = {}
        self._args: dict[str, list[Values | None]] = {}

    def check_names(self) -> None:
        """A misspelt name is told at once, with what comes near it."""
        known = {*self.stage.figures, *self.stage.choices, *ports(self.stage), *(c for f in self.stage.figures.values() for c in f.collectors)}
        for name in self.typed:
            if name not in known:
                near = get_close_matches(name, known, 3, 0.6)
                raise AloneError(
                    f"{self.stage.name} reads no {name!r}" + (f"; did you mean {' or '.join(near)}?" if near else f"; it reads {', '.join(sorted(known))}")
                )

    def shorter(self, figure: Figure) -> tuple[str, ...]:
        """Of the figures between what was asked and what is missing, those that alone stand for several missing ones."""
        if len(self.missing) < 2:
            return ()
        behind: dict[str, set[str]] = {}

        def reach(name: str) -> set[str]:
            if name not in behind:
                behind[name] = set()
                found = self.stage.figures.get(name)
                inner = found.params if found is not None and found.kind in ("build", "operation") and name not in self.typed else ()
                behind[name] = {name} & set(self.missing) | {m for p in inner for m in reach(p)}
            return behind[name]

        reach(figure.name)
        ranked = sorted((n for n, m in behind.items() if n != figure.name and len(m) > 1), key=lambda n: (-len(behind[n]), n))
        return tuple(ranked[:MOST_SHORTER])

    def symbol(self, name: str) -> str:
        """The TeX symbol of a figure of the stage or of a port."""
        figure = self.stage.figures.get(name)
        if figure is not None:
            return symbol_of(figure)
        word = VOCABULARY.get(name)
        return word.symbol if word and word.symbol else rf"\text{{{name.replace('_', ' ')}}}"

    def numbers(self, figure: Figure) -> dict[str, str]:
        """What the figure's parameters are at the first corner, as TeX; empty where it was typed in or given."""
        args = zip(figure.params, self._args.get(figure.name, ()), strict=False)
        return {p: tex_number(None if v is None else float(np.atleast_1d(v).reshape(-1)[0]), self._unit(p)) for p, v in args}

    def value(self, name: str) -> Values | None:
        if name not in self._memo:
            self._memo[name] = None
            self._memo[name] = self._work(name)
        return self._memo[name]

    def _unit(self, name: str) -> str:
        figure = self.stage.figures.get(name)
        if figure is not None:
            return figure.unit
        word = VOCABULARY.get(name)
        return word.unit if word else ""

    def _read(self, name: str, unit: str) -> Values:
        """What was typed for a name, within its limits."""
        values = np.array(parse_list(self.typed[name], unit))
        figure = self.stage.figures.get(name)
        for v in values if figure is not None and figure.kind == "given" else ():
            if (figure.low is not None and v < figure.low) or (figure.high is not None and v > figure.high):  # type: ignore[union-attr]
                low, high = (show(x, unit) if x is not None else "any" for x in (figure.low, figure.high))  # type: ignore[union-attr]
                raise AloneError(f"{figure.title} ({name}): {show(float(v), unit)} is outside {low} to {high}")  # type: ignore[union-attr]
        return values

    def _work(self, name: str) -> Values | None:
        unit = self._unit(name)
        if name in self.typed:
            values = self._read(name, unit)
            self.used[name] = ", ".join(show(float(v), unit) for v in values)
            return values
        figure = self.stage.figures.get(name)
        if figure is None:
            word = VOCABULARY.get(name)
            if name in CORNER_DEFAULTS:
                return np.array([CORNER_DEFAULTS[name]])
            self.missing[name] = Missing(word.sentence if word else "read from another stage", unit)
            return None
        if figure.kind == "given":
            return np.array([float(figure.default or 0.0)])
        if figure.kind == "published":
            return self._published(figure)
        return self._computed(figure)

    def _no_surge(self) -> bool:
        surge = self.value("surge")
        return surge is not None and not np.any(surge > 0)

    def _collected_unit(self, collector: Every) -> str:
        """The unit of what is collected, as any stage makes it."""
        return next((s.figures[collector.name].unit for s in STAGES.values() if collector.name in s.figures), "")

    def _published(self, figure: Figure) -> Values | None:
        choice = self.stage.choices.get(figure.owner)
        if choice is None:
            self.missing[figure.name] = Missing(figure.sentence, figure.unit)
            return None
        option = self.typed.get(figure.owner, choice.default)
        if option not in choice.options:
            raise AloneError(f"{figure.owner}: {option!r} is not one of {', '.join(choice.options)}")
        self.used[figure.owner] = option
        return np.array([choice.options[option].numbers[figure.name]])

    def _computed(self, figure: Figure) -> Values | None:
        collectors = figure.collectors
        args: list[Values | None] = []
        for p in figure.params:
            if p in collectors:
                if p not in self.typed:
                    self.missing[p] = Missing(f"sum of {collectors[p].name.replace('_', ' ')} over the line-up", self._collected_unit(collectors[p]))
                    args.append(None)
                    continue
                unit = self._collected_unit(collectors[p])
                values = np.array(parse_list(self.typed[p], unit))
                self.used[p] = ", ".join(show(float(v), unit) for v in values)
                args.append(values)
            elif p in SURGE_ONLY and self._no_surge():
                args.append(np.array([0.0]))  # nothing starts, so no seconds of a start are asked for
            else:
                args.append(self.value(p))
        self._args[figure.name] = args
        if any(a is None for a in args) or figure.fn is None:
            return None
        context.causes.clear()
        with np.errstate(all="ignore"):
            out = np.atleast_1d(np.asarray(figure.fn(*args), dtype=float))
        causes = list(context.causes)
        context.causes.clear()
        if causes and np.isnan(out).all():
            cause = causes[0]
            raise AloneError(f"{figure.name}: " + cause.sentence.format(**{k: f"{float(np.atleast_1d(v)[0]):.4g}" for k, v in cause.numbers.items()}))
        return out
