"""One language for all: each kind of line does what it says or names why not; scripts are all or nothing; the eight
whole jobs run from nothing to a proven unit; proposals and cures bring nothing new."""

import json
import os
import re
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from demos import worked_out
from umber_trunk.cli.main import known_commands, main
from umber_trunk.cli.play import jobs_folder
from umber_trunk.cli.reading import read_design
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.ends.assign import set_housing
from umber_trunk.core.errors import UmberError
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.earths import least_earth_mm2
from umber_trunk.core.harness.edits import change, put_all, set_project
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language.grammar import read_line
from umber_trunk.core.language.hear import Listener
from umber_trunk.core.language.next_words import next_lines
from umber_trunk.core.language.records import EXAMPLES
from umber_trunk.core.language.taken import taken
from umber_trunk.core.mend.cures import MOST_TRIED, cures_of, finding_of
from umber_trunk.core.prove.plan import test_plan as list_of_tests
from umber_trunk.core.sample import generated

BASE = (
    "supply 12 V 3 mohm at battery",
    "fuse box at dash, 8 ways, from battery run 2 m",
    *(f"lamp {n} 5 A at lamp {n} from dash run {n} m" for n in range(1, 5)),
)


def harness(*lines: str) -> Design:
    design, listener = Design(), Listener()
    for line in (*BASE, *lines):
        design = listener.done(design, listener.hear(design, line))
    return design


def ways(design: Design) -> list[str]:
    return [link.id for link in index_of(design).ends["dash"].links]


LINES = {
    "size 4 mm2 on lamp 1": lambda d: [w.size for w in d.wires if w.circuit == "lamp 1"] == ["4 mm2"] * 2,
    "size AWG 14 tinned on W3 to W5": lambda d: (
        [(w.size, w.metal) for w in d.wires if w.id in ("W3", "W4", "W5")] == [("AWG 14", "tinned")] * 3
    ),
    "colour red/white on lamp 2 feed": lambda d: (
        [(w.colour, w.stripe) for w in d.wires if w.name == "lamp 2 feed"] == [("red", "white")]
    ),
    "metal tinned on all": lambda d: {w.metal for w in d.wires} == {"tinned"},
    "jacket rubber on lamp 1, lamp 2": lambda d: sum(w.jacket == "rubber" for w in d.wires) == 4,
    "housing Cockle 2-way M, plug on lamp 1 to lamp 4": lambda d: sum(bool(e.housings) for e in d.ends) == 4,
    "housing cockle-m2-plug on lamps": lambda d: sum(bool(e.housings) for e in d.ends) == 4,
    "lug anchor-16-m8 on W1 at battery": lambda d: index_of(d).wires["W1"].at_start.part == "anchor-16-m8",
    "shrink sheath-2-9.5 on W1 at battery": lambda d: index_of(d).wires["W1"].at_start.shrink == "sheath-2-9.5",
    "stud M8 on battery": lambda d: index_of(d).ends["battery"].stud_mm == 8,
    "ground splice G1 at frame for lamp 1, lamp 2": lambda d: (
        len([w for w in d.wires if "g1" in (w.start.end, w.finish.end)]) == 3
    ),
    "return splice R1 at dash for lamp 1 to lamp 3": lambda d: index_of(d).ends["r1"].kind is EndKind.SPLICE,
    "rename lamp 1 to bow lamp": lambda d: {"bow lamp"} <= {row.name for row in (*d.loads, *d.ends)},
    "remove load lamp 2": lambda d: len(d.loads) == 3 and len(d.wires) == 8,
    "12 ways in dash": lambda d: len(ways(d)) == 12,
    "4 ways in dash": lambda d: len(ways(d)) == 4,
    "aft lamps like lamps, 4 m off at dash": lambda d: (
        len(d.loads) == 8
        and len(d.wires) == 18
        and len({f.id for f in analyse(d).findings if f.code == "load.unfed"}) == 0
    ),
    "lamp 5 like lamp 4": lambda d: index_of(d).ends["lamp-5"].point != index_of(d).ends["lamp-4"].point,
    "buzzer 1 A at lamp 1 from dash": lambda d: len(d.loads) == 5,
    "horn 3 A at lamp 1 from dash run 1 m": lambda d: len(d.loads) == 5,
    "cable loom, twisted pair for lamp 1": lambda d: (
        d.cables[0].kind == "twisted pair" and sum(w.cable == "C1" for w in d.wires) == 2
    ),
    "take sizes": lambda d: all(w.size for w in d.wires),
    "take fuses": lambda d: any(link.rating_a for link in index_of(d).ends["battery"].links),
    "sleeve on S1": lambda d: len(d.segments[0].covers) == 1,
    "set lamp 1 feed, lamp 2 feed within 2 mm": lambda d: len(d.sets[0].wires) == 2,
}


