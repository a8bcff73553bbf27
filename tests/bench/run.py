"""`make bench`: a table, and build/bench.json. Ratios are taken within one run; the machine is named with the table."""

import json
import os
import platform
import statistics
import tempfile
import time
import urllib.request
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp

from rhombos.core.circuit.drawn import looked_at, probe
from rhombos.core.circuit.output.circuit import CHOKE
from rhombos.core.circuit.output.period import solve
from rhombos.core.circuit.output.slots import slots_of
from rhombos.core.circuit.scope import output_period, setting_from
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.formulas.numeric import UNKNOWN, Values
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.pictures import Seen
from rhombos.core.graph.remedies import remedies
from rhombos.core.graph.seek import goal_seek
from rhombos.core.graph.sensitivity import sensitivity
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.sweep import sweep, sweeps
from rhombos.core.lineups import LINE_UPS
from rhombos.core.modulation.sine_pwm import sine_legs
from rhombos.core.stages.source.thresholds import extreme
from rhombos.demo import tern_islet
from rhombos.formats.design import write_design
from rhombos.launch.database import free_port
from rhombos.launch.serve import prepare
from tests.bench.crowd import delay, rate
from tests.bench.page import measured
from tests.bench.synthetic import synthetic
from tests.campaign.briefs import briefs
from tests.chaos.starts import cut
from tests.conftest import ROOT, Running
from tests.core.rectifiers import half_wave, settled_by_scipy

Row = dict[str, Any]


def timed(work: Callable[[], object], runs: int) -> list[float]:
    """Seconds of each run, after two that warm up."""
    work()
    work()
    out = []
    for _ in range(runs):
        begin = time.perf_counter()
        work()
        out.append(time.perf_counter() - begin)
    return out


def row(name: str, value: float, unit: str, target: str) -> Row:
    """A line of the table; `target` is "<= x" or ">= x", or "" for a figure without one."""
    sign, _, limit = target.partition(" ")
    holds = True if not target else (value <= float(limit) if sign == "<=" else value >= float(limit))
    return {"name": name, "value": round(value, 3), "unit": unit, "target": target, "holds": holds}


def whole_sheets(model: Model, sheet: Sheet, key: str, values: Values) -> float:
    """Seconds for every figure that a given moves, at each of many values, the build held."""
    goals = model.moved_with(key, sheet.pinned)
    asked = model.sweeping(sheet.pinned, len(sheet.corners.ids), (model.wiring.index[key],), tuple(model.wiring.index[goal] for goal in goals))
    assert asked is not None, "the question can be written down for the kernels"
    asked.fuse()
    return statistics.median(timed(lambda: sum(len(chunk) for chunk in sweeps(model, sheet, key, values, goals)), 5))


def sheets() -> list[Row]:
    """Held and re-sized sheets of the demo, and a sweep against a loop."""
    design = tern_islet.first()
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(inputs)
    build = model.build_of(sheet)
    watts = iter(np.linspace(300, 400, 1000))

    def moved() -> Inputs:
        return inputs.with_given("load_3.rated_power", float(next(watts)))

    held = statistics.median(timed(lambda: model.solve(moved(), build=build), 60))
    sized = statistics.median(timed(lambda: model.solve(moved()), 40))
    values = np.linspace(200, 400, 20_000)
    key, goal = "load_3.rated_power", "totals.efficiency"
    asked = model.sweeping(sheet.pinned, len(sheet.corners.ids), (model.wiring.index[key],), (model.wiring.index[goal],))
    assert asked is not None, "the question can be written down for the kernels"
    asked.fuse()
    once = statistics.median(timed(lambda: sweep(model, sheet, key, values, goal), 5))
    together = sweep(model, sheet, key, values, goal)
    begin = time.perf_counter()
    for k in range(0, 20_000, 100):
        alone = model.solve(inputs.with_given("load_3.rated_power", float(values[k])), build=build)
        np.testing.assert_allclose(alone.value("totals.efficiency"), together[k], rtol=1e-7)
    loop = (time.perf_counter() - begin) * 100
    return [
        row("sheet_held", held * 1e3, "ms", "<= 0.5"),
        row("sheet", sized * 1e3, "ms", "<= 2"),
        row("sweep_ratio", loop / once, "x", ">= 40"),
        row("sweep_rate", 20_000 / once, "sheets/s", ">= 200000"),
        row("sweep_sheets", 20_000 / whole_sheets(model, sheet, key, values), "sheets/s", ">= 60000"),
    ]


