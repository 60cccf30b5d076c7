"""Wire lists as shops keep them, in every dress: what is certain is read, what isn't is asked with its evidence, faults
have row and column, nothing is imported by half."""

import io
import subprocess
from pathlib import Path
from typing import Any

import pytest
import xlwt
from hypothesis import given
from hypothesis import strategies as st
from odf.opendocument import OpenDocumentSpreadsheet
from odf.table import Table, TableCell, TableRow
from odf.text import P
from openpyxl import Workbook, load_workbook

from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import shop_list
from umber_trunk.core.errors import EditError, InputError, UmberError
from umber_trunk.core.harness.edits import put, set_size
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.lengths.laying import lay, suggest
from umber_trunk.store import sheets
from umber_trunk.store.files import StoreError
from umber_trunk.store.listing.colours import ColourRules, colour_cell
from umber_trunk.store.listing.doubts import Answers
from umber_trunk.store.listing.memory import read_with_memory, remember
from umber_trunk.store.listing.merge import add_wires, differences, merge
from umber_trunk.store.listing.pins import PinHabit, split_pin
from umber_trunk.store.listing.reading import ListReading, read_list
from umber_trunk.store.listing.titles import column_index, column_letter, meaning_of, unit_note
from umber_trunk.store.output import export_bytes, write_export
from umber_trunk.store.sheets import read_book, xlsx_bytes
from umber_trunk_helpers import calls_of, list_of


def brief(reading: ListReading) -> list[tuple]:
    """Each wire as (size, parallel, length in mm, colour, stripe)."""
    return [
        (w.size, w.parallel, None if w.length_m is None else round(w.length_m * 1000, 3), w.colour, w.stripe)
        for w in reading.wires
    ]


def asked(reading: ListReading) -> list[str]:
    return [doubt.id for doubt in reading.doubts]


