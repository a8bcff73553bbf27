"""The command line: solve, sweep, demo, figures, work, schema, interface, start."""

import json
import sys
from pathlib import Path
from typing import Annotated, Any, NoReturn

import numpy as np
import typer

from rhombos.catalogue.loader import load
from rhombos.core.alone import CORNER, AloneError, work_alone
from rhombos.core.graph.declare import placeholders
from rhombos.core.graph.errors import GraphError
from rhombos.core.graph.model import Model
from rhombos.core.lineups import ALONE, STAGES, lineup
from rhombos.core.units import QuantityError, parse, show, shown_unit, si_unit, written
from rhombos.demo.shelf import DEMOS
from rhombos.formats.curve import curve, movable
from rhombos.formats.design import Design, DesignError, read_design, schema, write_design
from rhombos.formats.sheet.explain import checks_json, figure_json, pick_json

app = typer.Typer(add_completion=False, no_args_is_help=True, help="Rhombos: from an inverter's brief to a proven box.")
Json = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def _out(data: Any) -> None:
    typer.echo(json.dumps(data, ensure_ascii=False, indent=2, allow_nan=False))


def _fail(message: str) -> NoReturn:
    typer.echo(message, err=True)
    raise typer.Exit(2)


def _design(file: Path) -> Design:
    try:
        return read_design(file.read_text(encoding="utf-8"))
    except OSError as error:
        _fail(f"{file}: {error.strerror}")
    except (DesignError, UnicodeDecodeError) as error:
        _fail(f"{file}: {error}")


@app.command()
def sweep(
    file: Path,
    given: Annotated[str, typer.Argument(help="PLACE.FIGURE of a given")],
    start: Annotated[str, typer.Argument(help="Its first value, as people type it.")],
    end: Annotated[str, typer.Argument(help="Its last value.")],
    count: Annotated[int, typer.Option(min=2, max=1_000_000, help="How many values, evenly apart.")] = 101,
    figure: Annotated[
        list[str] | None,
        typer.Option(help="PLACE.FIGURE to tell, as often as wanted; without it, all that the given moves, or with --resized all that is worked out."),
    ] = None,
    corner: Annotated[list[str] | None, typer.Option(help="Corner to tell, as often as wanted; without it, all.")] = None,
    resized: Annotated[bool, typer.Option("--resized", help="Decide the build anew for every value, in place of holding it.")] = False,
) -> None:
    """Figures of a design over one of its givens, as comma-separated values (SI)."""
    design = _design(file)
    model = design.model()
    sheet = model.solve(design.inputs())
    try:
        unit = movable(sheet, given).unit
        values = np.linspace(parse(start, unit), parse(end, unit), count)
        worked = [n.key for n in sheet.wiring.nodes if n.figure.kind in ("build", "operation")] if resized else model.moved_with(given, sheet.pinned)
        for line in curve(model, sheet, given, values, figure or worked, corner or sheet.corners.ids, resized=resized):
            typer.echo(line)
    except (QuantityError, GraphError) as error:
        _fail(str(error))


@app.command()
def solve(file: Path, as_json: Json = False) -> None:
    """Solve a design file: every figure by stage.name, a value per corner, and the verdicts."""
    design = _design(file)
    model = design.model()
    sheet = model.solve(design.inputs())
    keys = [n.key for n in sheet.wiring.nodes if n.figure.kind != "pick" and n.place != "corner"]
    checks = checks_json(sheet)
    if as_json:
        return _out(
            {
                "title": design.title,
                "lineup": design.lineup,
                "corners": list(sheet.corners.ids),
                "figures": {k: figure_json(sheet, k) for k in keys},
                "picks": {p.key: pick_json(model, sheet, p.key) for p in model.wiring.picks},
                "checks": checks,
            }
        )
    typer.echo(f"{design.title} · {design.lineup}")
    typer.echo("corners: " + " | ".join(c.title for c in sheet.corners.corners))
    for key in keys:
        node = sheet.node(key)
        if node.figure.kind in ("build", "operation"):
            typer.echo(f"{key:42} " + " | ".join(show(float(v), node.figure.unit) for v in sheet.value(key)))
    for wired in model.wiring.picks:
        pick = pick_json(model, sheet, wired.key)
        typer.echo(f"{wired.key:42} {pick['quantity']} × {pick['part']}" + ("" if pick["fits"] else "  does not fit"))
    for key, would_be in sheet.held_decisions().items():
        unit = sheet.node(key).figure.unit
        typer.echo(f"held     {key:36} at {show(float(sheet.value(key)[0]), unit)}; its own formula gives {show(would_be, unit)}")
    for key, check in checks.items():
        typer.echo(f"{check['verdict']:8} {key:36} {check['sentence']}")