def large() -> list[Row]:
    """A line-up of the size that the largest are to have."""
    model = synthetic()
    build = model.build_of(model.solve(Inputs()))
    watts = iter(np.linspace(90, 130, 1000))

    def moved() -> Inputs:
        return Inputs({"heater.wanted_power": float(next(watts))})

    held = statistics.median(timed(lambda: model.solve(moved(), build=build), 60))
    sized = statistics.median(timed(lambda: model.solve(moved()), 40))
    return [row("large_held", held * 1e3, "ms", "<= 3"), row("large_sized", sized * 1e3, "ms", "<= 10")]


def first_answers() -> list[Row]:
    """The campaign's sheets, the third time, once parts and formulas of every line-up are written down; those with a corner that is unknown against the others."""
    solves = [partial(d.model().solve, d.inputs()) for brief in briefs(1, 100) for d in (brief.model_copy(update={"lineup": id}) for id in LINE_UPS)]
    unknown = [any((mask == UNKNOWN).any() for mask in solve_one().masks.values()) for solve_one in solves]
    seconds = np.array([timed(solve_one, 1)[0] for solve_one in solves])
    known = np.median(seconds[~np.array(unknown)])
    return [
        row("campaign_p95", 1e3 * float(np.quantile(seconds, 0.95)), "ms", "<= 15"),
        row("unknown_ratio", float(np.median(seconds[unknown]) / known), "x", "<= 2"),
    ]


def questions() -> list[Row]:
    """What is asked of a sheet: what moves a figure, what mends a stage, a comparison of line-ups, a sheet where nothing stands."""
    design, strained = tern_islet.first(), tern_islet.second()
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(inputs)
    second = strained.model()
    failing = second.solve(strained.inputs())
    others = [design.model_copy(update={"lineup": id}) for id in LINE_UPS if LINE_UPS[id].sample is LINE_UPS[design.lineup].sample]
    beyond = inputs.with_given("load_3.rated_power", 12000.0)
    watts = np.linspace(200, 400, 1000)[:, None]

    def median(work: Callable[[], object], runs: int) -> float:
        return statistics.median(timed(work, runs))

    def seek() -> object:
        warmer = sheet.at("bridge.junction_temperature", "nominal_full") + 5
        return goal_seek(model, inputs, "bridge.junction_temperature", "nominal_full", warmer, "bridge.pad_resistance")

    known = median(lambda: model.solve(inputs), 20)
    resized = median(lambda: model.solve(inputs.with_given("load_3.rated_power", watts)), 2)
    return [
        row("beyond_ratio", median(lambda: model.solve(beyond), 5) / known, "x", ""),
        row("resized_rate", 1000 / resized, "sheets/s", ">= 3000"),
        row("sensitivity", 1e3 * median(lambda: sensitivity(model, sheet, "totals.efficiency", "nominal_full"), 3), "ms", "<= 25"),
        row("goal_seek", 1e3 * median(seek, 3), "ms", "<= 40"),
        row("remedies", 1e3 * median(lambda: remedies(second, failing, "transformer"), 3), "ms", "<= 300"),
        row("compare", 1e3 * median(lambda: [d.model().solve(d.inputs()) for d in others], 10), "ms", "<= 10"),
    ]


def small() -> list[Row]:
    """A divider over six tolerances, and every single fault of a feedback path with what acts on it."""
    design = tern_islet.first()
    model = design.model()
    sheet = model.solve(design.inputs())
    place, corner = model.wiring.lineup.place("feedback"), sheet.corners.ids.index("nominal_full")
    (drawn,) = [p for p in place.stage.pictures if p.title == "One part open or shorted"]
    divider = statistics.median(timed(lambda: extreme(1, (2.5, 80e3, 10e3, 200e3), 5.0, (0.01, 0.01, 0.003, 0.02, 0.0005)), 200))
    table = statistics.median(timed(lambda: drawn.fn(Seen(model, sheet, place, corner)), 30))
    return [row("divider_worst_case", divider * 1e3, "ms", "<= 1"), row("fault_table", table * 1e3, "ms", "<= 50")]