# list, doubts it must raise, wires under the likeliest answers (None: faults remain)
H = "wire,from,to,size,length"
LISTS = {
    "plain": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,1250\n", [], [("2.5 mm2", 1, 1250, "", "")]),
    "comma and three digits": (f'{H} (mm)\n1,a:1,b:1,2.5 mm2,"1,200"\n', ["decimal"], [("2.5 mm2", 1, 1200, "", "")]),
    "point and three digits": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,1.200\n", ["decimal"], [("2.5 mm2", 1, 1200, "", "")]),
    "three digits in metres": (f"{H} (m)\n1,a:1,b:1,2.5 mm2,1.200\n", ["decimal"], [("2.5 mm2", 1, 1200, "", "")]),
    "three digits decided by neighbours": (
        f'{H} (m)\n1,a:1,b:1,2.5 mm2,"1,200"\n2,a:2,b:2,2.5 mm2,"0,85"\n', [], [("2.5 mm2", 1, 1200, "", ""), ("2.5 mm2", 1, 850, "", "")],
    ),
    "neighbours that would give a millimetre": (
        f'{H} (mm)\n1,a:1,b:1,2.5 mm2,"1,200"\n2,a:2,b:2,2.5 mm2,"850,5"\n', ["decimal"], None,
    ),
    "spaced thousands": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,1 250\n", [], [("2.5 mm2", 1, 1250, "", "")]),
    "thin spaced thousands": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,1\u2009250\n", [], [("2.5 mm2", 1, 1250, "", "")]),
    "apostrophe thousands": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,1'250\n", [], [("2.5 mm2", 1, 1250, "", "")]),
    "both marks": (f'{H} (mm)\n1,a:1,b:1,2.5 mm2,"1,250.5"\n', [], [("2.5 mm2", 1, 1250.5, "", "")]),
    "feet and inches": (f"{H}\n1,a:1,b:1,AWG 14,12 ft 3 in\n", [], [("AWG 14", 1, 3733.8, "", "")]),
    "feet glued": (f"{H}\n1,a:1,b:1,AWG 14,3'6\n", [], [("AWG 14", 1, 1066.8, "", "")]),
    "fraction of feet": (f"{H}\n1,a:1,b:1,AWG 14,19-1/2 ft\n", [], [("AWG 14", 1, 5943.6, "", "")]),
    "bare lengths": (f"{H}\n1,a:1,b:1,2.5 mm2,1200\n", ["unit:length"], [("2.5 mm2", 1, 1200, "", "")]),
    "small bare lengths": (f"{H}\n1,a:1,b:1,2.5 mm2,1.2\n", ["unit:length"], [("2.5 mm2", 1, 1200, "", "")]),
    "some with unit": (f"{H}\n1,a:1,b:1,2.5 mm2,850 mm\n2,a:2,b:2,2.5 mm2,1200\n", ["unit:length"], [("2.5 mm2", 1, 850, "", ""), ("2.5 mm2", 1, 1200, "", "")]),
    "units win over the title": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,1.5 m\n", [], [("2.5 mm2", 1, 1500, "", "")]),
    "range of lengths": (f"{H} (m)\n1,a:1,b:1,2.5 mm2,3-4\n", [], None),
    "two lengths": (f"{H} (m)\n1,a:1,b:1,2.5 mm2,3/4.5\n", [], None),
    "bare sizes beside feet": (
        f"{H} (ft)\n1,a:1,b:1,14,12\n2,a:2,b:2,12,8\n3,a:3,b:3,18,3\n", ["bare-size"],
        [("AWG 14", 1, 3657.6, "", ""), ("AWG 12", 1, 2438.4, "", ""), ("AWG 18", 1, 914.4, "", "")],
    ),
    "bare whole sizes": (f"{H} (mm)\n1,a:1,b:1,4,900\n2,a:2,b:2,6,900\n", ["bare-size"], [("4 mm2", 1, 900, "", ""), ("6 mm2", 1, 900, "", "")]),
    "bare sizes of no one series": (f"{H} (mm)\n1,a:1,b:1,0.5,900\n2,a:2,b:2,20,900\n", ["bare-size"], [("0.5 mm2", 1, 900, "", ""), ("20 mm2", 1, 900, "", "")]),
    "two colours": ("wire,from,to,color 1,color 2\n1,a:1,b:1,R,W\n", [], [(None, 1, None, "red", "white")]),
    "bare broken sizes": (f"{H} (mm)\n1,a:1,b:1,1.5,900\n2,a:2,b:2,4,900\n", [], [("1.5 mm2", 1, 900, "", ""), ("4 mm2", 1, 900, "", "")]),
    "sizes titled AWG": ("wire,from,to,AWG,length (mm)\n1,a:1,b:1,14,900\n", [], [("AWG 14", 1, 900, "", "")]),
    "sizes titled gauge": ("wire,from,to,gauge,length (mm)\n1,a:1,b:1,8,900\n", ["bare-size"], [("AWG 8", 1, 900, "", "")]),
    "size, mm2": ('wire,from,to,"Size, mm2",length (mm)\n1,a:1,b:1,14,900\n', [], [("14 mm2", 1, 900, "", "")]),
    "sizes partly worded": (f"{H} (mm)\n1,a:1,b:1,14 AWG,900\n2,a:2,b:2,16,900\n", ["bare-size"], [("AWG 14", 1, 900, "", ""), ("AWG 16", 1, 900, "", "")]),
    "bare sizes among areas": (f"{H} (mm)\n1,a:1,b:1,14,900\n2,a:2,b:2,2.5 mm2,900\n", ["bare-size"], [("14 mm2", 1, 900, "", ""), ("2.5 mm2", 1, 900, "", "")]),
    "bare even sizes": (f"{H} (mm)\n1,a:1,b:1,4,900\n2,a:2,b:2,16,900\n", ["bare-size"], [("AWG 4", 1, 900, "", ""), ("AWG 16", 1, 900, "", "")]),
    "wires numbered alike in two sizes": (f"{H} (mm)\nW1.1,a:1,b:1,1.5 mm2,900\nW1.2,a:2,b:2,2.5 mm2,900\n", [], [("1.5 mm2", 1, 900, "", ""), ("2.5 mm2", 1, 900, "", "")]),
    "a title over both ends in a cell": ("wire,from - to,size\nBow loom,Bow loom,Bow loom\n1,a - b,1.5 mm2\n2,a - c,1.5 mm2\n", [], [("1.5 mm2", 1, None, "", "")] * 2),
    "two wires a row": ("from,to,wire 1,wire 2\nX1,X2,W1,W2\nX3,X4,W3,W4\n", [], [(None, 1, None, "", "")] * 4),
    "a row for each pin, few of a number": ("connector,pin,wire,signal\nX1,1,W1,A\nX2,1,W1,A\nX1,2,W2,B\nX2,2,W3,B\nX1,3,W4,C\nX2,3,W5,C\n", [], [(None, 1, None, "", "")] * 3),
    "aughts": (f"{H} (mm)\n1,a:1,b:1,2/0,900\n", [], [("AWG 2/0", 1, 900, "", "")]),
    "kcmil": (f"{H} (mm)\n1,a:1,b:1,250 MCM,900\n", [], [("250 kcmil", 1, 900, "", "")]),
    "gage": (f"{H} (mm)\n1,a:1,b:1,18 gage,900\n", [], [("AWG 18", 1, 900, "", "")]),
    "mm for mm²": (f"{H} (mm)\n1,a:1,b:1,2.5mm,900\n", ["mm-size"], [("2.5 mm2", 1, 900, "", "")]),
    "two sizes": (f"{H} (mm)\n1,a:1,b:1,1.5/2.5 mm²,900\n", [], None),
    "range of sizes": (f"{H} (mm)\n1,a:1,b:1,14-16 AWG,900\n", [], None),
    "words beside a size": (f"{H} (mm)\n1,a:1,b:1,18 AWG thin wall,900\n", ["size-words"], [("AWG 18", 1, 900, "", "")]),
    "core of a cable": (f"{H} (mm)\n1,a:1,b:1,3x1.5 mm²,900\n", ["multicore"], [("1.5 mm2", 1, 900, "", "")]),
    "a whole cable": (f"{H} (mm)\n1,a,b,3x1.5 mm²,900\n", ["multicore"], [("1.5 mm2", 1, 900, "", "")] * 3),
    "cable with earth": (f"{H} (mm)\n1,a,b,3G1.5 mm²,900\n", ["multicore"], [("1.5 mm2", 1, 900, "", "")] * 2 + [("1.5 mm2", 1, 900, "green", "yellow")]),
    "pairs": (f"{H} (mm)\n1,a,b,2x2x0.5 mm²,900\n", ["multicore"], [("0.5 mm2", 1, 900, "", "")] * 4),
    "pin columns beside": ("wire,from,pin,to,pin,size\n1,a,1,b,2,2.5 mm2\n", [], [("2.5 mm2", 1, None, "", "")]),
    "slashed pins": ("wire,from,to,size\n1,X1/1,X2/4,2.5 mm2\n2,X1/2,X2/5,2.5 mm2\n", [], [("2.5 mm2", 1, None, "", "")] * 2),
    "slash in a name": ("wire,from,to,size\n1,24V/GND,pump:1,2.5 mm2\n", [], [("2.5 mm2", 1, None, "", "")]),
    "dotted pins": ("wire,from,to,size\n1,J1.2,J4.11,2.5 mm2\n2,J1.3,J4.12,2.5 mm2\n", [], [("2.5 mm2", 1, None, "", "")] * 2),
    "german": (
        "Ader;Von;Klemme;Nach;Klemme;Querschnitt mm²;Farbe;Länge (m)\n1;X1;1;X2;2;1,5;SW;1,25\n2;X1;2;X2;3;2,5;GN/GE;3,5\nSumme;;;;;;;4,75\n",
        [], [("1.5 mm2", 1, 1250, "black", ""), ("2.5 mm2", 1, 3500, "green", "yellow")],
    ),
    "german words": ("Von;Nach;Querschnitt mm²;Farbe\na:1;b:1;1,5;rot-weiß\na:2;b:2;1,5;hellblau\n", [], [("1.5 mm2", 1, None, "red", "white"), ("1.5 mm2", 1, None, "light blue", "")]),
    "french": ("Fil;De;Borne;Vers;Borne;Section (mm²);Couleur;Longueur (mm)\n1;X1;1;X2;2;1,5;NO;900\n2;X1;2;X2;3;1,5;JA;900\n", [], [("1.5 mm2", 1, 900, "black", ""), ("1.5 mm2", 1, 900, "yellow", "")]),
    "spanish": ("Hilo;Desde;Hasta;Sección (mm²);Color;Longitud (mm)\n1;X1:1;X2:2;1,5;NE;900\n2;X1:2;X2:3;1,5;AZ;900\n", [], [("1.5 mm2", 1, 900, "black", ""), ("1.5 mm2", 1, 900, "blue", "")]),
    "grey or green": ("wire,from,to,colour\n1,a:1,b:1,GR\n", ["colour:GR"], [(None, 1, None, "green", "")]),
    "codes": ("wire,from,to,colour\n1,a:1,b:1,RD/WH\n2,a:2,b:2,GNYE\n3,a:3,b:3,BK\n", [], [(None, 1, None, "red", "white"), (None, 1, None, "green", "yellow"), (None, 1, None, "black", "")]),
    "unknown colour": ("wire,from,to,colour\n1,a:1,b:1,light puce\n", [], [(None, 1, None, "light puce", "")]),
    "stripe column": ("wire,from,to,colour,stripe\n1,a:1,b:1,red,WH\n", [], [(None, 1, None, "red", "white")]),
    "units row": ("wire,from,to,size,length\n,,,mm²,mm\n1,a:1,b:1,14,1200\n", [], [("14 mm2", 1, 1200, "", "")]),
    "totals and titles": (
        f"{H} (mm)\nBow loom,,,,\n1,a:1,b:1,2.5 mm2,900\n,,,,\nSubtotal,,,,900\nStern,,,,\n2,a:2,b:2,2.5 mm2,900\nTotal,,,,1800\n,,,,1800\n",
        [], [("2.5 mm2", 1, 900, "", "")] * 2,
    ),
    "header once more": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,900\n{H} (mm)\n2,a:2,b:2,2.5 mm2,900\n", [], [("2.5 mm2", 1, 900, "", "")] * 2),
    "title above": (f"Selkie loom,,,,\nrev B,,,,\n{H} (mm)\n1,a:1,b:1,2.5 mm2,900\n", [], [("2.5 mm2", 1, 900, "", "")]),
    "merged header": (",From,,To,,\nWire,Device,Pin,Device,Pin,mm²\n1,a,1,b,2,2.5\n", [], [("2.5 mm2", 1, None, "", "")]),
    "two lengths columns": ("wire,from,to,length (mm),cut length (mm)\n1,a:1,b:1,900,950\n", ["column:length"], [(None, 1, 900, "", "")]),
    "tabs": ("wire\tfrom\tto\tsize\n1\ta:1\tb:1\t2.5 mm2\n", [], [("2.5 mm2", 1, None, "", "")]),
    "pipes": ("wire|from|to|size\n1|a:1|b:1|2.5 mm2\n", [], [("2.5 mm2", 1, None, "", "")]),
    "sep line": ("sep=;\nwire;from;to;size\n1;a:1;b:1;2,5 mm2\n", [], [("2.5 mm2", 1, None, "", "")]),
    "dashes for nothing": (f"{H} (mm)\n1,a:1,b:1,-,–\n", [], [(None, 1, None, "", "")]),
    "zero-led numbers": (f"{H} (mm)\n0001,a:1,b:1,2.5 mm2,900\n", [], [("2.5 mm2", 1, 900, "", "")]),
    "negative": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,-900\n", [], None),
    "no to": (f"{H} (mm)\n1,a:1,,2.5 mm2,900\n", [], None),
    "twice": (f"{H} (mm)\n1,a:1,b:1,2.5 mm2,900\n1,a:2,b:2,2.5 mm2,900\n", [], None),
    "remark": ("wire,from,to,size,remarks\n1,a:1,b:1,2.5 mm2,see note 1200\n", [], [("2.5 mm2", 1, None, "", "")]),
    "size in two words": ("wire,from,to,CSA mm2\n1,a:1,b:1,\"2,5\"\n", [], [("2.5 mm2", 1, None, "", "")]),
}  # fmt: skip


