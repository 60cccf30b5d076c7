"""The shell of Kit and Make: keys and statuses other programs rely on."""

from __future__ import annotations

import io
import itertools
import json
import re
import zlib
from collections import Counter
from pathlib import Path

import pytest
from openpyxl import load_workbook
from pypdf import PdfReader

from demos import worked_out
from umber_trunk.app.paper.labels import forms_pdf
from umber_trunk.cli.main import main
from umber_trunk.core.analysis import analyse
from umber_trunk.core.buy.lines import Spares
from umber_trunk.core.buy.packs import in_packs, packs_of
from umber_trunk.core.buy.shopping import shopping, shopping_rows, unpriced
from umber_trunk.core.buy.shopping_sheet import shopping_sheet
from umber_trunk.core.catalog.parts import Splice
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Decision
from umber_trunk.core.harness.way import Measure
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.book import bags, labels
from umber_trunk.core.make.operation import OPS
from umber_trunk.core.make.press import Press
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.papers.cut_paper import cut_sheet
from umber_trunk.core.papers.label_forms import LabelForm
from umber_trunk.core.papers.traveller import kit_sheets, traveller
from umber_trunk.core.prove.testsheet import test_sheet as sheet_of_tests
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.files import StoreError
from umber_trunk.store.gauges import PressServer, PressTerminal, ask_gauge, tell_gauge
from umber_trunk.store.project import ProjectFile

Capture = pytest.CaptureFixture[str]