def circuits() -> list[Row]:
    """The demo's output period with dead time on its link, against one cycle by an adaptive solver restarted at every slot."""
    design = tern_islet.first()
    sheet = design.model().solve(design.inputs())
    setting = setting_from(sheet, "nominal_full")
    found = output_period(setting)
    seen, index = found.seen, found.index
    made, settled = seen.circuit, seen.solved
    slots = slots_of(sine_legs(index, setting.frequency, setting.carrier, unipolar=True, natural=setting.natural), 1 / setting.frequency, setting.dead_time)
    guess = np.where(np.interp(slots.begins, settled.begins, settled.states[:, CHOKE]) >= 0, 1, -1)
    ours = statistics.median(timed(lambda: solve(made, slots, guess), 30))
    x = settled.states[0]
    begin = time.perf_counter()
    for k, length in zip(settled.which, settled.lengths, strict=True):
        x = solve_ivp(lambda _, y, m=settled.matrices[k]: m @ y, (0, length), x, method="RK45", rtol=1e-8, atol=1e-10).y[:, -1]
    adaptive = time.perf_counter() - begin
    assert np.abs(x[CHOKE] - settled.states[0, CHOKE]) < 1e-3, "both repeat"
    return [row("output_period", ours * 1e3, "ms", "<= 6"), row("output_ratio", adaptive / ours, "x", "")]


def probes() -> list[Row]:
    """Circuits with diodes: what repeats itself, against marching there; and the traces of the demo's stages."""
    rectifier = half_wave(1000.0, 4.7e-3, 20.0)
    ours = statistics.median(timed(lambda: repeat(rectifier, [], 0.02), 20))
    begin = time.perf_counter()
    value, _ = settled_by_scipy(rectifier, 1e-6)
    marching = time.perf_counter() - begin
    assert abs(repeat(rectifier, [], 0.02).end[0] / value - 1) < 1e-3
    design = tern_islet.first()
    model = design.model()
    sheet = model.solve(design.inputs())

    def seen_at(place: str, corner: int) -> Seen:
        return Seen(model, sheet, model.wiring.lineup.place(place), corner)

    full = sheet.corners.ids.index("nominal_full")

    def run(*corners: int) -> float:
        over = [seen_at("front", corner) for corner in corners]
        title = over[0].place.stage.looks[0].title
        return 1e3 * statistics.median(timed(lambda: [looked_at(seen, title) for seen in over], 10))

    def looked(place: str, look: int) -> float:
        seen = seen_at(place, full)
        declared = seen.place.stage.looks[look]
        return 1e3 * statistics.median(timed(lambda: probe(seen, looked_at(seen, declared.title), list(declared.probes)), 10))

    return [
        row("rectifier_periodic", ours * 1e3, "ms", "<= 20"),
        row("rectifier_ratio", marching / ours, "x", ">= 100"),
        row("front_period", run(full), "ms", "<= 5"),
        row("front_corners", run(*range(9)), "ms", "<= 40"),
        row("probe_front", looked("front", 0), "ms", ""),
        row("probe_rectifier", looked("rectifier", 0), "ms", ""),
        row("probe_precharge", looked("precharge", 0), "ms", "<= 5"),
        row("probe_output", looked("filter", 0), "ms", ""),
    ]


def crowds() -> list[Row]:
    """Thirty-two users without pause, of one server process and of as many as there are cores; and what a slow question costs another."""
    rates, late = {}, 0.0
    for count in (1, os.cpu_count() or 1):
        with tempfile.TemporaryDirectory() as folder:
            Path(folder).chmod(0o755)
            running = Running(Path(folder) / "home", free_port())
            os.environ["RHOMBOS_WORKERS"] = str(count)
            try:
                running.start()
                rate(running.port, 4, 4)
                rates[count] = statistics.median(rate(running.port, 32, 5) for _ in range(3))
                late = max(delay(running.port, 4) for _ in range(3))
            finally:
                del os.environ["RHOMBOS_WORKERS"]
                running.stop()
    return [row("crowd_ratio", rates[max(rates)] / rates[1], "x", ">= 1.8"), row("slow_question_delay", 1e3 * late, "ms", "<= 30")]


