"""What does not change with the numbers: the stages as declared, and a line-up with its places."""

import hashlib
import json
from functools import lru_cache

import orjson

from rhombos.core.comparison import corner_at
from rhombos.core.graph.declare import Choice, Figure, Stage
from rhombos.core.graph.grouping import headings
from rhombos.core.graph.model import Model
from rhombos.core.graph.nodes import Node
from rhombos.core.graph.places import Place
from rhombos.core.graph.shows import Field
from rhombos.core.graph.telling import has, hazards, joints, key_of, telling
from rhombos.core.lineups import STAGES
from rhombos.core.units import shown_unit
from rhombos.formats.sheet import shapes


@lru_cache(maxsize=1)
def stages_json() -> bytes:
    """Every stage as declared, with the hash of this very text."""
    stages = {name: _stage(stage) for name, stage in STAGES.items()}
    return orjson.dumps({"hash": hashlib.sha256(json.dumps(stages, sort_keys=True).encode()).hexdigest()[:16], "stages": stages})


@lru_cache(maxsize=1)
def stages_hash() -> str:
    """The hash that names the stages as they are declared now."""
    return str(orjson.loads(stages_json())["hash"])


def figure_meta(figure: Figure) -> shapes.FigureMeta:
    """A figure as its stage declares it."""
    return {
        "name": figure.name,
        "kind": figure.kind,
        "title": figure.title,
        "symbol": figure.symbol,
        "unit": figure.unit,
        "shown_unit": shown_unit(figure.unit),
        "sentence": figure.sentence,
        "low": figure.low,
        "high": figure.high,
        "default": figure.default if isinstance(figure.default, float) else None,
        "judgement": figure.judgement,
        "source": figure.source,
        "owner": figure.owner,
        "group": figure.group,
        "whole": figure.whole,
    }


def _choice(choice: Choice) -> shapes.ChoiceMeta:
    return {"title": choice.title, "sentence": choice.sentence, "default": choice.default, "options": {k: o.title for k, o in choice.options.items()}}


def _stage(stage: Stage) -> shapes.StageMeta:
    group, order = headings(stage)
    return {
        "title": stage.title,
        "path": stage.path,
        "groups": order,
        "figures": {name: {**figure_meta(f), "group": group[name]} for name, f in stage.figures.items()},
        "checks": {name: {"title": c.title, "why": c.why, "harm": c.harm} for name, c in stage.checks.items()},
        "picks": {name: {"title": p.title, "sentence": p.sentence, "type": p.part_type} for name, p in stage.picks.items()},
        "choices": {name: _choice(c) for name, c in stage.choices.items()},
    }


def lineup_json(model: Model) -> shapes.LineUpMeta:
    """A line-up with its places, and the order in which the columns of its sheets stand."""
    wiring = model.wiring
    lineup = wiring.lineup
    own = {p.name for p in lineup.places}
    shown = [n for n in wiring.nodes if n.place != "corner"]
    return {
        "id": lineup.id,
        "title": lineup.title,
        "stages": stages_hash(),
        "places": [_place(model, p) for p in lineup.places],
        "order": [n.key for n in shown],
        "extra": {n.key: _extra(n) for n in shown if n.place not in own or n.figure.kind == "collected"},
        "same": {alias: key for alias, key in wiring.same.items() if not key.startswith(alias.split(".")[0] + ".")},
        "checks": [
            {"key": c.key, "place": c.place, "name": c.check.name, "demand": wiring.nodes[c.demand].key, "capability": wiring.nodes[c.capability].key}
            for c in wiring.checks
        ],
        "picks": [{"key": p.key, "place": p.place, "name": p.pick.name, "published": [wiring.nodes[i].key for _, i in p.published]} for p in wiring.picks],
        "joints": [_joint(j) for j in joints(wiring)],
        "corners": [{"id": c.id, "title": c.title, "lasts": bool(lasts)} for c, lasts in zip(lineup.corners.corners, lineup.corners.lasting, strict=True)],
        "first": lineup.corners.ids.index(lineup.corners.first or lineup.corners.ids[0]),
        "fields": [_field(model, p, f) for p in lineup.places for f in p.stage.fields],
        "sums": _sums(model),
        "views": sorted({view for p in lineup.places for view in p.stage.views}),
    }


def _field(model: Model, place: Place, field: Field) -> shapes.Field:
    told: shapes.Field = {"group": field.group, "key": key_of(model.wiring, place, field.name), "at_once": field.at_once, "counted": None}
    if field.by:
        choice = place.stage.choices[field.by]
        unit = choice.columns[field.each][0]
        told["counted"] = {
            "title": field.sum,
            "unit": unit,
            "by": key_of(model.wiring, place, field.by),
            "each": {name: option.numbers[field.each] for name, option in choice.options.items()},
        }
    return told


def _sums(model: Model) -> list[shapes.Sum]:
    lineup = model.wiring.lineup
    return [
        {"title": s.title, "key": key_of(model.wiring, p, s.figure), "group": s.group, "corner": corner_at(lineup.corners, s.at)}
        for p in lineup.places
        for s in p.stage.sums
        if has(model.wiring, p, s.figure)
    ]


def _extra(node: Node) -> shapes.Extra:
    return {**figure_meta(node.figure), "place": node.place}


def _place(model: Model, place: Place) -> shapes.PlaceMeta:
    return {
        "name": place.name,
        "title": place.shown,
        "stage": place.stage.name,
        "section": place.section,
        "host": place.host,
        "path": place.stage.path,
        "telling": telling(model.wiring, place),
        "hazards": [{"kind": h["kind"], "figure": h["figure"], "above": h["above"]} for h in hazards(model.wiring, place)],
        "pictures": [p.title for p in place.stage.pictures],
        "schematic": place.stage.schematic is not None,
    }


def _joint(joint: dict[str, str]) -> shapes.Joint:
    return {
        "frm": joint["from"],
        "to": joint["to"],
        "kind": joint["kind"],
        "voltage": joint["voltage"],
        "current": joint["current"],
        "sign": joint["sign"],
        "tail": joint["tail"],
    }