@pytest.fixture(scope="module")
def tractor(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("t") / "t.umber"
    put_demo(path, "tractor").close()
    return path


@pytest.fixture
def shore(tmp_path: Path) -> Path:
    path = tmp_path / "h.umber"
    ProjectFile.create(path, demo("shore"), copied=False).close()
    return path


def told(capsys: Capture, *words: object) -> tuple[int, object]:
    capsys.readouterr()
    status = main([str(word) for word in words])
    return status, json.loads(capsys.readouterr().out)


def test_coils_say_what_is_cut_from_what(shore: Path, tmp_path: Path, capsys: Capture) -> None:
    results = worked_out("shore")
    sizes = sorted({piece.size for piece in pieces(results, 1)})
    stock = tmp_path / "stock.csv"
    stock.write_text(
        "coil,size,metal,colour,length_m\n" + "".join(f"C{n},{size},,,60\n" for n, size in enumerate(sizes))
    )
    status, found = told(capsys, "coils", shore, "--stock", stock, "--units", 2, "--json")
    assert status == 0
    assert {"cuts", "waste_m", "bound_m", "short"} <= set(found)
    assert Counter((c["wire"], c["unit"]) for c in found["cuts"]) == Counter(
        (p.wire, p.unit) for p in pieces(results, 2)
    )
    assert len(found["sample_cuts"]) == len(sample_pieces(results))
    for coil in found["opened"]:
        here = sorted((c["at_m"], c["length_m"]) for c in found["cuts"] + found["sample_cuts"] if c["coil"] == coil)
        assert all(a + long <= b + 1e-3 for (a, long), (b, _) in itertools.pairwise(here))
        assert here[-1][0] + here[-1][1] <= 60 + 1e-3
    stock.write_text(f"coil,size,length_m\nC0,{sizes[0]},1\n")
    status, found = told(capsys, "coils", shore, "--stock", stock, "--json")
    assert status == 1
    assert found["short"]
    assert all(one["why"] for one in found["short_pieces"])
    stock.write_text('coil,size,length_m\n,thick,"1,200"\nC1,1 mm2,-3\nC1,1 mm2,3\n')
    assert main(["coils", str(shore), "--stock", str(stock)]) == 2
    said = capsys.readouterr().err
    for fault in (
        "row 2, coil",
        "row 2, size",
        "row 2, length_m",
        "row 3, length_m",
        "row 4, coil",
        "Nothing was taken over",
    ):
        assert fault in said
    assert main(["coils", str(shore)]) == 2


def test_the_shelf_goes_in_and_out_and_may_be_a_file_of_its_own(shore: Path, tmp_path: Path, capsys: Capture) -> None:
    stock, out, shelf = tmp_path / "s.csv", tmp_path / "o.xlsx", tmp_path / "shop.umbershelf"
    stock.write_text("coil;size;metal;colour;length_m\nC1;1 mm2;copper;red/white;12,5\n")
    assert main(["shelf", str(shore), "--read", str(stock)]) == 0
    assert main(["shelf", str(shore), "--write", str(out)]) == 0
    assert load_workbook(out).active["A2"].value == "C1"
    status, rows = told(capsys, "shelf", shore, "--json")
    assert (status, rows) == (
        0,
        [
            {
                "coil": "C1",
                "size": "1 mm2",
                "metal": "copper",
                "colour": "red/white",
                "length_m": 12.5,
                "left_m": 12.5,
                "cuts": 0,
            }
        ],
    )
    assert main(["shelf", str(shore), "--use", str(shelf)]) == 0
    assert told(capsys, "shelf", shore, "--json") == (0, [])
    assert main(["shelf", str(shelf), "--read", str(out)]) == 0
    assert told(capsys, "shelf", shore, "--json")[1] == rows
    assert main(["shelf", str(shore), "--use", "inside"]) == 0
    assert told(capsys, "shelf", shore, "--json")[1] == rows


def test_a_decision_stands_on_every_paper(shore: Path, tmp_path: Path, capsys: Capture) -> None:
    assert main(["instead", str(shore), "B1", "--size", "50 mm2", "--who", "Mara", "--why", "no 35 left"]) == 0
    assert "decided by Mara" in capsys.readouterr().out
    for kind in ("cuts-csv", "traveller", "book"):
        assert main(["export", str(shore), "-o", str(tmp_path / kind), "--format", kind]) == 0
    assert "decided by Mara" in (tmp_path / "cuts-csv").read_text("utf-8-sig")
    with ProjectFile.open(shore, for_writing=False) as project:
        results = analyse(project.design)
    assert any("Mara" in cell for table in traveller(results).tables for row in table.rows for cell in row)
    assert any("Mara" in row.told for row in shopping(results, 1))
    assert main(["instead", str(shore), "B1", "--size", "1 mm2", "--who", "Mara"]) == 2


def test_the_order_keeps_its_contract(tractor: Path, capsys: Capture) -> None:
    status, found = told(capsys, "order", tractor, "--units", 2, "--hands", 1, "--json")
    assert status == 0
    assert isinstance(found, dict)
    keys = {"n", "op", "wire", "end", "unit", "tool", "setting", "part", "housing", "after", "seconds", "text"}
    state, changes = None, 0
    for number, step in enumerate(found["steps"], 1):
        assert keys <= set(step)
        assert step["n"] == number
        assert step["op"] in OPS
        assert all(a < number for a in step["after"])
        if step["tool"]:
            changes += state not in (None, (step["tool"], step["setting"]))
            state = (step["tool"], step["setting"])
    assert changes == found["tool_changes"] <= 1.15 * found["bound"]
    assert found["other_school"]["tool_changes"] > changes
    assert main(["order", str(tractor), "--units", "2"]) == 0
    assert "no order does with fewer than" in capsys.readouterr().out
    assert main(["order", str(tractor), "--units", "0"]) == 2


def test_wirecheck_is_sound_only_when_it_is_as_claimed(shore: Path, capsys: Capture) -> None:
    honest = ["wirecheck", "--claim", "35 mm2 copper", "--length", "2m", "--mass", "620g", "--od", "11.2mm", "--strands", "1100x0.2mm", "--resistance", "1.1mohm", "--ambient", "20C"]  # fmt: skip
    status, found = told(capsys, *honest, "--json")
    assert status == 0
    assert {"area_mm2", "area_sd_mm2", "metals", "consistent", "verdict", "next_reading"} <= set(found)
    assert sum(found["metals"].values()) == pytest.approx(1, abs=1e-3)
    assert 32 < found["area_mm2"] < 36
    assert main([*honest, "--in", str(shore)]) == 0
    short = [*honest, "--sold", "100m", "--coil-resistance", "40 mohm"]
    assert main(short) == 1
    assert main(["wirecheck", "--claim", "35 mm2 copper", "--od", "11.2mm"]) == 1
    assert main(["wirecheck", "--claim", "35 mm2 copper"]) == 2
    assert main(["wirecheck", "--length", "2m", "--mass", "lots"]) == 2


def test_shopping_counts_what_the_ends_need(tmp_path: Path, capsys: Capture, shore: Path) -> None:
    """Contacts counted from the places themselves: one a cavity, however many wires share it."""
    results = worked_out("barge")
    units = 3
    found = {row.id: row for row in shopping(results, units, Spares(10.0, 2, 2)) if row.unit == "pcs"}
    places, known = places_of(results.design), results.once(fitted)
    cavities: dict[str, set[tuple[str, str]]] = {}
    for one in places.ends:
        part = known.of(one).part
        if one.made == "contact" and part:
            cavities.setdefault(part, set()).add((one.end.id, one.cavity.id))
    assert len(cavities) > 4
    for part, where in cavities.items():
        row = found[part]
        assert row.needed == units * len(where)
        assert row.test % 2 == 0
        assert row.test > 0
        assert row.spare >= max(2, 0.1 * row.needed)
        assert row.buy == row.needed + row.test + row.spare
    seals = Counter(known.of(one).seal for one in places.ends if known.of(one).seal)
    for seal, count in seals.items():
        assert found[str(seal)].needed == units * count
    some = next(iter(cavities))
    less = {row.id: row for row in shopping(results, units, Spares(10.0, 2, 2), have={some: 5.0})}
    assert less[some].buy == found[some].buy - 5
    wires = [row for row in shopping(results, units, Spares(0, 0, 1)) if row.what == "wire"]
    assert sum(row.needed for row in wires) == pytest.approx(sum(p.length_m for p in pieces(results, units)))
    assert sum(row.test for row in wires) == pytest.approx(sum(p.length_m for p in sample_pieces(results)))
    for piece in max(pieces(results, 1), key=lambda p: p.length_m), min(pieces(results, 1), key=lambda p: p.length_m):
        mine = [
            p.length_m
            for p in pieces(results, 1)
            if (p.size, p.metal, p.colour) == (piece.size, piece.metal, piece.colour)
        ]
        longest = max(mine)
        for many, each in ((3, 0.9 * longest), (1, longest)):  # three coils too short for the longest are no help to it
            coils = [Coil(f"C{n}", piece.size, each, piece.metal, piece.colour) for n in range(many)]
            rows_ = [r for r in shopping(results, 1, Spares(0, 0, 0), coils) if r.what == "wire" and r.id == piece.size]
            row = min(rows_, key=lambda r: abs(r.needed - sum(mine)))
            assert row.needed == pytest.approx(sum(mine))
            assert row.buy == pytest.approx(row.needed - row.have)
            assert (row.longest_m == pytest.approx(longest)) is (many == 3 or mine.count(longest) > 1)
            assert row.buy >= row.longest_m
    assert packs_of([0.6] * 4, 1.0) == 4  # 2.4 m in all, and still four lengths of a metre
    assert packs_of([0.5, 0.5, 0.4, 0.6], 1.0) == 2
    assert in_packs([], 1.5, 1.0)[:2] == (2.0, 2)  # spare may lie in several packs, and its remainder is one more
    assert in_packs([0.9], 2.05, 1.0)[:2] == (3.0, 3)  # by hand: 2 whole, and 0.05 m beside the 0.9
    metres, packs, note = in_packs([1.2], 0.1, 1.0)
    assert (metres, packs, str(note)) == (pytest.approx(1.3), 0, "a pack holds 1 m: ask for one piece of 1.20 m")
    unknown = unpriced(shopping(results, units))
    assert "printed label" in unknown
    assert all(row.name in unknown for row in shopping(results, units) if not row.price and row.buy)
    rows = shopping_rows(shopping(results, units))
    assert rows[-1][1] == "total"
    assert "12 outlets, printed label" in str([row[13] for row in rows if row[1] == "total"])
    with pytest.raises(InputError):
        Spares(-1)
    have = tmp_path / "have.csv"
    have.write_text(f"part,count\n{some},5\n,x\n")
    assert main(["buy", str(shore), "--parts", str(have)]) == 2
    have.write_text(f"part,count\n{some},5\n")
    before = {row["id"]: row["buy"] for row in told(capsys, "buy", shore, "--json")[1]}  # type: ignore[union-attr]
    mine = next(name for name in before if name.startswith("anchor"))
    have.write_text(f"part,count\n{mine},1\n")
    assert main(["shelf", str(shore), "--parts", str(have)]) == 0
    assert mine in capsys.readouterr().out
    after = {row["id"]: row["buy"] for row in told(capsys, "buy", shore, "--json")[1]}  # type: ignore[union-attr]
    assert after[mine] == before[mine] - 1
    stock = tmp_path / "stock.csv"
    stock.write_text("coil,size,length_m\nC1,1 mm2,3\n")
    assert main(["shelf", str(shore), "--read", str(stock)]) == 0  # coils anew, parts stay
    assert {row["id"]: row["buy"] for row in told(capsys, "buy", shore, "--json")[1]}[mine] == after[mine]
    stock.write_text("coil,size,length_m\npart x,1 mm2,3\n")
    assert main(["shelf", str(shore), "--read", str(stock)]) == 2
    have.write_text(f"part,count\n{some},5\n")
    for ending in ("csv", "xlsx", "pdf"):
        assert main(["buy", str(shore), "--units", "2", "--parts", str(have), "-o", str(tmp_path / f"b.{ending}")]) == 0
    assert load_workbook(io.BytesIO((tmp_path / "b.xlsx").read_bytes())).active.max_row > 5
    assert main(["buy", str(shore), "-o", str(tmp_path / "b.doc")]) == 2


def test_the_bench_in_the_terminal(shore: Path, capsys: Capture, monkeypatch: pytest.MonkeyPatch) -> None:
    lines = "\n\n\nb\nfly\nheight 1\nnote cable was damp\ndefect nicked\n?\nremake\nscrap\nrelease Jo\nq\n"
    monkeypatch.setattr("sys.stdin", io.StringIO(lines))
    assert main(["make", str(shore), "--units", "2", "--build", "A", "--hand", "Mara"]) == 0
    said = capsys.readouterr().out
    for words in (
        "Build A: units 1, 2",
        "isn’t understood".replace("’", "'"),
        "taken at",
        "strand nicked",
        "remake [WIRE",
    ):
        assert words in said, words
    monkeypatch.setattr("sys.stdin", io.StringIO(""))
    assert main(["make", str(shore)]) == 0
    status, log = told(capsys, "log", shore, "--json")
    assert status == 0
    assert isinstance(log, list)
    kinds = Counter(one["kind"] for one in log)
    assert kinds["done"] == 3
    assert {"begin", "undo", "note", "defect", "release", "pause"} <= set(kinds)
    monkeypatch.setattr("sys.stdin", io.StringIO("\n\n"))
    assert main(["make", str(shore), "--unit", "7", "--build", "B", "--station", "loft"]) == 0
    assert main(["log", str(shore), "--merge", str(shore.with_name("h.loft.log.jsonl"))]) == 0
    assert len(told(capsys, "log", shore, "--build", "B", "--json")[1]) == 3  # type: ignore[arg-type]
    assert main(["make", str(shore), "--build", "C"]) == 2


def test_charts_call_for_the_die(tractor: Path, shore: Path, capsys: Capture) -> None:
    status, runs = told(capsys, "charts", tractor, "--json")
    assert status == 1
    assert [run["verdict"] for run in runs].count("check the die") == 1
    assert runs[0]["kind"] == "height"
    assert {"values", "mean", "low", "high", "alarms", "capability", "pull_bound", "told"} <= set(runs[0])
    assert main(["charts", str(shore)]) == 0
    assert "Nothing was measured" in capsys.readouterr().out


def test_gauges_answer_over_a_port_a_terminal_and_visa() -> None:
    press = Press(height_mm=1.5, wear_mm=0.01, scatter_mm=0.0, pull_n=200.0, pull_scatter=0.0)
    with PressServer(press) as served:
        assert tell_gauge(served.address, "CRIMP") == "OK"
        assert ask_gauge(served.address, "height").endswith("mm")
        port = served.port
        assert float(ask_gauge(f"visa:TCPIP::127.0.0.1::{port}::SOCKET", "height").split()[0]) == pytest.approx(
            1.5e-3, abs=5e-6
        )
        for _ in range(10):
            tell_gauge(served.address, "CRIMP")
        assert float(ask_gauge(served.address, "height").split()[0]) == pytest.approx(1.6, abs=0.01)  # worn
        assert float(ask_gauge(served.address, "pull").split()[0]) < 100
        with pytest.raises(StoreError, match="gave no reading"):
            ask_gauge(served.address, "torque")
    with PressTerminal(Press(seed=3)) as line:
        assert ask_gauge(line.address, "height").endswith("mm")
    with pytest.raises(StoreError, match="answer"):
        ask_gauge("tcp:127.0.0.1:1", "height")
    for wrong in ("tcp:host", "com1", "tcp:127.0.0.1:99999"):
        with pytest.raises(InputError):
            ask_gauge(wrong, "height")
    assert Press(seed=5).answer("MEAS:FORC?") == Press(seed=5).answer("MEAS:FORC?")
    assert main(["gauge"]) == 2


def test_the_book_has_every_step_end_face_and_label(tractor: Path, tmp_path: Path) -> None:
    results = worked_out("tractor")
    made = labels(results)
    assert len(made) == 2 * len(results.design.wires)
    for kind in ("traveller", "book", "kit-pdf", "labels-csv", "labels-pdf"):
        assert main(["export", str(tractor), "-o", str(tmp_path / kind), "--format", kind]) == 0
        assert (tmp_path / kind).stat().st_size > 2000
    assert len((tmp_path / "labels-csv").read_text("utf-8-sig").splitlines()) == len(made) + 1
    for bag in bags(results):
        assert bag.cut_m > 0
        assert bag.steps
    assert main(["labels", str(tractor), "-o", str(tmp_path / "l.pdf"), "--size", "40x8"]) == 0
    assert main(["labels", str(tractor), "-o", str(tmp_path / "f.pdf"), "--style", "flag", "--roll", "9"]) == 0
    assert main(["labels", str(tractor), "-o", str(tmp_path / "f.pdf"), "--style", "flag", "--roll", "900"]) == 2
    for wrong in ("40", "1x1", "4,000x9"):
        assert main(["labels", str(tractor), "-o", str(tmp_path / "l.pdf"), "--size", wrong]) == 2


def test_labels_are_as_large_as_asked(tmp_path: Path) -> None:
    data = forms_pdf([LabelForm(one, 40.0, 8.0, ((0.0, 0.0, 40.0, 8.0),)) for one in labels(worked_out("shore"))[:3]])
    boxes = re.findall(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", data)
    assert len(boxes) == 3
    for wide, tall in boxes:
        assert float(wide) * 25.4 / 72 == pytest.approx(40, abs=0.4)
        assert float(tall) * 25.4 / 72 == pytest.approx(8, abs=0.4)
    drawn = [zlib.decompress(part) for part in re.findall(rb"stream\r?\n(x.*?)endstream", data, re.DOTALL)]
    pages = [page for page in drawn if b" Tf" in page]
    assert len(pages) == 3
    for page in pages:  # two lines, one above the other, from end to end inside the label at 96 dots an inch
        lines = re.findall(rb"/F\d+ ([\d.]+) Tf.*?ET", page, re.DOTALL)
        assert len(lines) == 2
        assert all(6 < float(letters) <= 8 / 25.4 * 96 / 2 for letters in lines)
        for line in re.findall(rb"Tm\n(.*?)ET", page, re.DOTALL):
            assert sum(float(step) for step in re.findall(rb"([\d.]+) -?[\d.]+ Td", line)) < 40 / 25.4 * 96


def test_papers_of_a_build_are_those_it_was_begun_with(
    shore: Path, tmp_path: Path, capsys: Capture, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Into one folder, in one go; of a build by its frozen order, whatever was edited since; nothing is written where
    one can't be."""
    monkeypatch.setattr("sys.stdin", io.StringIO(""))
    assert main(["make", str(shore), "--units", "2", "--build", "lot", "--hand", "Mara"]) == 0
    with ProjectFile.open(shore) as project:
        project.commit(edits.set_length(project.design, "S3", Measure(length_m=2.2)), "longer")
    status, found = told(
        capsys, "papers", shore, "-o", tmp_path / "out", "--build", "lot", "--only", "traveller,redline", "--json"
    )
    assert status == 0
    assert isinstance(found, dict)
    assert [row["kind"] for row in found["papers"]] == ["traveller", "redline"]
    assert found["units"] == 2
    paths = sorted((tmp_path / "out").iterdir())
    assert [path.name for path in paths] == sorted(row["file"] for row in found["papers"])
    redline, steps = (
        re.sub(r"\s+", " ", " ".join(page.extract_text() for page in PdfReader(path).pages)) for path in paths
    )
    assert "1400 mm" in redline
    assert "2200 mm" not in redline
    assert "T1·2" in steps
    for wrong in (["--only", "novel"], ["--build", "none"], ["--units", "0"]):
        assert main(["papers", str(shore), "-o", str(tmp_path / "no"), *wrong]) == 2
    assert not (tmp_path / "no").exists()
    assert main(["papers", str(shore), "-o", str(shore)]) == 2


@pytest.mark.parametrize("name", ["tractor", "loops"])
def test_columns_of_every_paper_fill_its_width(name: str) -> None:
    results = worked_out(name)
    wire = results.design.wires[0].id
    decided = Decision(id="D1", wire=wire, was="red", now="blue", who="Jo", why="none left")
    results = analyse(results.design.model_copy(update={"decisions": (decided,)}))
    papers = [
        cut_sheet(results),
        traveller(results),
        sheet_of_tests(results),
        shopping_sheet(results, shopping(results, 1), 1),
        *kit_sheets(results, bags(results)[:2]),
    ]
    for paper in papers:
        assert paper.tables
        for table in paper.tables:
            assert sum(table.shares) == pytest.approx(1), paper.title
            assert len(table.shares) == len(table.titles)
            assert all(len(row) == len(table.titles) for row in table.rows)
            assert all(at < len(table.titles) for at in table.right)


@pytest.mark.parametrize("name", ["tractor", "shore", "loops"])
def test_a_bag_holds_every_part_of_its_lead(name: str) -> None:
    """Counted from what is fitted, end by end: lugs, contacts, seals, boots and shrink of all bags together."""
    results = worked_out(name)
    known, shelf = results.once(fitted), results.shelf
    wanted: Counter[str] = Counter()
    for one in places_of(results.design).ends:
        fitting = known.of(one)
        beside = places_of(results.design).together(one)
        for part in (fitting.part, fitting.seal, fitting.boot, fitting.shrink, fitting.ferrule):
            named = shelf.named(part)
            if named is not None and not isinstance(named, Splice) and (len(beside) == 1 or beside[0] is one):
                wanted[named.name] += 1
    packed: Counter[str] = Counter()
    for bag in bags(results):
        packed.update(dict(bag.parts))
        assert all(many >= 1 for _, many in bag.parts)
    both = wanted.keys() & packed.keys()
    assert len(both) >= 2
    assert {part: packed[part] for part in both} == {part: wanted[part] for part in both}
