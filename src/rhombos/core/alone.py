"""A stage alone: one figure worked out from whatever it hangs on that is given (givens, ports, intermediate figures)."""

from dataclasses import dataclass

import numpy as np

from rhombos.core.graph.declare import Figure, Stage
from rhombos.core.graph.formula_tex import fill, symbol_of, tex_number
from rhombos.core.graph.numeric import Values, context
from rhombos.core.lineups import STAGES
from rhombos.core.units import parse, show
from rhombos.core.vocabulary import VOCABULARY


class AloneError(ValueError):
    """The figure is not there, or a name was given that it does not hang on."""


@dataclass(frozen=True)
class Worked:
    """Values (one, or one per corner), their unit, what is still missing and what was used.

    `formula` and `numbers` are TeX, `numbers` empty until everything is there; it speaks for the first corner.
    """

    values: list[float]
    unit: str
    missing: dict[str, str]
    used: dict[str, str]
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
    value = worker.value(name)
    unknown = [k for k in typed if k not in worker.used]
    if unknown and not worker.missing:
        raise AloneError(f"{wanted} does not hang on {', '.join(unknown)}; it hangs on {', '.join(sorted(worker.asked))}")
    values = [] if value is None or worker.missing else [float(v) for v in np.atleast_1d(value).reshape(-1)]
    figure = stage.figures[name]
    numbers = worker.numbers(figure)
    return Worked(
        values,
        figure.unit,
        worker.missing,
        worker.used,
        formula=fill(figure.tex, {p: worker.symbol(p) for p in figure.params}),
        numbers=fill(figure.tex, numbers, times=True) if values and numbers else "",
        sentence=figure.sentence,
        source=figure.source,
    )


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


class _Worker:
    def __init__(self, stage: Stage, typed: dict[str, str]) -> None:
        self.stage = stage
        self.typed = typed
        self.used: dict[str, str] = {}
        self.missing: dict[str, str] = {}
        self.asked: set[str] = set()
        self._memo: dict[str, Values | None] = {}
        self._args: dict[str, list[Values | None]] = {}

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

    def _work(self, name: str) -> Values | None:
        self.asked.add(name)
        unit = self._unit(name)
        if name in self.typed:
            values = np.array([parse(part, unit) for part in self.typed[name].split(",")])
            self.used[name] = ", ".join(show(float(v), unit) for v in values)
            return values
        figure = self.stage.figures.get(name)
        if figure is None:
            word = VOCABULARY.get(name)
            self.missing[name] = f"{word.sentence if word else 'read from another stage'} [{unit or '1'}]"
            return None
        if figure.kind == "given":
            return np.array([float(figure.default or 0.0)])
        if figure.kind == "published":
            return self._published(figure)
        return self._computed(figure)

    def _published(self, figure: Figure) -> Values | None:
        choice = self.stage.choices.get(figure.owner)
        if choice is None:
            self.missing[figure.name] = f"{figure.sentence} [{figure.unit or '1'}]"
            return None
        option = self.typed.get(figure.owner, choice.default)
        self.asked.add(figure.owner)
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
                    self.missing[p] = f"sum of {collectors[p].name.replace('_', ' ')} over the line-up"
                    args.append(None)
                    continue
                values = np.array([parse(part, "") for part in self.typed[p].split(",")])
                self.used[p] = self.typed[p]
                args.append(values)
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