@pytest.mark.parametrize(
    ("lengths", "keys", "told"),
    [
        ("1.2 1.1 1.3 1.25 1200 9900", ["shift", "fault", "as"], "They are 1200 and 9900 m, where the others lie between 1.1 and 1.3 m."),
        ("0.5 0.5 0.5 0.5 700 9900", ["shift", "fault", "as"], "They are 700 and 9900 m, where the others are 0.5 m."),
        ("0.4 0.4 0.4 0.4 700 9900", ["fault", "as"], "They are 700 and 9900 m, where the others are 0.4 m."),  # 9.9 m is no neighbour of 0.4 m
        ("2 2000", ["shift", "fault", "as"], "It is 2000 m, where the other is 2 m."),
    ],
)  # fmt: skip
def test_lengths_out_of_proportion_are_asked_about(lengths: str, keys: list[str], told: str) -> None:
    rows = "".join(f"{n},a:{n},b:{n},1 mm2,{length}\n" for n, length in enumerate(lengths.split(), 1))
    (doubt,) = list_of(f"{H} (m)\n{rows}").doubts
    assert [option.key for option in doubt.options] == keys
    assert doubt.evidence == told
    words, odd = {option.key: option.words for option in doubt.options}, told.split(",")[0].split(" ", 2)[2]
    assert words["as"] == f"yes, {odd}"
    if "shift" in keys:
        assert (
            words["shift"]
            == f"no: {' and '.join(f'{float(one) / 1000:g}' for one in odd.split()[:-1:2])} m, a unit mistaken"
        )