CORD = (
    "supply 230 V AC 10 mohm at post",
    "pump 8 A pf 0.7 at quay from post run 25 m",
    "make class5 on all",
    "jacket rubber on all",
)


def test_a_cord_gets_its_earth_and_its_jacket_and_a_thin_earth_is_a_fault() -> None:
    """Least earths: IEC 60364-5-54, table 54.2. A core for each wire of the part, by its role; other ways, other
    counts, a second jacket are refused."""
    listener, design = Listener(), Design()

    def say(line: str) -> None:
        nonlocal design
        design = listener.done(design, listener.hear(design, line))

    def refused(line: str, why: str) -> None:
        with pytest.raises(UmberError, match=why):
            say(line)

    for line in CORD:
        say(line)
    refused("earth for pump", "no size yet")
    say("size 1.5 mm2 on pump")
    say("earth for pump")
    refused("earth for pump", "has its earth")
    refused("cable a, heron-cord-a-1.5 for W1, W2", "3 cores, and these are 2")
    say("cable quay cord, heron-cord-a-1.5 for pump")
    refused("cable b for pump", "in a cable already")
    refused("earth for pump", "has its earth")
    cores = {wire.name.split()[-1]: (wire.core, wire.colour, wire.stripe, wire.cable) for wire in design.wires}
    assert cores == {
        "feed": ("L", "brown", "", "C1"),
        "return": ("N", "blue", "", "C1"),
        "earth": ("E", "green", "yellow", "C1"),
    }
    assert any("earth" in test.kind for test in list_of_tests(analyse(design)).tests)
    for line_mm2, least in ((1.5, 1.5), (16, 16), (25, 16), (35, 16), (70, 35), (120, 60)):
        assert least_earth_mm2(line_mm2) == least
    for size, found in (("1.5 mm2", False), ("1 mm2", True)):
        say(f"size {size} on W3")
        assert any(row.code == "wire.earth" and row.subject == "W3" for row in analyse(design).findings) is found
    say("lamp 1 A at hut from post run 3 m")
    refused("cable c for W4, W3", "different ways")
    refused("cable c for W4, W4", "two cores or more")


@pytest.mark.parametrize("line", LINES)
def test_each_line_does_what_it_says(line: str) -> None:
    before = harness()
    after = harness(line)
    assert after != before
    assert LINES[line](after)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("housing Cockle 2-way M on lamp 1", "say which: Cockle 2-way M, plug; Cockle 2-way M, receptacle"), ("housing Nonesuch on lamp 1", "No catalogue has a housing"),
        ("size 4 mm2 on lamp 9", "There is no wire “lamp 9”. Did you mean: lamp"), ("lug anchor-16-m8 on W1 at lamp 4", "None of W1 ends at lamp 4"),
        ("3 ways in dash", "4 ways in use; 3 are too few"), ("ways in dash", "Say it as: 12 ways in fuse box"), ("sleeve 3", "Say it as: sleeve on S4"), ("stud X on battery", "such as M8"),
        ("ground splice G1 at nowhere for lamp 1, lamp 2", "no end called “nowhere”"), ("aft lamp like lamp 9", "There is no load “lamp 9”"), ("keep lamp 1", "has no size to keep"),
        ("tape on S1 at 3 m", "has no “at 3 m”"), ("lamp 1 5 A at lamp 1 from dash run 9 m", "on the trunk already"), ("barrel anchor-butt-6 on lamp 1", "is no splice"),
        ("size 4 mm2 on W9 to W2", "runs from 9 to 2"), ("return splice R at post for lamp 1, lamp 2", "Nothing leads on from “post”"),
    ],
)  # fmt: skip
def test_a_refusal_suggests_what_belongs_there(line: str, says: str) -> None:
    listener, design = Listener(), harness("stud at post run 1 m")
    with pytest.raises(UmberError) as refused:
        listener.done(design, listener.hear(design, line))
    assert says in str(refused.value)
    assert ("how much it draws" in str(refused.value)) == ("how much" in says)


def test_every_example_is_read_and_completed() -> None:
    design = harness()
    for word, example in EXAMPLES.items():
        assert read_line(example) is not None, example
        if word not in ("like", "ways", "in", "at", "place"):
            heard = Listener().hear(design, word[:3])
            assert any(line.split()[0] == word for line in next_lines(design, word, heard)) or len(word) < 3, word
    typed = "housing cockle 2"
    assert "housing Cockle 2-way M, plug on " in next_lines(design, typed, Listener().hear(design, typed))
    typed = "colour red on lamp 3"
    for on in ("on", "ON"):
        assert next_lines(design, f"size 4 mm2 {on} W1", Listener().hear(design, typed)) == [f"size 4 mm2 {on} W10"]