def served() -> list[Row]:
    """The running application: start, solve over loopback, the page, saving a draft, recovery after everything was killed."""
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        running = Running(Path(folder) / "home", free_port())
        running.start()
        running.stop()
        begin = time.perf_counter()
        running.start()
        start = time.perf_counter() - begin
        try:
            # The first ones meet what is still being made ready.
            solves = [_solve(running.base, 300 + 0.1 * k) for k in range(90)]
            saves = _saves(running.base)
            seen = measured(running.base)
        finally:
            running.stop()
        recoveries = [_recovery(running) for _ in range(5)]
    return [
        row("second_start", start, "s", "<= 6"),
        row("api_solve_p95", _p95(solves[30:]) * 1e3, "ms", "<= 20"),
        row("draft_save_p95", _p95(saves[5:]) * 1e3, "ms", "<= 12"),
        row("recovery_p95", _p95(recoveries), "s", "<= 4"),
        row("edit_to_paint_stage_p95", seen["stage"], "ms", "<= 110"),
        row("edit_to_paint_brief_p95", seen["brief"], "ms", "<= 130"),
        row("edit_to_paint_scope_p95", seen["scope"], "ms", "<= 130"),
        row("probe_to_paint_p95", seen["probe"], "ms", "<= 150"),
        row("drawn_anew", seen["drawn"], "components", "<= 60"),
        row("shelf_weight", seen["shelf_weight"], "kB gzip", "<= 200"),
        row("stage_weight", seen["stage_weight"], "kB gzip", "<= 330"),
        row("memory_after_500_edits", seen["memory"], "MB", "<= 40"),
    ]


def _saves(base: str) -> list[float]:
    """Seconds of saving a draft over loopback, each from the version before."""
    design = json.loads(write_design(tern_islet.first()))
    made = _sent(f"{base}/api/projects", {"title": "Saves", "design": design})
    version, took = 1, []
    for k in range(80):
        design["givens"]["load_3.rated_power"] = 300.0 + k
        begin = time.perf_counter()
        version = _sent(f"{base}/api/projects/{made['id']}/draft", {"version": version, "design": design}, "PUT")["version"]
        took.append(time.perf_counter() - begin)
    return took


def _sent(url: str, body: object, method: str = "POST") -> dict[str, Any]:
    request = urllib.request.Request(url, data=json.dumps(body).encode(), headers={"content-type": "application/json"}, method=method)
    with urllib.request.urlopen(request) as answer:
        return json.load(answer)  # type: ignore[no-any-return]


def _recovery(running: Running) -> float:
    """Seconds of a start after server and database were killed at once."""
    running.start()
    process = running.process
    assert process is not None
    process.kill()
    cut(process, running.home)
    begin = time.perf_counter()
    running.start()
    took = time.perf_counter() - begin
    running.stop()
    return took


def _solve(base: str, watts: float) -> float:
    design = json.loads(write_design(tern_islet.first()))
    design["givens"]["load_3.rated_power"] = watts
    request = urllib.request.Request(f"{base}/api/solve", data=json.dumps({"design": design}).encode(), headers={"content-type": "application/json"})
    begin = time.perf_counter()
    with urllib.request.urlopen(request) as answer:
        answer.read()
    return time.perf_counter() - begin


def _p95(values: list[float]) -> float:
    return float(np.quantile(values, 0.95))


def main() -> None:
    """Run all, print the table, write build/bench.json. What stays for good is set aside first, as a server does."""
    prepare()
    rows = [*sheets(), *large(), *first_answers(), *questions(), *small(), *circuits(), *probes(), *served(), *crowds()]
    print(f"\n{platform.machine()}, {os.cpu_count()} processors, Python {platform.python_version()}, NumPy {np.__version__}\n")
    for r in rows:
        print(f"{r['name']:22} {r['value']:12g} {r['unit']:10} {r['target']:10} {'holds' if r['holds'] else 'MISSED'}")
    out = ROOT / "build" / "bench.json"
    out.parent.mkdir(exist_ok=True)
    out.write_text(json.dumps(rows, indent=2) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