@pytest.mark.parametrize("name", LISTS)
def test_lists_raise_just_their_doubts_and_read_as_answered(name: str) -> None:
    text, doubts, wires = LISTS[name]
    reading = list_of(text)
    assert asked(reading) == doubts
    for doubt in reading.doubts:
        assert doubt.likeliest in {option.key for option in doubt.options}
        assert doubt.evidence
        if doubt.id == "bare-size":  # what is proposed is what the evidence speaks for
            speaks = [one for one in ("mm²", "nothing", "no gauge") if one in doubt.evidence]
            assert bool(speaks) is (doubt.likeliest == "metric"), doubt.evidence
        assert str(doubt).endswith(".")
    answered = list_of(text, accept=True)
    assert not answered.doubts
    if wires is None:
        assert reading.faults or (answered.faults or min(w.length_m for w in answered.wires) > 0.02)
    else:
        assert not answered.faults
        assert brief(answered) == wires


@pytest.mark.parametrize(
    ("name", "answers", "wires"),
    [
        ("comma and three digits", {"said": {"decimal": "comma"}}, [("2.5 mm2", 1, 1.2, "", "")]),
        ("bare lengths", {"units": {"length": "in"}}, [("2.5 mm2", 1, 30480, "", "")]),
        ("bare whole sizes", {"said": {"bare-size": "awg"}}, [("AWG 4", 1, 900, "", ""), ("AWG 6", 1, 900, "", "")]),
        ("core of a cable", {"said": {"multicore": "parallel"}}, [("1.5 mm2", 3, 900, "", "")]),
        ("grey or green", {"said": {"colour:GR": "grey"}}, [(None, 1, None, "grey", "")]),
        ("two lengths columns", {"columns": {"length": 4}}, [(None, 1, 950, "", "")]),
        ("slashed pins", {"said": {"split": "none"}}, [("2.5 mm2", 1, None, "", "")] * 2),
        ("sizes titled AWG", {"columns": {"size": 3}}, [("AWG 14", 1, 900, "", "")]),
        ("plain", {"columns": {"length": -1}}, [("2.5 mm2", 1, None, "", "")]),
    ],
)  # fmt: skip
def test_every_answer_is_really_used(name: str, answers: dict, wires: list) -> None:
    reading = list_of(LISTS[name][0], **answers)
    assert not reading.doubts
    assert not reading.faults
    assert brief(reading) == wires
    if name == "slashed pins":
        assert reading.wires[0].start == ("X1/1", "")


def test_a_column_named_by_hand_keeps_the_unit_of_its_title() -> None:
    text = "wire,from,to,thickness AWG,how far (mm)\n1,a:1,b:1,14,1200\n"
    assert [w.size for w in list_of(text).wires] == [None]
    reading = list_of(text, columns={"size": 3, "length": 4})
    assert brief(reading) == [("AWG 14", 1, 1200, "", "")]


def test_the_projects_habit_decides_and_is_said() -> None:
    text = LISTS["comma and three digits"][0]
    reading = list_of(text, habit="point")
    assert not reading.doubts
    assert reading.wires[0].length_m == pytest.approx(1.2)
    assert any("as the project has it" in str(note) for note in reading.notes)


def test_all_that_is_passed_over_or_unused_is_named() -> None:
    told = " ".join(map(str, list_of(LISTS["totals and titles"][0]).notes))
    assert "rows 5, 8, a total" in told
    assert "“Bow loom”" in told
    assert "row 9, figures without a wire" in told
    assert "Not used: column E “remarks”" in " ".join(map(str, list_of(LISTS["remark"][0]).notes))
    assert any("names no pins" in str(note) for note in list_of("wire,from,to\n1,a,b\n").notes)
    assert any("numbered W1" in str(note) for note in list_of("from,to\na:1,b:1\n").notes)


@pytest.mark.parametrize(
    ("title", "field"),
    [
        ("Wire No.", "wire"), ("From Connector", "from"), ("from_pin", "from-pin"), ("Pin A", "from-pin"), ("Destination", "to"),
        ("To (pin)", "to-pin"), ("Cross-section [mm²]", "size"), ("Wire size AWG", "size"), ("AWG", "size"), ("Base colour", "colour"),
        ("Tracer", "stripe"), ("Run length in mm", "length"), ("Leiterquerschnitt", "size"), ("Aderfarbe", "colour"), ("Länge", "length"),
        ("Longueur (mm)", "length"), ("Repère", "wire"), ("Sección", "size"), ("Hasta", "to"), ("Cavity", "pin"), ("Signal", "name"),
        ("Schnittlänge [mm]", "length"), ("Longueur de coupe (mm)", "length"), ("Długość przewodu", "length"), ("Total length", "length"),
        ("Remarks", "remark"), ("Weight", None), ("Price (m)", None),
    ],
)  # fmt: skip
def test_titles(title: str, field: str | None) -> None:
    assert meaning_of(title) == field