@given(st.text(max_size=60), st.sampled_from(sorted(EXAMPLES.values())))
def test_any_words_are_an_edit_or_a_sentence(words: str, example: str) -> None:
    design, listener = harness(), Listener()
    for text in (words, f"{example.split(' ')[0]} {words}", f"{example} {words}"):
        with suppress(UmberError):
            listener.done(design, listener.hear(design, text))


@pytest.mark.parametrize("name", [path.stem for path in sorted(jobs_folder().glob("*.job"))])
@pytest.mark.share(3)
def test_the_whole_jobs_run_from_nothing_to_a_proven_unit(
    name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "job.umber"
    assert main(["jobs", name, "-o", str(out), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["played"]
    assert "proven in simulation" in told["commands"][-1]
    assert not [f for f in analyse(read_design(out)).findings if f.severity is Severity.FAULT]
    assert not re.search(r"\b(?:dummy|todo)\b", (jobs_folder() / f"{name}.job").read_text(), re.I)


def test_a_script_is_all_or_nothing_and_one_step_to_undo(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job, path = tmp_path / "a.job", tmp_path / "a.umber"
    job.write_text("\n".join(["# a job", "harness a.umber", *BASE, "size 4 mm2 on lamp 9", "umber check FILE"]))
    assert main(["play", str(job), "-o", str(path)]) == 2
    assert "row 9: “size 4 mm2 on lamp 9”" in capsys.readouterr().err
    assert not path.exists()
    job.write_text("\n".join([*BASE, "take sizes", "umber check FILE"]))
    assert main(["play", str(job), "-o", str(path), "--dry-run"]) == 0
    assert not path.exists()
    assert main(["play", str(job), "-o", str(path)]) == 0
    job.write_text("colour white on all\nrename lamp 1 to bow lamp\n")
    before = read_design(path)
    assert main(["play", str(job), "--into", str(path)]) == 0
    assert main(["history", str(path), "--json"]) == 0
    told = json.loads(capsys.readouterr().out.split("played into a.umber.\n")[-1])
    assert len(told["revisions"] if isinstance(told, dict) else told) == 3
    assert {wire.colour for wire in read_design(path).wires} == {"white"}
    for words, says in (
        (("umber open FILE",), "can’t be played"),
        (("umber export FILE -o x.csv",), "writes another file"),
        (("  x",), "nothing"),
        (("harness ../x.umber", "lamp"), "without a folder"),
        (("umber nonsense FILE",), "row 1: umber: Argument COMMAND: invalid choice"),
    ):
        job.write_text("\n".join(words))
        assert main(["play", str(job), "--into", str(path)]) == 2
        assert says in capsys.readouterr().err.replace(
            "indented line is what the command above reads, and there is none", "nothing"
        )
    assert before != read_design(path)


def open_(design: Design) -> set[str]:
    return {f.id for f in analyse(design).findings if f.severity < Severity.NOTE}


TWO_WAYS = ("cockle-m2-plug", "barnacle-small", "cockle-m2-receptacle", "barnacle-large")


def strained(seed: int) -> Design:
    """A generated harness with connectors that may be far too small for what runs through them."""
    design = set_project(generated(8 + 6 * (seed % 3), seed), max_drop_percent=(2, 3, 5, 8)[seed % 4])
    for number, end in enumerate(design.ends):
        if len(end.cavities) == 2 and end.kind is EndKind.DEVICE and (seed + number) % 3:
            design = set_housing(design, end.id, "H1", TWO_WAYS[(seed + number) % 4])
    return design


@pytest.mark.long
def test_taking_every_proposal_brings_nothing_new() -> None:
    """All demos and generated harnesses, in changing order; 6 of them in the normal run, 200 by --long."""
    many = 200 if os.environ.get("UMBER_CALLS") else 6
    orders = (
        ("sizes", "ends", "coverings", "fuses"),
        ("ends", "fuses", "sizes", "coverings"),
        ("fuses", "coverings", "sizes", "ends"),
    )
    for number, design in enumerate([*map(demo, DEMOS), *map(strained, range(many))]):
        known, now = open_(design), design
        for what in orders[number % 3]:
            now = taken(now, what).design
        assert open_(now) <= known, (number, open_(now) - known)


def test_no_size_is_proposed_where_none_can_help() -> None:
    """A fan whose contact takes 2.5 mm² at most can't have its 60 mV: the main feed isn't thickened for it."""
    easy, hopeless = (
        harness("fan 5 A at fan from dash run 3 m"),
        harness("fan 5 A at fan from dash run 3 m max drop 0.5%", "housing cockle-m2-plug on fan"),
    )
    feed = next(wire.id for wire in easy.wires if wire.name == "dash feed")
    assert parse_size(analyse(hopeless).sizes[feed]).area_mm2 <= parse_size(analyse(easy).sizes[feed]).area_mm2
    assert any(f.code == "load.drop" for f in analyse(hopeless).findings)


@pytest.mark.parametrize("name", DEMOS if os.environ.get("UMBER_CALLS") else ["shore", "computer"])
def test_a_cure_that_is_offered_cures(name: str) -> None:
    results = worked_out(name)
    offered = 0
    for finding in [f for f in results.findings if f.severity < Severity.NOTE]:
        for cure in cures_of(results, finding):
            if cure.edit is None:
                continue
            offered += 1
            after = open_(cure.edit(results.design))
            assert finding.id not in after
            assert after <= open_(results.design)
            assert sorted(after) == sorted(cure.leaves)
    assert offered or name in ("loops", "tractor")  # what is to mend there is somebody's decision
    assert MOST_TRIED >= 8


def test_a_screen_grounded_twice_is_taped_and_a_locked_wire_stays_locked() -> None:
    design = demo("loops")
    bare = [
        change(end, cavities=tuple(change(c, contact="") for c in end.cavities)) if end.id == "i2" else end
        for end in design.ends
    ]
    results = analyse(put_all(design, "ends", bare))
    twice = next(f for f in results.findings if f.code == "screen-two-grounds")
    cure = cures_of(results, twice)[0]
    assert cure.edit is not None
    assert str(cure.text).startswith("cut back and taped at")
    assert twice.id not in open_(cure.edit(results.design))

    thin = harness("lamp 20 A at lamp from dash run 3 m")
    wires = [change(wire, size="0.5 mm2", locked=True) if wire.circuit == "lamp" else wire for wire in thin.wires]
    results = analyse(put_all(thin, "wires", wires))
    before = index_of(results.design).wires
    offered = [
        cure.edit(results.design)
        for f in results.findings
        if f.severity < Severity.NOTE
        for cure in cures_of(results, f)
        if cure.edit
    ]
    assert offered
    for after in offered:
        for wire in after.wires:
            assert wire.locked == before[wire.id].locked
            assert (
                parse_size(wire.size).area_mm2 >= parse_size(before[wire.id].size).area_mm2
                if wire.size and before[wire.id].size
                else True
            )


def test_mend_does_one_of_them_as_one_step(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "s.umber"
    main(["demo", "shore", "--save", str(path)])
    said = "fit.stud.hole:winch + B1 stud.hole"
    capsys.readouterr()
    assert main(["mend", str(path), said, "--dry-run", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    before = read_design(path)
    assert main(["mend", str(path), said]) == 0
    results = analyse(read_design(path))
    assert finding_of(results, said) is None
    assert {f.id for f in results.findings if f.severity < Severity.NOTE} == set(told["cures"][0]["leaves"])
    assert main(["mend", str(path), said]) == 2
    assert main(["mend", str(path), "tree.island:C1", "--which", "3"]) == 2
    assert main(["mend", str(path), "tree.island:C1"]) == 1
    assert "There is no finding" in capsys.readouterr().err
    assert before != read_design(path)


GUIDE = Path(__file__).parents[2] / "docs" / "user-guide.md"
FIGURES = re.compile(
    r"[?`A-Z]|[\d.,½ ]+(?:-[\d.]+ )?\S{0,5}|OL|\d.*/\d.*|.*[…/].*|[a-z]+|.*\.[a-z]+|2,4 m ± 2 cm string|2 x 16 mm2 "
    r"tinned marine rubber|coil C12|hand Mara|by screened pair|all but winch|lamp 1 to lamp 6|pf 0.9|--revision "
    r"N|tcp:.*|\?wait=8"
)
"""What stands in the guide between backticks and is no line: figures, single words, files, what is typed into a
cell."""


def test_every_line_of_the_guide_is_read() -> None:
    """Every line between backticks is read by the language, or is a command with its options; steps are played in
    tests/app/test_guide.py."""
    rest = re.sub(r"^```.*?^```$", "", GUIDE.read_text("utf-8"), flags=re.MULTILINE | re.DOTALL)
    said = [*re.findall(r"`([^`]+)`", rest), *re.findall(r"^    (\S.*)$", rest, re.MULTILINE)]
    odd = [one for one in (" ".join(one.split()) for one in said) if not FIGURES.fullmatch(one) and not read(one)]
    assert not odd, odd


def read(line: str) -> bool:
    """Whether a line of the guide is a command that exists, or one the language reads."""
    if line.startswith("umber "):
        return line.split()[1] in known_commands()
    return Listener().hear(harness("supply 5 V at psu"), line).ok
