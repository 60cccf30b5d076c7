"""Independent solves of heat for tests: a bundle's section as a plate of cells, a lone wire as rings in time."""

import numpy as np
from scipy import sparse
from scipy.integrate import solve_ivp
from scipy.sparse.linalg import factorized

from umber_trunk.core.catalog.conductors import Conductor, Metal
from umber_trunk.core.physics import bundle
from umber_trunk.core.physics.film import film_w_m2k


class Plate:
    """A bundle's cross-section as square cells: an independent finite-volume solve with jackets, metal and
    filling each at their own conductivity and the rim giving off heat by its film."""

    CELLS = 300

    def __init__(
        self,
        centres: np.ndarray,
        wires: bundle.Strands,
        radius: float,
        filling: float,
        film_w: float,
        cells: int = CELLS,
    ) -> None:
        self.CELLS = cells
        n, step = self.CELLS, 2.0002 * radius / self.CELLS
        side = (np.arange(n) + 0.5) * step - 1.0001 * radius
        x, y = np.meshgrid(side, side, indexing="ij")
        k, self.core, self.radius = np.full((n, n), filling), np.full((n, n), -1), radius
        for row, (px, py) in enumerate(centres):
            far = np.hypot(x - px, y - py)
            k[far <= wires.outer_m[0, row] / 2] = wires.jacket_w_mk[0, row]
            self.core[far <= wires.conductor_m[0, row] / 2] = row
        self.jacket = np.zeros((n, n), dtype=bool)
        for row, (px, py) in enumerate(centres):
            self.jacket |= (np.hypot(x - px, y - py) <= wires.outer_m[0, row] / 2) & (self.core < 0)
        k[self.core >= 0] = 385.0
        self.inside = np.hypot(x, y) <= radius
        number = np.where(self.inside, np.cumsum(self.inside).reshape(n, n) - 1, -1)
        self.size = int(self.inside.sum())
        entries, diagonal = [], np.zeros(self.size)
        for a, b in ((np.s_[:-1, :], np.s_[1:, :]), (np.s_[:, :-1], np.s_[:, 1:])):
            both = self.inside[a] & self.inside[b]
            i, j, g = number[a][both], number[b][both], (2 * k[a] * k[b] / (k[a] + k[b]))[both]
            entries += [(i, j, -g), (j, i, -g)]
            np.add.at(diagonal, i, g)
            np.add.at(diagonal, j, g)
        turns = np.linspace(0, 2 * np.pi, 20_000, endpoint=False)
        rim = np.floor((radius - step / 2) * np.array([np.cos(turns), np.sin(turns)]) / step + n / 2).astype(int)
        cells = number[rim[0], rim[1]]
        cells = cells[cells >= 0]
        self.rim_w_k = np.bincount(cells, minlength=self.size) * film_w * 2 * np.pi * radius / len(cells)
        rows, cols, values = (np.concatenate(part) for part in zip(*entries, strict=True))
        matrix = sparse.csc_matrix((values, (rows, cols)), shape=(self.size, self.size))
        self.matrix = (matrix + sparse.diags(diagonal + self.rim_w_k)).tocsc()
        self.solve = factorized(self.matrix)

    def peak(self, watts: np.ndarray, metal_j_mk: float, on_s: float, period_s: float, row: int) -> float:
        """Hottest instant of one core once a duty repeats itself, by implicit Euler steps."""
        cell = (2.0002 * self.radius / self.CELLS) ** 2
        stored = np.full(self.core.shape, 0.5e6 * cell)
        stored[self.jacket] = 1350 * 1100 * cell
        source = np.zeros(self.core.shape)
        for number, q in enumerate(watts):
            here = self.core == number
            stored[here], source[here] = metal_j_mk / here.sum(), q / here.sum()
        step = min(on_s, period_s - on_s) / 10
        inertia = stored[self.inside] / step
        solve = factorized((self.matrix + sparse.diags(inertia)).tocsc())
        heat, core, hottest = source[self.inside], self.core[self.inside] == row, 0.0
        now = self.solve(heat * on_s / period_s)
        for _ in range(5):
            for tick in range(round(period_s / step)):
                now = solve(inertia * now + heat * (tick * step < on_s - 1e-9))
                hottest = float(now[core].mean()) if tick * step < on_s <= (tick + 1) * step + 1e-9 else hottest
        return hottest

    def rises(self, watts: np.ndarray) -> tuple[np.ndarray, float]:
        """(rise of every core, heat given off at the rim) for losses [W/m]."""
        source = np.zeros(self.core.shape)
        for row, q in enumerate(watts):
            source[self.core == row] = q / np.sum(self.core == row)
        found = self.solve(source[self.inside])
        core = self.core[self.inside]
        return np.array([found[core == row].mean() for row in range(len(watts))]), float(found @ self.rim_w_k)

    def step(self, row: int, metal_j_mk: float, times: list[float]) -> np.ndarray:
        """Rise of one core per W/m lost in it from rest, at rising times, by implicit Euler steps."""
        cell = (2.0002 * self.radius / self.CELLS) ** 2
        stored = np.full(self.core.shape, 0.02e6 * cell)
        stored[self.jacket] = 1350 * 1100 * cell
        source = np.zeros(self.core.shape)
        for number in range(int(self.core.max()) + 1):
            here = self.core == number
            stored[here] = metal_j_mk / here.sum()
            source[here] = (number == row) / here.sum()
        heat, core, now, at, found = source[self.inside], self.core[self.inside] == row, np.zeros(self.size), 0.0, []
        for time in times:
            inertia = stored[self.inside] * 40 / (time - at)
            solve = factorized((self.matrix + sparse.diags(inertia)).tocsc())
            for _ in range(40):
                now = solve(inertia * now + heat)
            at = time
            found.append(float(now[core].mean()))
        return np.array(found)