@app.command()
def demo(name: Annotated[str | None, typer.Argument(help="A demo to write as a design file.")] = None, as_json: Json = False) -> None:
    """List the demos, or write one as a design file to standard output."""
    if name is None:
        rows = [{"name": d.name, "title": d.title, "sentence": d.sentence} for d in DEMOS.values()]
        return _out(rows) if as_json else typer.echo("\n".join(f"{r['name']:20} {r['sentence']}" for r in rows))
    if name not in DEMOS:
        _fail(f"no demo {name!r}; there are {', '.join(DEMOS)}")
    typer.echo(write_design(DEMOS[name].design()), nl=False)


@app.command()
def figures(as_json: Json = False) -> None:
    """Every figure: stage, name, symbol, unit, formula, source."""
    rows = [
        {
            "stage": s.name,
            "name": f.name,
            "kind": f.kind,
            "symbol": f.symbol,
            "unit": si_unit(f.unit),
            "typed_in": shown_unit(f.unit),
            "formula": f.tex,
            "needs": list(placeholders(f.tex, f.params)),
            "source": f.source,
            "sentence": f.sentence,
        }
        for s in STAGES.values()
        for f in s.figures.values()
    ]
    if as_json:
        return _out(rows)
    for r in rows:
        typer.echo(f"{r['stage']}.{r['name']:32} [{r['unit'] or '1'}] {r['symbol']}  {r['formula']}  ({r['source']})")


@app.command()
def work(
    figure: Annotated[str, typer.Argument(help="STAGE.FIGURE")],
    values: Annotated[list[str] | None, typer.Argument(help="name=value …")] = None,
    corner: Annotated[str, typer.Option(help="The corner to speak for.")] = CORNER,
    as_json: Json = False,
) -> None:
    """Work out one figure of a stage alone: what is given is taken, all else at its usual value.

    Values are read as people type them; several stand apart by "; ".
    """
    stage, _, name = figure.partition(".")
    if stage not in STAGES:
        _fail(f"no stage {stage!r}; there are {', '.join(STAGES)}")
    try:
        worked = work_alone(Model(lineup(stage + ALONE), load()), name, dict(_pair(v) for v in values or []), corner)
    except (AloneError, QuantityError, GraphError) as error:
        _fail(str(error))
    if as_json:
        return _out(
            {
                "figure": figure,
                "unit": si_unit(worked.unit),
                "corner": worked.corner,
                "values": [float(v) if np.isfinite(v) else None for v in worked.values],
                "used": worked.used,
                "usual": worked.usual,
                "unused": list(worked.unused),
            }
        )
    if worked.usual:
        typer.echo("at usual values: " + ", ".join(f"{k} {v}" for k, v in worked.usual.items()), err=True)
    if worked.unused:
        typer.echo(f"not needed for it: {', '.join(worked.unused)}", err=True)
    typer.echo(f"{figure} = " + " | ".join(show(float(v), worked.unit) for v in worked.values))


def _pair(text: str) -> tuple[str, str]:
    name, sign, value = text.partition("=")
    if not sign:
        raise AloneError(f"{text!r} is not name=value")
    return name.strip(), value.strip()


@app.command(name="schema")
def print_schema() -> None:
    """The JSON Schema of the design file."""
    _out(schema())


@app.command()
def interface(units: Annotated[bool, typer.Option("--units", help="The table of written numbers instead.")] = False) -> None:
    """What the page is built against: the interface as OpenAPI, or the table of units."""
    from rhombos.api.app import make_app
    from rhombos.store.repository import Store

    # Nothing is asked of the store, so none need be there.
    _out(written() if units else make_app(Store("mysql+pymysql://nobody@127.0.0.1/none")).openapi())


@app.command()
def start() -> None:
    """Start the database and the application on loopback, and print the address."""
    from rhombos.launch.run import main

    raise typer.Exit(main())


if __name__ == "__main__":
    sys.exit(app())
