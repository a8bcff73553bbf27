"""The line-ups: every module in this folder with a `LINE_UP` is one. A newcomer adds a file."""

import pkgutil
from dataclasses import replace
from functools import lru_cache
from importlib import import_module

from rhombos.core.circuit.whole import joined
from rhombos.core.graph.declare import Stage
from rhombos.core.graph.errors import Unknown
from rhombos.core.graph.places import LineUp, Place, alone
from rhombos.core.lineups.tools import TOOLS

ALONE = "_alone"
"""Behind the name of a stage: the line-up in which it stands alone."""
TO = "_to_"
"""Between the name of a line-up and a place of its path: the line-up cut behind that place, what it fed being givens."""
FIRST = "ferrite_push_pull"
"""The module whose line-up a new project begins with."""


def _found() -> dict[str, LineUp]:
    names = sorted((m.name for m in pkgutil.iter_modules(__path__)), key=lambda name: (name != FIRST, name))
    modules = [import_module(f"{__name__}.{name}") for name in names]
    found = {m.LINE_UP.id: m.LINE_UP for m in modules if hasattr(m, "LINE_UP")}
    for line in found.values():
        # A circuit that leaves a joint open is no circuit of the line-up's.
        joined(line)
    return found


LINE_UPS: dict[str, LineUp] = _found()
TITLES = {id: line.title for id, line in LINE_UPS.items()}
STAGES: dict[str, Stage] = {s.name: s for line in LINE_UPS.values() for s in [*(p.stage for p in line.places), *([line.row] if line.row else [])]}
STAGES |= {stage.name: stage for stage in TOOLS}


@lru_cache(maxsize=64)
def lineup(id: str, loads: tuple[str, ...] = ("load_1",)) -> LineUp:
    """The line-up `id` with one place for each load row."""
    if id in LINE_UPS:
        return LINE_UPS[id].with_loads(loads)
    stage = id.removesuffix(ALONE)
    if id.endswith(ALONE) and stage in STAGES:
        return replace(alone(STAGES[stage]), id=id)
    whole, _, last = id.partition(TO)
    if whole in LINE_UPS and id in cuts(whole):
        line = LINE_UPS[whole]
        return replace(line.cut(last=last), id=id, title=f"{line.title}: up to {line.place(last).shown.lower()}", sample=None)
    raise Unknown(f"no line-up {id!r}; there are {', '.join(LINE_UPS)}")


def exists(id: str) -> bool:
    """Whether there is such a line-up, such a part of one, or such a stage that stands alone."""
    whole = id.partition(TO)[0]
    return id in LINE_UPS or (id.endswith(ALONE) and id.removesuffix(ALONE) in STAGES) or (whole in LINE_UPS and id in cuts(whole))


def cuts(id: str) -> dict[str, Place]:
    """The parts of a line-up by their names, each with the last of its places."""
    return {f"{id}{TO}{place.name}": place for place in LINE_UPS[id].path[:-1]}