def rings_rise_k(wire: Conductor, amps: float, seconds: float, air_c: float = 30.0, rings: int = 60) -> float:
    """Rise of a lone wire's metal from rest in air: one lump of metal, its jacket in rings, the film of its surface at
    every moment, R(T) followed; SciPy's BDF."""
    core, outer = wire.conductor_mm / 2e3, wire.outer_mm / 2e3
    edges = np.linspace(core, outer, rings + 1)
    stored = np.pi * (edges[1:] ** 2 - edges[:-1] ** 2) * 1350 * 1100
    middle = (edges[1:] + edges[:-1]) / 2
    places = np.concatenate([[core], middle])
    between = np.log(places[1:] / places[:-1]) / (2 * np.pi * wire.jacket.k_w_mk)
    last = np.log(outer / middle[-1]) / (2 * np.pi * wire.jacket.k_w_mk)
    metal = wire.kg_per_m * wire.metal.heat_j_kg_k

    def rates(_: float, t: np.ndarray) -> np.ndarray:
        flows, skin = (t[:-1] - t[1:]) / between, t[-1]
        for _ in range(4):
            film = float(film_w_m2k(np.array(2 * outer), np.array(max(skin - air_c, 1e-6)), np.array(air_c)))
            lost = (t[-1] - air_c) / (last + 1 / (np.pi * 2 * outer * film))
            skin = t[-1] - lost * last
        slope = np.empty_like(t)
        slope[0] = (amps**2 * wire.ohm_per_m_20 * (1 + wire.metal.alpha_per_k * (t[0] - 20)) - flows[0]) / metal
        slope[1:-1] = (flows[:-1] - flows[1:]) / stored[:-1]
        slope[-1] = (flows[-1] - lost) / stored[-1]
        return slope

    start = np.full(rings + 1, air_c)
    return float(solve_ivp(rates, (0, seconds), start, method="BDF", rtol=1e-5, atol=1e-4).y[0, -1] - air_c)


def adiabatic_k(metal: Metal, start_c: float, final_c: float) -> float:
    """k of S = I·√t/k [A·√s/mm²]; IEC 60724. Copper 70 → 160 °C gives 115, 90 → 250 °C gives 143."""
    volumetric = {"aluminium": 2.5e-3}.get(metal.id, metal.density_kg_m3 * metal.heat_j_kg_k * 1e-9)
    if metal.id in ("copper", "tinned"):
        volumetric = 3.45e-3
    rho_mm = metal.rho20_ohm_m * 1e3
    head = volumetric * (metal.beta_c + 20) / rho_mm
    return float(np.sqrt(head * np.log((final_c + metal.beta_c) / (start_c + metal.beta_c))))
