"""The circuits along the path of a line-up, joined where the power goes from one to the next: one sheet, in rows."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from rhombos.core.circuit.drawn import part_drawn, worst_of
from rhombos.core.circuit.schematic import Joints, Part, Point, Schematic, Wires, holding, meeting
from rhombos.core.circuit.solved import as_built
from rhombos.core.graph.errors import Unknown, WiringError
from rhombos.core.graph.model import Model
from rhombos.core.graph.pictures import Seen
from rhombos.core.graph.places import LineUp, Place
from rhombos.core.graph.sheet import Sheet

GAP, BETWEEN, BROADEST = 3.5, 4.5, 60.0
"""Steps of the grid between two circuits, between two rows, and that a row may be broad."""


@dataclass(frozen=True)
class Block:
    """One place's circuit on the sheet: its own parts and wires, moved by (right, down)."""

    place: Place
    joints: Joints
    parts: Sequence[Part]
    wires: Wires
    right: float
    down: float

    def at(self, point: Point) -> Point:
        """Where a point of the place's own drawing lies on the sheet."""
        return point[0] + self.right, point[1] + self.down

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, right, top, bottom on the sheet."""
        points = [self.at(p) for p in _points(self.parts, self.wires)]
        xs, ys = [x for x, _ in points], [y for _, y in points]
        return min(xs), max(xs), min(ys), max(ys)


def joined(lineup: LineUp) -> list[tuple[Place, Schematic, Joints]]:
    """The places of the path that have a circuit, with their joints. Raises WiringError where one is left open."""
    found = [(p, p.stage.schematic) for p in lineup.path if p.stage.schematic is not None and not p.stage.schematic.apart]
    open_ = [p.name for p, schematic in found if schematic.joints is None]
    if open_:
        raise WiringError(f"the circuit of {', '.join(open_)} has no joints, so that the line-up's would be open there", problems=open_)
    return [(p, schematic, schematic.joints) for p, schematic in found if schematic.joints is not None]


def blocks_of(lineup: LineUp) -> list[list[Block]]:
    """The circuits side by side, each with its upper joint at the height of the one before; in two rows where one would be too broad."""
    lone = [Block(place, joints, *_own(schematic, joints), 0.0, 0.0) for place, schematic, joints in joined(lineup)]
    broad = [b.box[1] - b.box[0] + GAP for b in lone]
    if sum(broad) <= BROADEST or len(lone) < 2:
        return _under_one_another([_side_by_side(lone)]) if lone else []
    half = min(range(1, len(lone)), key=lambda k: max(sum(broad[:k]), sum(broad[k:])))
    return _under_one_another([_side_by_side(lone[:half]), _side_by_side(lone[half:])])


def _side_by_side(blocks: Sequence[Block]) -> list[Block]:
    row: list[Block] = []
    for block in blocks:
        right = row[-1].box[1] + GAP if row else 0.0
        down = row[-1].at(row[-1].joints.out[0])[1] - block.joints.into[0][1] if row else 0.0
        row.append(replace(block, right=right - block.box[0], down=down))
    return row


def _under_one_another(rows: Sequence[Sequence[Block]]) -> list[list[Block]]:
    out: list[list[Block]] = []
    below = 0.0
    for row in rows:
        top = min(b.box[2] for b in row)
        moved = [replace(b, down=b.down + below - top) for b in row]
        below = max(b.box[3] for b in moved) + BETWEEN
        out.append(moved)
    return out


def _own(schematic: Schematic, joints: Joints) -> tuple[tuple[Part, ...], tuple[tuple[Point, ...], ...]]:
    """What a place draws itself: its parts, the neighbours that nobody else draws, and the wires as far as something hangs on them."""
    parts = tuple(p for p in schematic.parts if not p.neighbour or p.name in joints.keeps)
    held = {p for part in parts for p in (part.start, part.end)} | set(joints.into) | set(joints.out)
    return parts, holding((*schematic.wires, *joints.wires), held)


def _points(parts: Sequence[Part], wires: Wires) -> list[Point]:
    return [p for part in parts for p in (part.start, part.end)] + [p for wire in wires for p in wire]


def whole(model: Model, sheet: Sheet, corner: int) -> dict[str, Any]:
    """The sheet as the page draws it: parts with their values at a corner, the wires between the places, a frame for each place.

    Raises Unknown where no place of the path has a circuit.
    """
    rows = blocks_of(model.wiring.lineup)
    if not any(rows):
        raise Unknown(f"no place on the path of {model.wiring.lineup.title} has a circuit")
    parts: list[dict[str, Any]] = []
    wires: list[list[list[float]]] = []
    for block in (b for row in rows for b in row):
        seen = Seen(model, sheet, block.place, corner)
        here = _fitted(block, seen)
        parts += _parts(here, seen)
        wires += [[list(here.at(p)) for p in wire] for wire in here.wires]
    tags: list[dict[str, Any]] = []
    for row, following in zip(rows, [*rows[1:], []], strict=True):
        for one, other in pairwise(row):
            wires += [_bent(one.at(a), other.at(b), k) for k, (a, b) in enumerate(zip(one.joints.out, other.joints.into, strict=True))]
        if following:
            tags += [{"at": list(row[-1].at(p)), "text": f"{sign} to {following[0].place.shown}", "ends": True} for sign, p in _poles(row[-1].joints.out)]
            tags += [
                {"at": list(following[0].at(p)), "text": f"{sign} from {row[-1].place.shown}", "ends": False} for sign, p in _poles(following[0].joints.into)
            ]
    boxes = [(b, b.box) for row in rows for b in row]
    return {
        "left": min(box[0] for _, box in boxes),
        "right": max(box[1] for _, box in boxes),
        "top": min(box[2] for _, box in boxes),
        "bottom": max(box[3] for _, box in boxes),
        "parts": parts,
        "wires": wires,
        "dots": [list(p) for p in meeting([[(x, y) for x, y in wire] for wire in wires], [(x, y) for part in parts for x, y in (part["start"], part["end"])])],
        "frames": [{"place": b.place.name, "title": b.place.shown, "left": x0, "right": x1, "top": y0, "bottom": y1} for b, (x0, x1, y0, y1) in boxes],
        "tags": tags,
    }


def _fitted(block: Block, seen: Seen) -> Block:
    """The block as it is built: without what would stand across something and is not fitted, and without the wires that led to it."""
    parts, wires = as_built(block.parts, block.wires, {*block.joints.into, *block.joints.out}, seen.at)
    return replace(block, parts=parts, wires=wires)


def _poles(joint: tuple[Point, Point]) -> list[tuple[str, Point]]:
    return [("+", joint[0]), ("−", joint[1])]


def _parts(block: Block, seen: Seen) -> list[dict[str, Any]]:
    schematic = block.place.stage.schematic
    assert schematic is not None, "it has parts"
    worst = worst_of(seen)
    out = []
    for part in block.parts:
        made = part_drawn(seen, schematic, part, worst)
        start, end = block.at(part.start), block.at(part.end)
        out.append(made | {"name": f"{block.place.name}.{part.name}", "start": list(start), "end": list(end)})
    return out


def _bent(a: Point, b: Point, k: int) -> list[list[float]]:
    """From a joint to the next, along the grid; the two of a pair bend apart, so that they do not meet."""
    if a[1] == b[1]:
        return [list(a), list(b)]
    middle = a[0] + (b[0] - a[0]) * (1 / 3 if k else 2 / 3)
    return [list(a), [middle, a[1]], [middle, b[1]], list(b)]
