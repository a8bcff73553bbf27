"""The march from event to event, compiled by Numba: diodes turn at the zero crossing of the solution."""

from typing import NamedTuple

import numpy as np

from rhombos.core.circuit.compiled import WIDE, Array, Complex, Places, applied, compiled, dotted, exponential, product, summing
from rhombos.core.circuit.switched.state_table import Plan, Table, after, amounts_of, find, grown_to, step

ON = 1e-3
"""Of the volts that count as none across a diode that is off, those across one that conducts: its resistance is small."""
AHEAD = 1e-7
"""So far ahead, of the time between two events, a choice of conducting diodes must hold; from there on they are looked at."""
NONE = 1e-9
"""Volts across a diode that count as none, of the greatest that drive or stand in the circuit."""
SOON = 1e-3
"""Of that time, the part in which what crosses has as good as crossed."""
TRIED = 64
"""So many choices of who conducts are tried one after the other; then all of them are."""
MOST_TURNS = 2000
"""So many turns of diodes between two events, and they chatter."""
ANEW = 8
"""Looks lie twice as far from the beginning from one to the next, until they are as far apart as the fastest ringing lets them; after so many what has grown is made anew."""
RECKONED = 16
"""After so many even looks it is reckoned anew how far apart they may lie."""
SHORTER = 4.0
"""A time over which it is not sure that nothing turns is tried so many times shorter."""
DONE, FULL, CHATTER = 0, 1, 2
"""How a march ended: well, with no room left in what it is given, turning without end."""


class Way(NamedTuple):
    """What lies between the events."""

    bounds: Array
    on: Places
    levels: Places


class Trace(NamedTuple):
    """The stretches of a run, in order."""

    length: Places
    begins: Array
    ends: Array
    slots: Places
    conducting: Places
    states: Array


@compiled
def _wrong(table: Table, slot: int, conducting: int, x: Array, seconds: float, room: float) -> Array:
    """By how many volts each diode stands against what it does; zero where it agrees. One that stands at none is looked at a little ahead.

    A current that is interrupted would be gone a little ahead, so for one that is off what stands now comes first. For
    one that conducts what comes: the last of an inductor's current may still flow the other way, and turns at once.
    """
    against = table.against[slot]
    wrong = np.zeros(len(against))
    if len(against) == 0:
        return wrong
    held = amounts_of(table, slot, x)
    for j in range(len(held)):
        held[j] *= grown_to(table.values[slot, j], AHEAD * seconds)
    then = after(table, slot, x, held, AHEAD * seconds)
    for d in range(len(wrong)):
        now, ahead = dotted(against[d], x), then[d]
        soon = SOON * ahead
        if conducting >> d & 1:
            wrong[d] = 0.0 if now > max(room * ON, -soon) else max(-ahead - room * ON, 0.0)
        else:
            wrong[d] = max((ahead if -max(room, soon) < now <= room else now) - room, 0.0)
    return wrong


@compiled
def _settled(plan: Plan, table: Table, at: tuple[int, int], conducting: int, x: Array, seconds: float, room: float) -> tuple[int, int]:
    """The slot of the state in which conducts what agrees with the volts and amperes that follow from it, and what conducts in it."""
    on, level = at
    turning = table.against.shape[1]
    tried = np.empty(TRIED, dtype=np.int64)
    fewest, k = turning + 1, 0
    while k < len(tried) and not _among(conducting, tried, k):
        tried[k] = conducting
        k += 1
        slot = find(plan, table, on, conducting, level)
        if slot < 0:
            return slot, conducting
        wrong = _wrong(table, slot, conducting, x, seconds, room)
        against, bits, worst = 0, 0, 0
        for d in range(turning):
            if wrong[d] > 0.0:
                against, bits = against + 1, bits | 1 << d
            if wrong[d] > wrong[worst]:
                worst = d
        if against == 0:
            return slot, conducting
        if against >= fewest:
            # All at once did not lead nearer.
            bits = 1 << worst
        else:
            fewest = against
        conducting ^= bits
    # One after the other they lead back: all choices are looked at.
    best, least = conducting, np.inf
    for choice in range(1 << turning):
        slot = find(plan, table, on, choice, level)
        if slot < 0:
            return slot, conducting
        wrong = _wrong(table, slot, choice, x, seconds, room)
        most = 0.0
        for d in range(turning):
            most = max(most, wrong[d])
        if most < least:
            best, least = choice, most
    return find(plan, table, on, best, level), best


@compiled
def _among(wanted: int, numbers: Places, count: int) -> bool:
    found = False
    for k in range(count):
        found |= numbers[k] == wanted
    return found


