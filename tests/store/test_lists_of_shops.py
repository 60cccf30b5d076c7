"""Lists of other shops, each with its true meaning beside it: read right, asked, or refused with the row. `lists/`
holds one file each: what shop, `asks:` the questions it must raise (`says:` in which words, `rows:` of which rows),
`answers:` what is said (else the likeliest is taken), `notes:` what is told beside it, `refused:` where the fault must
stand; then the list, then its wires, written by hand from what the shop meant."""

import re
from pathlib import Path

import pytest

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import Design
from umber_trunk.store.listing.listed import ListedWire
from umber_trunk.store.listing.merge import add_wires
from umber_trunk_helpers import list_of

LISTS = sorted((Path(__file__).parent / "lists").glob("*.txt"))


def said(wire: ListedWire) -> str:
    """A wire as the files write it."""
    start, finish = (":".join(part for part in pin if part) for pin in (wire.start, wire.finish))
    colour = "/".join(part for part in (wire.colour, wire.stripe) if part)
    length = "" if wire.length_m is None else f"{round(wire.length_m * 1000, 1):g}"
    core = "screen" if wire.is_screen else wire.core
    parts = [
        f"{wire.wire}: {start} -> {finish}",
        wire.size or "",
        colour,
        length,
        f"{wire.cable}.{core}" if wire.cable else "",
    ]
    return " | ".join(parts)


@pytest.mark.parametrize("path", LISTS, ids=lambda path: path.stem)
def test_a_list_is_read_as_its_shop_meant_it_or_refused(path: Path) -> None:
    head, text, *true = (part.strip("\n") for part in re.split(r"^===$", path.read_text("utf-8"), flags=re.MULTILINE))
    told = dict(re.findall(r"^(asks|answers|refused):[ ]*(.*)$", head, re.MULTILINE))
    answers = dict(pair.split("=") for pair in told.get("answers", "").split())
    if told.get("refused") == "from and to":
        with pytest.raises(InputError, match="from and to"):
            list_of(text + "\n")
        return
    if "refused" in told:
        faults = [str(fault) for fault in list_of(text + "\n", said=answers, accept=True).faults]
        assert any(fault.startswith(told["refused"]) for fault in faults), faults
        return
    doubts = list_of(text + "\n", said=answers).doubts
    assert [doubt.id for doubt in doubts] == told["asks"].split()
    for words in re.findall(r"^says: (.*)$", head, re.MULTILINE):
        assert any(words in str(doubt) for doubt in doubts), doubts
    for pair in " ".join(re.findall(r"^rows: (.*)$", head, re.MULTILINE)).split():
        assert f"{pair}," in {f"{one.id}={','.join(map(str, one.rows))}," for one in doubts}
    reading = list_of(text + "\n", said=answers, accept=True)
    assert not reading.faults
    for words in re.findall(r"^notes: (.*)$", head, re.MULTILINE):
        assert any(words in str(note) for note in reading.notes), reading.notes
    splices = re.findall(r"^splices: (.*)$", true[0], re.MULTILINE)
    wanted = [re.sub(r"[ |]+$", "", line) for line in true[0].splitlines() if not line.startswith("splices:")]
    assert [re.sub(r"[ |]+$", "", re.sub(r" +", " ", said(wire))) for wire in reading.wires] == [
        re.sub(r" +", " ", line) for line in wanted
    ]
    assert {name.lower() for line in splices for name in line.split(", ")} <= reading.splices
    assert len(add_wires(Design(), reading).wires) == len(wanted)
