"""A switched circuit the long way: node voltages from a matrix of its own at every instant, marched by SciPy's implicit solver."""

import numpy as np
from scipy.integrate import solve_ivp


class ByNodes:
    """Rates of a circuit's inductor currents and capacitor voltages, its diodes two straight lines each; sources stand at their own values."""

    def __init__(self, circuit, on):
        self.circuit = circuit
        parts = [*circuit.elements, *circuit.switches, *circuit.diodes]
        names = sorted({n for p in parts for n in (p.plus, p.minus)} - {"0"})
        self.at = {n: k for k, n in enumerate(names)}
        self.states = [e for e in circuit.elements if e.kind in "LC"]
        self.held = [e for e in circuit.elements if e.kind in "CV"]
        size = len(names) + len(self.held)
        self.fixed = np.zeros((size, size))
        for e in circuit.elements:
            if e.kind == "R":
                self.conduct(self.fixed, e, 1 / e.value)
        for s in circuit.switches:
            self.conduct(self.fixed, s, 1 / (s.on if s.name in on else s.off))
        for k, e in enumerate(self.held):
            row = self.row(e)
            self.fixed[: len(names), len(names) + k], self.fixed[len(names) + k, : len(names)] = row, row
        inductors = [e for e in self.states if e.kind == "L"]
        self.henries = np.diag([e.value for e in inductors])
        index = {e.name: k for k, e in enumerate(inductors)}
        for c in circuit.couplings:
            self.henries[index[c.one], index[c.other]] = self.henries[index[c.other], index[c.one]] = c.mutual
        self.conducting = np.zeros(len(circuit.diodes), dtype=bool)

    def row(self, part):
        out = np.zeros(len(self.at))
        for node, sign in ((part.plus, 1.0), (part.minus, -1.0)):
            if node != "0":
                out[self.at[node]] += sign
        return out

    def conduct(self, matrix, part, siemens):
        row, n = self.row(part), len(self.at)
        matrix[:n, :n] += siemens * np.outer(row, row)

    def nodes(self, x):
        """Node voltages and what flows through all that holds volts; each diode as its volts say."""
        n, value = len(self.at), dict(zip((e.name for e in self.states), x, strict=True))
        for _ in range(60):
            matrix, right = self.fixed.copy(), np.zeros(len(self.fixed))
            for e in self.states:
                if e.kind == "L":
                    right[:n] -= self.row(e) * value[e.name]
            for k, e in enumerate(self.held):
                right[n + k] = value[e.name] if e.kind == "C" else e.value
            for d, does in zip(self.circuit.diodes, self.conducting, strict=True):
                self.conduct(matrix, d, 1 / (d.on if does else d.off))
                right[:n] += self.row(d) * (d.forward / d.on if does else 0.0)
            solved = np.linalg.solve(matrix, right)
            # At its forward voltage the two lines of a diode do not quite meet: on the way back it stays as it is.
            volts = np.array([self.row(d) @ solved[:n] - d.forward for d in self.circuit.diodes])
            wrong = np.where(self.conducting, -volts, volts)
            if wrong.max() <= 1e-12:
                break
            self.conducting[np.argmax(wrong)] ^= True
        return solved, volts

    def rates(self, _, x):
        solved, _ = self.nodes(x)
        n, out = len(self.at), np.empty(len(x))
        across = [self.row(e) @ solved[:n] for e in self.states if e.kind == "L"]
        currents, k = np.linalg.solve(self.henries, across), 0
        for i, e in enumerate(self.states):
            if e.kind == "L":
                out[i], k = currents[k], k + 1
            else:
                out[i] = solved[n + self.held.index(e)] / e.value
        return out

    def marched(self, x, begin, end, tolerance=1e-9):
        """From a state at one time to another; its `sol` gives the states between."""
        scale = tolerance * np.maximum(np.abs(x), 1e-3)
        return solve_ivp(self.rates, (begin, end), x, method="Radau", rtol=tolerance, atol=scale, dense_output=True)