@pytest.mark.parametrize(
    ("title", "unit"),
    [("length_mm", "mm"), ("Length mm", "mm"), ("Wire Length (cm)", "cm"), ("Length [ft]", "ft"), ("Run length in mm", "mm"), ("Size, mm2", "mm2"), ("AWG", "awg"), ("Length", "")],
)  # fmt: skip
def test_units_in_titles(title: str, unit: str) -> None:
    assert unit_note(title) == unit


@pytest.mark.parametrize(
    ("text", "pin"),
    [
        ("X1:3", ("X1", "3")), ("battery +", ("battery", "+")), ("X1 pin 4", ("X1", "4")), ("Fuse box", ("Fuse box", "")),
        ("pump −", ("pump", "-")), ("J2, cavity B7", ("J2", "B7")), ("24V/GND", ("24V/GND", "")), ("X1/3", ("X1/3", "")),
    ],
)  # fmt: skip
def test_pins_written_behind_the_end(text: str, pin: tuple[str, str]) -> None:
    assert split_pin(text) == pin
    assert split_pin("X1/3", PinHabit("/")) == ("X1", "3")


@pytest.mark.parametrize(
    ("rows", "fault"),
    [
        ("1,,b:1,2.5 mm2,1", "row 2, column B: “from” is empty."),
        ("1,a:1,b:1,zero,1", "row 2, column D"),
        ("1,a:1,b:1,2.5 mm2,-4", "row 2, column E"),
        ("1,a:1,b:1,2.5 mm2,1\n1,a:1,c:1,2.5 mm2,1", "row 3, column A: wire 1 is in row 2 already."),
        ("1,a:1,a:1,2.5 mm2,1", "row 2, column C: the wire ends where it starts."),
        ("", "no wire below the header"),
    ],
)
def test_faults_name_their_cell(rows: str, fault: str) -> None:
    assert fault in str(list_of(f"wire,from,to,size,length (m)\n{rows}\n").faults[0])


def test_all_faults_are_collected_and_nothing_is_imported_by_half() -> None:
    reading = list_of("wire,from,to,size,length (m)\n1,,b,zero,-4\n2,a,,x,y\n3,a,b,1 mm2,1\n")
    assert len(reading.faults) == 6
    with pytest.raises(EditError, match="nothing was imported"):
        add_wires(Design(), reading)
    assert len(add_wires(Design(), reading, skip_bad=True).wires) == 1
    with pytest.raises(EditError, match="doubts"):
        add_wires(Design(), list_of(LISTS["bare lengths"][0]))
    assert "has a wire 2 already" in str(list_of("wire,from,to\n1,a,b\n2,a,c\n", taken=("2",)).faults[0])


def test_the_shop_list_that_ships() -> None:
    reading = list_of(shop_list())
    assert not reading.doubts
    assert len(reading.wires) == 12
    assert [str(fault) for fault in reading.faults] == [
        "row 17, column D: “to” is empty.",
        "row 18, column F: “thin” is not a size such as AWG 8 or 10 mm2.",
    ]
    by_id = {wire.wire: wire for wire in reading.wires}
    assert by_id["T4"].length_m == pytest.approx(1.7505)
    assert by_id["T1"].size == "2.5 mm2"
    assert (by_id["T3"].colour, by_id["T3"].stripe) == ("red", "white")


def test_ends_are_shared_and_pins_collected() -> None:
    design = add_wires(Design(), list_of("wire,from,to\n1,Fuse Box:F1,Pump:+\n2,fuse box:F2,Lamp\n3,GND,Lamp\n"))
    ends = index_of(design).ends
    assert [cavity.id for cavity in ends["fuse-box"].cavities] == ["F1", "F2"]
    assert ends["gnd"].kind is EndKind.STUD
    assert len(ends["lamp"].cavities) == 2
    assert not any(f.code == "wire.open" for f in analyse(design).findings)
    joined = add_wires(Design(), list_of("wire,from,to\n4,Splice 1:1,Pump:-\n5,Splice 1:2,Lamp\n"))
    (splice,) = [end for end in joined.ends if end.kind is EndKind.SPLICE]
    assert [cavity.id for cavity in splice.cavities] == ["1"]  # what meets there is joined, however it is numbered


def test_a_list_without_names_for_its_ends_is_refused_until_they_are_named() -> None:
    with pytest.raises(InputError, match="from and to"):
        list_of("x,y,z\n1,2,3\n")
    reading = list_of("x,y,z\nW1,a:1,b:1\n", columns={"wire": 0, "from": 1, "to": 2}, header_row=1)
    assert [(w.wire, w.start, w.finish) for w in reading.wires] == [("W1", ("a", "1"), ("b", "1"))]
    assert len(list_of("W1,a:1,b:1\n", columns={"wire": 0, "from": 1, "to": 2}, header_row=0).wires) == 1


def book_of(path: Path, fill) -> sheets.Book:
    book = Workbook()
    fill(book)
    book.save(path)
    return sheets.read_book(path)


