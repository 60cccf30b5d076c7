"""Everything that goes on paper or into a table for others, as rows of plain values; the first row has the titles."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.fuses.fit import link_duties
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.cutlist import buys, cuts
from umber_trunk.core.kit.paper_units import inches_text, size_text
from umber_trunk.core.kit.substitute import decided
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.needs.cases import loads_text
from umber_trunk.core.printed import PaperTable
from umber_trunk.core.results import Results
from umber_trunk.core.solve.solution import ALL_ON

Cell = str | int | float | None
Rows = list[list[Cell]]


def wire_rows(results: Results, as_text: bool = False) -> Rows:
    """The wire list; reading it back gives the same wires. as_text writes lengths with four decimals, which no habit of
    separators can mistake."""
    index = index_of(results.design)
    rows: Rows = [
        [
            "wire",
            "name",
            "circuit",
            "from",
            "from pin",
            "to",
            "to pin",
            "size",
            "colour",
            "stripe",
            "length (m)",
            "amps",
        ]
    ]
    for figure in results.figures.wires.values():
        wire = figure.wire
        rows.append(
            [
                wire.id,
                wire.name,
                wire.circuit,
                index.ends[wire.start.end].name,
                wire.start.cavity,
                index.ends[wire.finish.end].name,
                wire.finish.cavity,
                "" if figure.shown_size == "?" else figure.size,
                wire.colour,
                wire.stripe,
                f"{index.length_m(wire):.4f}" if as_text else round(index.length_m(wire), 4),
                round(figure.amps, 3),
            ]
        )
    return rows


def cut_rows(results: Results) -> Rows:
    """The cut list, largest size first, with a column in feet and inches or of gauges where the project wants them."""
    rows: Rows = [
        [
            "wire",
            "circuit",
            "size",
            "made of",
            "colour",
            "from",
            "to",
            "finished (m)",
            "cut (m)",
            "pieces",
            "note",
        ]
    ]
    design = results.design
    cables = {cable.id: cable.name or cable.id for cable in design.cables}
    lengths, last = results.once(wire_lengths), {comb.id for comb in design.combs if comb.cut_last}
    for row in results.once(cuts):
        note = "straight run of the listed length" if row.provisional else ""
        if row.size == "?":
            note = "size open: no case loads it"
        length = lengths[row.wire.id]
        if length.comb in last:
            note = "; ".join(filter(None, (note, f"in comb {length.comb}: second end cut at the comb")))
        elif length.alike:
            note = "; ".join(filter(None, (note, f"cut alike: {length.alike}")))
        if row.wire.cable:
            note = f"core of {cables.get(row.wire.cable, row.wire.cable)}" + (f"; {note}" if note else "")
        note = "; ".join(filter(None, (str(decided(design, row.wire.id)), note)))
        rows.append(
            [
                row.wire.id,
                row.wire.circuit,
                row.size,
                row.spec,
                row.colour,
                row.start,
                row.finish,
                round(row.finished_m, 3),
                round(row.cut_m, 3),
                row.count,
                note,
            ]
        )
    units = design.project.units
    if units != "metric":
        rows[0] += ["size, other series", "cut (ft, in)"]
        for shown, row in zip(rows[1:], results.once(cuts), strict=True):
            shown += [size_text(row.size, units), inches_text(row.cut_m)]
    return rows


def total_rows(results: Results) -> Rows:
    """Metres to buy by size, make and colour."""
    rows: Rows = [["size", "made of", "colour", "pieces", "length (m)", "copper (kg)", "cost"]]
    for one in results.once(buys):
        rows.append(
            [
                one.size,
                one.spec,
                one.colour,
                one.pieces,
                round(one.metres, 3),
                round(one.copper_kg, 3),
                round(one.cost, 2),
            ]
        )
    return rows


def fuse_rows(results: Results) -> Rows:
    """Every fuse, switch and coupler: rating, what it carries, and the thinnest wire that relies on it."""
    found, plant = results.figures, results.plant
    rows: Rows = [["in", "part", "kind", "rating (A)", "carries (A)", "thinnest wire behind it", "of its limit"]]
    behind: dict[int, list[int]] = defaultdict(list)
    for row, guard in enumerate(found.guards):
        if guard is not None:
            behind[guard.link_row].append(row)
    for at, ((end, link), duty) in enumerate(zip(plant.links, results.once(link_duties).values(), strict=True)):
        thin = min(behind[at], key=lambda row: plant.area_mm2[row], default=None)
        worst = max((found.protected[row].used for row in behind[at]), default=None)
        name = plant.index.ends[end].name
        wire = (
            ""
            if thin is None
            else f"{plant.wires[thin].name or plant.wires[thin].id}, {plant.conductors[thin].size.label}"
        )
        rows.append(
            [
                name,
                link.id,
                f"{link.style} {link.kind}".strip(),
                link.rating_a if link.rating_a is not None else "open",
                round(duty.amps, 2),
                wire,
                "" if worst is None else f"{100 * worst:.0f} %",
            ]
        )
    return rows


def case_rows(design: Design) -> Rows:
    """Which loads run together, and in what air."""
    rows: Rows = [["case", "air (°C)", "runs"]]
    cases = design.cases or (ALL_ON,)
    for case in cases:
        rows.append([case.name, "as zones" if case.ambient_c is None else case.ambient_c, loads_text(design, case)])
    return rows


def decision_rows(design: Design) -> Rows:
    """Wires made of something else than planned, and who decided it."""
    rows: Rows = [["wire", "made as", "in place of", "decided by", "why"]]
    rows += [[one.wire, one.now, one.was, one.who, one.why] for one in design.decisions]
    return rows


def decision_tables(design: Design) -> list[PaperTable]:
    """The same as a table for paper; none where everything is made as planned."""
    head, *rows = decision_rows(design)
    cells = tuple(tuple(map(str, row)) for row in rows)
    heads = tuple(str(cell).capitalize() for cell in head)
    return [PaperTable(heads, (0.1, 0.2, 0.2, 0.2, 0.3), (), cells)] if rows else []


def caution_rows(findings: Sequence[Finding]) -> Rows:
    """Faults still open and the cautions that go with this harness, worst first."""
    rows: Rows = [["what", "says", "do"]]
    for one in findings:
        if one.severity is Severity.FAULT or one.code.startswith("caution"):
            rows.append([one.severity.name.lower(), one.message, one.cure])
    rows.append(["always", ALWAYS, "Disconnect the source before working, battery negative first."])
    return rows


ALWAYS = "Engineering estimates: the applicable code, class or vehicle rule and a licensed person decide."