@compiled
def _crossing(table: Table, slot: int, diode: int, x: Array, amounts: Complex, low: float, high: float) -> float:
    """When what turns crosses none between two times: Newton's steps, halving where they lead out of what is left."""
    m = len(amounts)
    rows, begin, end = table.against[slot, diode], low, high
    below = 0.0
    t = high
    for k in range(200):
        if k == 0:
            t = low
        elif k == 1:
            t = high
        value = slope = 0.0
        if m == 0:
            there = applied(exponential(table.matrix[slot], t), x)
            value, slope = dotted(rows, there), dotted(rows, applied(table.matrix[slot], there))
        for j in range(m):
            part = table.shares[slot, diode, j] * amounts[j] * grown_to(table.values[slot, j], t)
            value += part.real
            slope += (part * table.values[slot, j]).real
        if value == 0.0:
            return t
        if k == 0:
            below = value
        elif k == 1:
            if (value > 0.0) == (below > 0.0):
                # It has left none behind it within what counts as none: there is no crossing in between.
                return high
        elif (value > 0.0) == (below > 0.0):
            begin = t
        else:
            end = t
        if k > 0:
            further = t - value / slope if slope != 0.0 else begin
            if not begin < further < end:
                further = (begin + end) / 2
            if abs(further - t) <= 4e-15 * abs(further) + 1e-18 or not begin < further < end:
                return further
            t = further
    return t


@compiled
def _pace(values: Complex, shares: Complex, grown: Complex, whole: float, none: float) -> float:
    """How far apart looks may lie: often enough for the fastest ringing of which more than `none` volts are left across anything."""
    fastest = 0.0
    for j in range(len(grown)):
        rate = abs(values[j].imag)
        if rate > fastest:
            for d in range(len(shares)):
                if abs(shares[d, j] * grown[j]) > none:
                    fastest = rate
                    break
    return whole / min(max(16 * fastest * whole / (2 * np.pi), 64.0), 4096.0)


@compiled
def _sure(values: Complex, shares: Complex, grown: Complex, conducting: int, times: tuple[float, float]) -> float:
    """How long nothing can turn whatever rings: the first of ever shorter times, from the greater to the lesser of two, over which no sum of modes can reach none; 0 where none is.

    What fades lies between what it is and nothing; what rings moves by its rate times the time at the most, and never further than its amplitude.
    """
    longest, shortest = times
    seconds = longest
    while seconds >= shortest:
        sure = True
        for d in range(len(shares)):
            sign = 1.0 if conducting >> d & 1 else -1.0
            least = 0.0
            for j in range(len(grown)):
                part, rate = shares[d, j] * grown[j], values[j]
                value = sign * part.real
                if rate.imag == 0.0 and rate.real <= 0.0:
                    least += value if value < 0.0 else value * max(0.0, 1.0 + rate.real * seconds)
                else:
                    size = abs(part)
                    moved = value - size * abs(rate) * np.exp(max(rate.real, 0.0) * seconds) * seconds
                    least += moved if rate.real > 0.0 else max(moved, -size)
            if not least > 0.0:
                sure = False
                break
        if sure:
            return seconds
        seconds /= SHORTER
    return 0.0


@summing
def _turned(real: Array, imaginary: Array, grown: Complex, conducting: int, room: float) -> int:
    """The diodes, as bits, of whose volts the sign has turned round where the modes have grown to so much: of what conducts below none, of what does not above."""
    found = 0
    for block in range(len(real)):
        a = b = c = d = e = f = g = h = 0.0
        for j in range(len(grown)):
            one, other = grown[j].real, -grown[j].imag
            a += real[block, j, 0] * one + imaginary[block, j, 0] * other
            b += real[block, j, 1] * one + imaginary[block, j, 1] * other
            c += real[block, j, 2] * one + imaginary[block, j, 2] * other
            d += real[block, j, 3] * one + imaginary[block, j, 3] * other
            e += real[block, j, 4] * one + imaginary[block, j, 4] * other
            f += real[block, j, 5] * one + imaginary[block, j, 5] * other
            g += real[block, j, 6] * one + imaginary[block, j, 6] * other
            h += real[block, j, 7] * one + imaginary[block, j, 7] * other
        for k, volts in enumerate((a, b, c, d, e, f, g, h)):
            bit = 1 << block * WIDE + k
            if (volts < -room * ON) if conducting & bit else (volts > room):
                found |= bit
    return found