def test_workbooks_with_merged_cells_numbers_and_a_hidden_list(tmp_path: Path) -> None:
    def fill(book: Workbook) -> None:
        hidden = book.create_sheet("old wires")
        hidden.sheet_state = "hidden"
        hidden.append(["wire", "from", "to"])
        hidden.append(["H1", "a:1", "b:1"])
        book.create_sheet("notes").append(["nothing here"])
        sheet = book.active
        sheet.title = "loom"
        sheet.append(["Barge loom"])
        sheet.append(["", "From", None, "To", None, "", ""])
        sheet.merge_cells("B2:C2")
        sheet.merge_cells("D2:E2")
        sheet.append(["Wire", "Device", "Pin", "Device", "Pin", "mm²", "Length (m)"])
        sheet.append([1, "Fuse box", "F1", "Pump", 1, 2.5, 1.234])
        sheet.append([2, "Fuse box", "F2", "Lamp", 1, "4", "2,5"])
        sheet.append([3, None, "F3", "Horn", 1, "4", 12])
        sheet.merge_cells("B5:B6")

    book = book_of(tmp_path / "list.xlsx", fill)
    reading = read_list(book)
    assert asked(reading) == ["sheet"]
    assert "(hidden)" in reading.doubts[0].evidence
    one = read_list(book, Answers(sheets=("loom",)))
    assert not one.doubts
    assert [(w.wire, w.size, w.length_m, w.start) for w in one.wires] == [
        ("1", "2.5 mm2", 1.234, ("Fuse box", "F1")),
        ("2", "4 mm2", 2.5, ("Fuse box", "F2")),
        ("3", "4 mm2", 12, ("Fuse box", "F3")),
    ]
    assert any("“notes” is left out" in str(note) for note in one.notes)
    assert any("“old wires” is left out" in str(note) for note in one.notes)
    assert len(read_list(book, Answers(accept=True)).wires) == 4
    with pytest.raises(InputError, match="no sheet “nope”"):
        read_list(book, Answers(sheets=("nope",)))


def test_dates_and_formulas_without_a_result_are_faults(tmp_path: Path) -> None:
    import datetime

    def fill(book: Workbook) -> None:
        book.active.append(["wire", "from", "from pin", "to", "length (m)"])
        book.active.append(["1", "a", datetime.date(2026, 2, 1), "b:1", 2])
        book.active.append(["2", "a", "2", "b:2", "=E2*2"])

    told = [str(fault) for fault in read_list(book_of(tmp_path / "l.xlsx", fill)).faults]
    assert any("row 2, column C" in text and "date" in text for text in told)
    assert any("row 3, column E" in text and "formula" in text for text in told)


def test_xls_and_ods_are_read_like_any_other(tmp_path: Path) -> None:
    rows = [["wire", "from", "to", "size", "length (mm)"], ["1", "a:1", "b:1", "2.5 mm2", 1250]]
    old = xlwt.Workbook()
    page = old.add_sheet("loom")
    for at, row in enumerate(rows):
        for column, value in enumerate(row):
            page.write(at, column, value)
    old.save(str(tmp_path / "l.xls"))
    document = OpenDocumentSpreadsheet()
    table = Table(name="loom")
    for row in rows:
        line = TableRow()
        for value in row:
            kind = {"valuetype": "float", "value": value} if isinstance(value, int) else {"valuetype": "string"}
            cell = TableCell(**kind)
            cell.addElement(P(text=str(value)))
            line.addElement(cell)
        table.addElement(line)
    document.spreadsheet.addElement(table)
    document.save(str(tmp_path / "l.ods"))
    for name in ("l.xls", "l.ods"):
        assert brief(read_list(sheets.read_book(tmp_path / name))) == [("2.5 mm2", 1, 1250, "", "")]


@pytest.mark.parametrize("coding", ["utf-8", "utf-8-sig", "cp1252", "utf-16", "utf-16-le", "latin-1"])
def test_text_codings(tmp_path: Path, coding: str) -> None:
    (tmp_path / "l.csv").write_bytes("wire;from;to;size\n1;Pumpe für;Kühler;2,5 mm²\n".encode(coding))
    assert read_list(sheets.read_book(tmp_path / "l.csv")).wires[0].start[0] == "Pumpe für"