@compiled
def _until(table: Table, slot: int, conducting: int, x: Array, held: Complex, times: tuple[float, float], room: float) -> tuple[float, int]:
    """How long until the first diode turns, and which, in what is left of the whole time between two events; below none where none does.

    Looked at close together at first, then evenly and often enough for the fastest ringing that is left.
    """
    whole, left = times
    m, turning = len(held), table.against.shape[1]
    if turning == 0:
        return left, -1
    values, shares, against = table.values[slot], table.shares[slot], table.against[slot]
    real, imaginary = table.beside[slot, 0], table.beside[slot, 1]
    if m == 0:
        # Without modes the state itself is looked at.
        real, imaginary = np.zeros_like(real), np.zeros_like(real)
        for d in range(turning):
            real[d // WIDE, :, d % WIDE] = against[d]
    low, t = 0.0, AHEAD * whole
    apart, evenly, doubled = _pace(values, shares, held, whole, room * ON), 0, 0
    size = m if m > 0 else len(x)
    grown, growth = np.empty(size, dtype=np.complex128), np.empty(m, dtype=np.complex128)
    while True:
        last = t >= left
        if last:
            t = left
        if m == 0:
            there = applied(exponential(table.matrix[slot], t), x)
            for j in range(size):
                grown[j] = there[j]
        elif evenly > 0 and not last:
            for j in range(m):
                grown[j] *= growth[j]
        else:
            # Twice the time is the growth squared; every so often it is made anew.
            squared = doubled % ANEW > 0 and not last
            for j in range(m):
                growth[j] = growth[j] * growth[j] if squared else grown_to(values[j], t)
                grown[j] = held[j] * growth[j]
            doubled += 1
        turned = _turned(real, imaginary, grown, conducting, room)
        if turned:
            first, which = np.inf, -1
            for d in range(turning):
                if turned >> d & 1:
                    crossing = _crossing(table, slot, d, x, held, low, t)
                    if crossing < first:
                        first, which = crossing, d
            if which >= 0:
                return first, which
        if last:
            return left, -1
        low = t
        if evenly > 0 or t >= apart:
            if evenly % RECKONED == 0:
                sure = _sure(values, shares, grown[:m], conducting, (left - t, RECKONED * apart)) if m > 0 else 0.0
                if sure > 0.0:
                    t, evenly, doubled = t + sure, 0, 0
                    continue
                apart = _pace(values, shares, grown[:m], whole, room * ON)
                for j in range(m):
                    growth[j] = grown_to(values[j], apart)
            evenly += 1
            t += apart
        else:
            t += t


@compiled
def marched(plan: Plan, table: Table, way: Way, trace: Trace, x: Array, hangs: Array, conducting: int) -> tuple[int, Array, Array, int, float]:
    """From one event to the next, turning diodes on the way: how it ended, the state, how it hangs on the beginning, what conducts, and when."""
    n = len(plan.net.storing)
    k = 0
    for interval in range(len(way.on)):
        now, end = way.bounds[interval], way.bounds[interval + 1]
        whole, at = end - now, (way.on[interval], way.levels[interval])
        before, diode = -1, -1
        for turn in range(MOST_TURNS + 1):
            if turn == MOST_TURNS:
                return CHATTER, x, hangs, conducting, now
            standing = plan.driving[way.levels[interval]]
            for i in range(n):
                if plan.net.holding[i]:
                    standing = max(standing, abs(x[i]))
            room = NONE * standing
            remembered = _remembered(table, at, conducting)
            slot, settled = _settled(plan, table, at, conducting if remembered < 0 else table.led_to[remembered], x, whole, room)
            if slot < 0 or k == len(trace.begins):
                return FULL, x, hangs, conducting, now
            _remember(table, at, conducting, remembered, settled)
            conducting = settled
            if before >= 0:
                hangs = _jump(table, before, diode, slot, x, hangs)
            held = amounts_of(table, slot, x)
            length, diode = _until(table, slot, conducting, x, held, (whole, end - now), room)
            trace.begins[k], trace.slots[k], trace.conducting[k] = now, slot, conducting
            for i in range(len(x)):
                trace.states[k, i] = x[i]
            now = end if diode < 0 else now + length
            trace.ends[k] = now
            k += 1
            trace.length[0] = k
            growth = step(table, slot, length)
            x, hangs = applied(growth, x), product(growth, hangs)
            if diode < 0:
                break
            # At none, as it is where it turns: the last digits of the time would leave a current that nothing carries.
            row = table.against[slot, diode]
            extent, left = dotted(row[:n], row[:n]), dotted(row, x)
            if extent > 0.0 and abs(left) <= room * ON:
                for i in range(n):
                    x[i] -= row[i] * (left / extent)
            before = slot
            # Who crossed has turned, as a rule: that is tried first.
            conducting ^= 1 << diode
    return DONE, x, hangs, conducting, way.bounds[-1]


@compiled
def _remembered(table: Table, at: tuple[int, int], conducting: int) -> int:
    for k in range(table.counts[1]):
        if table.led_from[k, 0] == at[0] and table.led_from[k, 1] == conducting and table.led_from[k, 2] == at[1]:
            return k
    return -1


@compiled
def _remember(table: Table, at: tuple[int, int], conducting: int, place: int, settled: int) -> None:
    if place < 0:
        place = table.counts[1] % len(table.led_to)
        table.counts[1] = min(table.counts[1] + 1, len(table.led_to))
        table.led_from[place, 0], table.led_from[place, 1], table.led_from[place, 2] = at[0], conducting, at[1]
    table.led_to[place] = settled


@compiled
def _jump(table: Table, before: int, diode: int, after: int, x: Array, hangs: Array) -> Array:
    """How a turn of a diode bends what hangs on the beginning: its time hangs on the state as well."""
    out, into = applied(table.matrix[before], x), applied(table.matrix[after], x)
    row = table.against[before, diode]
    rate = dotted(row, out)
    if rate == 0.0:
        return hangs
    bent = hangs.copy()
    for j in range(hangs.shape[1]):
        earlier = dotted(row, hangs[:, j]) / rate
        for i in range(len(x)):
            bent[i, j] += (into[i] - out[i]) * earlier
    return bent