@pytest.mark.parametrize(
    "data",
    [b"PK\x03\x04rubbish", b"\x00\x01\x02\x00", b"PK", bytes(range(256)) * 8, b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1x"],
)
def test_hostile_files_are_a_sentence(tmp_path: Path, data: bytes) -> None:
    (tmp_path / "bad.xlsx").write_bytes(data)
    with pytest.raises(UmberError) as caught:
        read_list(sheets.read_book(tmp_path / "bad.xlsx"))
    assert str(caught.value).endswith(".")


def test_what_is_no_list_is_refused_with_the_limit(tmp_path: Path) -> None:
    (tmp_path / "long.csv").write_text("a,b\n" * 30_000)
    (tmp_path / "wide.csv").write_text("wire,from,to\n1,a," + "b" * 3000 + "\n")
    for name, word in (("long.csv", "21000 rows"), ("wide.csv", "2000 characters")):
        with pytest.raises(StoreError, match=word):
            sheets.read_book(tmp_path / name)
    with pytest.raises(StoreError, match="no ordinary file"):
        sheets.read_book(Path("/dev/zero"))


@given(st.binary(max_size=300))
def test_any_bytes_are_read_or_refused(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    path = tmp_path_factory.mktemp("f") / "f.csv"
    path.write_bytes(data)
    try:
        read_list(sheets.read_book(path), Answers(accept=True))
    except UmberError:
        return


CELL = st.text(alphabet=st.characters(exclude_categories=("Cs", "Cc")), max_size=12)


@given(st.lists(st.lists(CELL, min_size=6, max_size=6), min_size=1, max_size=8))
def test_any_cells_give_wires_faults_or_rows_that_are_named(rows: list[list[str]]) -> None:
    cells = [["wire", "from", "to", "size", "colour", "length"], *[[cell.strip() for cell in row] for row in rows]]
    reading = read_list(sheets.Book("l", (sheets.Sheet("", cells),)), Answers(accept=True))
    design = add_wires(Design(), reading, skip_bad=True)
    assert len(design.wires) == len(reading.wires)
    read = (
        {wire.row for wire in reading.wires}
        | {fault.row for fault in reading.faults}
        | {row for row, _ in reading.sheets[0].passed}
    )
    filled = {at for at, row in enumerate(cells[1:], 2) if any(row)}
    assert filled <= read


def test_column_letters() -> None:
    assert [column_letter(n) for n in (0, 25, 26, 701, 702)] == ["A", "Z", "AA", "ZZ", "AAA"]
    assert [column_index(text) for text in ("A", "z", "AA", "1", "")] == [0, 25, 26, None, None]


def test_answers_are_remembered_for_lists_with_the_same_titles(tmp_path: Path) -> None:
    memory = tmp_path / "kept" / "answers.json"
    book = sheets.Book(
        "l", (sheets.Sheet("", [line.split(",") for line in LISTS["bare whole sizes"][0].splitlines()]),)
    )
    given_ = Answers(said={"bare-size": "awg"})
    remember(read_list(book, given_), given_, memory)
    reading, used = read_with_memory(book, Answers(), path=memory)
    assert not reading.doubts
    assert brief(reading)[0][0] == "AWG 4"
    assert used.said == {"bare-size": "awg"}
    assert "before: bare-size awg" in str(reading.notes[0])
    assert brief(read_with_memory(book, Answers(said={"bare-size": "metric"}), path=memory)[0])[0][0] == "4 mm2"
    memory.write_text("{rubbish")
    assert read_with_memory(book, Answers(), path=memory)[0].doubts


def test_an_answer_is_used_again_only_where_its_question_is_open(tmp_path: Path) -> None:
    memory = tmp_path / "answers.json"
    bare, said = (
        sheets.Book("l", (sheets.Sheet("", [line.split(",") for line in text.splitlines()]),))
        for text in (f"{H}\n1,a:1,b:1,2.5 mm2,1200\n", f"{H}\n1,a:1,b:1,4,1200 cm\n")
    )
    given_ = Answers(units={"length": "in"})
    remember(read_list(bare, given_), given_, memory)
    assert read_with_memory(bare, Answers(), path=memory)[1].units == {"length": "in"}
    reading, used = read_with_memory(said, Answers(), path=memory)
    assert (brief(reading)[0][2], used.units) == (12000, {})
    assert not any("before" in str(note) for note in reading.notes)


def test_what_is_told_says_where_and_of_what() -> None:
    """A wire twice is told with its sheet where the list has several; unusual pins with two of them; a code that was
    chosen to be two colours is both."""
    grid = [["wire", "from", "to"], ["1", "a", "b"]]
    book = sheets.Book("l", (sheets.Sheet("port", grid), sheets.Sheet("aft", grid)))
    reading = read_list(book, Answers(sheets=("port", "aft")))
    assert "wire 1 is in row 2 of “port” already" in str(reading.faults[0])
    odd = list_of("wire,from,from pin,to,size,length (m)\n1,a,x7-long-pin,b,1 mm2,1\n2,a,y8-long-pin,c,1 mm2,1\n")
    told = next(doubt for doubt in odd.doubts if doubt.id == "pin-column")
    assert told.evidence.startswith("“x7-long-pin” and “y8-long-pin” could be pins")
    rules = ColourRules(("en",), {"X": "red/white"})
    assert colour_cell("X", rules) == ("red", "white")


def test_screens_and_pins_as_they_are_written() -> None:
    landed = list_of(
        "wire,from,to,size,length (m),screen\n1,a:1,b:1,1 mm2,1,box\n2,a:2,b:2,1 mm2,1,yes\n3,a:3,b:3,1 mm2,1,\n"
    )
    assert [(one.screened, one.screen) for one in landed.wires] == [(True, "box"), (True, ""), (False, "")]
    ditto = list_of('wire,from,from pin,to,to pin,size,length (m)\n1,a,7,b,1,1 mm2,1\n2,"""","""",c,|,1 mm2,1\n')
    assert [(one.start, one.finish[1]) for one in ditto.wires] == [(("a", "7"), "1"), (("a", "7"), "|")]


def test_a_later_revision_keeps_what_still_holds() -> None:
    first = (
        "wire,from,to,size,colour,length (m)\n1,box:F1,pump:+,2.5 mm2,red,3\n2,pump:-,box:-,2.5 "
        "mm2,black,3\n3,box:F2,lamp:+,1 mm2,red,4\n"
    )
    design = add_wires(Design(), list_of(first))
    design = lay(design, suggest(design, ["1", "2", "3"]))
    design = put(
        set_size(design, ["1"], "4 mm2", True), "wires", index_of(set_size(design, ["1"], "4 mm2", True)).wires["1"]
    )
    second = (
        "wire,from,to,size,colour,length (m)\n1,box:F1,pump:+,2.5 mm2,red,3\n2,pump:-,box:-,4 "
        "mm2,blue,3\n4,box:F3,horn:+,1 mm2,red,2\n"
    )
    reading = list_of(second)
    changes = [(c.kind, c.wire) for c in differences(design, reading)]
    assert changes == [("changed", "2"), ("added", "4"), ("gone", "3")]
    bare = list_of("wire,from,to\n1,box,PUMP\n2,pump,box\n3,box,lamp\n")  # what a list leaves open is no difference
    assert not list(differences(design, bare))
    longer = list_of(second.replace("length (m)", "length (m),pair").replace(",blue,3", ",blue,3.3,P1"))
    told = {c.wire: str(c) for c in differences(design, longer)}
    assert "3.00 m → 3.30 m" in told["2"]
    two = list_of("wire,from,to,size\n2,pump:-,box:-,2x2.5 mm2\n", accept=True, said={"multicore": "parallel"})
    assert "1 → 2 in parallel" in next(str(c) for c in differences(design, two) if c.wire == "2")
    second_wire = index_of(merge(design, longer)).wires["2"]
    assert (second_wire.stated_m, second_wire.pair) == (pytest.approx(3.3), "P1")
    merged = merge(design, reading)
    wires = index_of(merged).wires
    assert (wires["1"].size, wires["1"].locked) == ("4 mm2", True)
    assert (wires["2"].size, wires["2"].colour) == ("4 mm2", "blue")
    assert set(wires) == {"1", "2", "4"}
    assert merged.segments == design.segments
    assert index_of(merged).routes["1"].laid
    assert not [c for c in differences(merged, reading) if c.kind != "changed"]


def test_reading_grows_with_the_rows_not_with_their_square() -> None:
    def calls(count: int) -> int:
        rows = "\n".join(f'{n},box/{n},"pump {n}",{(14, 12, 18)[n % 3]},"1,{n % 900 + 100}"' for n in range(count))
        read: list[ListReading] = []
        many = calls_of(lambda: read.append(list_of(f"{H}\n{rows}\n")))
        assert len(read[0].wires) == count
        assert read[0].doubts
        return many

    calls(100)
    assert calls(1500) < 6 * calls(300)  # five times the rows; the square would be 25


def test_formulas_are_neutralised() -> None:
    rows = [["=1+1", "+x", "-", "@now", "plain", -4.5, None]]
    assert sheets.csv_text(rows).strip() == "'=1+1,'+x,-,'@now,plain,-4.5,"
    book = load_workbook(io.BytesIO(sheets.xlsx_bytes([("a", rows)])))
    assert [cell.value for cell in book["a"][1]][:4] == ["=1+1", "+x", "-", "@now"]
    assert all(cell.data_type != "f" for cell in book["a"][1])
    wide = load_workbook(io.BytesIO(sheets.xlsx_bytes([("a", [["x" * 200, "y" * 20, "z"]])])))["a"].column_dimensions
    assert [wide[letter].width for letter in "ABC"] == [60, 22, 8]
    kept = ["=1+1", "\t+x", "'abc", "'", "-", "−4", "plain", ""]
    assert [sheets.unquoted(str(sheets.safe_cell(cell))) for cell in kept] == kept


def test_exported_wire_list_reads_back_the_same(demo: Design, tmp_path: Path) -> None:
    write_export(analyse(demo), "wires-csv", tmp_path / "w.csv")
    back = read_list(sheets.read_book(tmp_path / "w.csv"))
    assert back.sound
    for wire in add_wires(Design(), back).wires:
        was = index_of(demo).wires[wire.id]
        for name in ("name", "circuit", "size", "colour", "stripe"):
            assert getattr(wire, name) == getattr(was, name)
        assert (wire.start.cavity, wire.finish.cavity) == (was.start.cavity, was.finish.cavity)
        assert wire.stated_m == pytest.approx(index_of(demo).length_m(was), abs=1e-4)


def test_failed_export_leaves_the_old_file(demo: Design, tmp_path: Path) -> None:
    with pytest.raises(StoreError, match="no export format"):
        export_bytes(analyse(demo), "docx")
    with pytest.raises(StoreError, match="can't be written"):
        write_export(analyse(demo), "json", tmp_path / "no" / "d.json")


def test_a_large_workbook_comes_in_whole_on_a_busy_machine(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Its reader gets to work late: what is over a pipe's 64 KB used to be lost, and the list refused."""
    rows = [
        ["wire", "from", "to", "size", "length"],
        *(
            [f"W{n}", f"A{n * 7919 % 10007}:1", f"B{n * 104729 % 10007}:2", "1.5 mm2", f"{n % 997 / 100} m"]
            for n in range(6000)
        ),
    ]
    path = tmp_path / "large.xlsx"
    path.write_bytes(xlsx_bytes([("wires", rows)]))
    assert path.stat().st_size > 150_000
    started = subprocess.Popen

    def late(words: list[str], **more: Any) -> Any:
        code = (
            f"import runpy, sys, time; time.sleep(0.4); sys.argv[0] = {words[2]!r}; runpy.run_path({words[2]!r}, "
            "run_name='__main__')"
        )
        return started([words[0], "-I", "-c", code], **more)

    monkeypatch.setattr(subprocess, "Popen", late)
    assert [len(sheet.grid) for sheet in read_book(path).sheets] == [6001]


@pytest.mark.parametrize(("third", "told"), [
    ('"5 pole plug,2,1.5,red', "row 3"), ('W3,"box,2,1.5,red', "row 3"), ('W3,box,2,1.5,"red', "row 3"), ('W3,"box"x,2,1.5,red', "row 3"), ('W3,"box, rear",2,1.5,red', ""),
    ('W3,"box\nrear, left",2,1.5,red', ""), ('W3,5" pipe,2,1.5,red', ""), ('W3,"5"" pipe",2,1.5,red', ""),
])  # fmt: skip
def test_a_quote_that_swallows_rows_is_a_fault_with_its_row(tmp_path: Path, third: str, told: str) -> None:
    path = tmp_path / "list.csv"
    for later in ("", 'W9,"lamp",1,1.5,red\n', '"W9",lamp,1,1.5,"red"\n'):
        path.write_text(
            f"wire,to,pin,size,colour\nW2,box,1,1.5,red\n{third}\n"
            + "".join(f"W{n},box,{n},1.5,red\n" for n in range(4, 9))
            + later
        )
        if not told:
            assert len(read_book(path).sheets[0].grid) == 8 + bool(later)
            continue
        with pytest.raises(StoreError, match=told):
            read_book(path)
