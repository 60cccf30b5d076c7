"""Every JSON answer of the shell: no NaN, a format where it is an object, and just what `umber schema answers`
describes. UMBER_GOLDEN=write adds what is new to that schema; what it has is never dropped, since other programs read
these answers."""

from __future__ import annotations

import json
import os
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest

from umber_trunk.cli.main import known_commands, main
from umber_trunk.core import sentences as core_sentences
from umber_trunk.core.sentences import filled
from umber_trunk.store.demo_shop import put_shop

SCHEMA = Path(__file__).parents[2] / "src/umber_trunk/data/schema/answers.json"
DOCUMENTED = Path(__file__).parents[2] / "docs/schema/answers.schema.json"
NAMES = {
    "boolean": bool,
    "integer": int,
    "number": float,
    "string": str,
    "null": type(None),
    "object": dict,
    "array": list,
}
LIST = "wire,from,from pin,to,to pin,size,length\nW1,box,1,lamp,1,1.5 mm2,2.5 m\nW2,box,2,lamp,2,1.5 mm2,2.5 m\n"
PAIRS = "from,to,length\na,b,1.5 m\na,c,2.2 m\nb,c,1.3 m\n"
MAPS = {
    "sizes",
    "margins",
    "worst_cases",
    "metals",
    "families",
    "gains_bits",
    "columns",
    "options",
    "map",
    "values",
    "known",
}
"""Objects whose keys are ids or words, not fields."""
CALLS: dict[str, tuple[tuple[str, ...], ...]] = {
    "take": (("barge2", "ends", "--dry-run"),), "play": (("lamp.job", "-o", "played.umber"),), "jobs": ((), ("battery-leads", "--dry-run")),
    "mend": (("shore", "fit.stud.hole:winch + B1 stud.hole", "--dry-run"),), "say": (("barge2", "horn2 5 A at bow", "1,200 W somewhere"), ("barge2", "housing cockle 2", "--next")), "import": (("list.csv", "-o", "made.umber"), ("list.csv", "-o", "made2.umber", "--accept-doubts"), ("doubtful.csv", "-o", "made5.umber")),
    "lengths": (("barge",), ("empty",)), "board": (("shore",),), "papers": (("shore", "-o", "empty-papers.umber", "--only", "redline"),), "cover": (("barge",), ("empty",)), "infer": (("pairs.csv",), ("pairs.csv", "--accept-doubts")),
    "size": (("--load", "18A", "--supply", "24V", "--run", "7.5m", "--why", "--fuse", "auto", "--surge", "60A/2s"), ("--load", "4kW", "--supply", "12V", "--run", "90m", "--size", "0.5 mm2"),
             ("--load", "18A", "--supply", "24V", "--run", "9000m")),
    "pack": (("1.8", "2.5x3"),), "figures": (("boat-bunch-7",),), "optimise": (("tiny",),), "worth": (("tiny",), ("unfed.json",)), "fit": (("shore",), ("empty",)), "pinmap": (("barge", "--end", "j1", "--side", "wire"),),
    "mate": (("barge", "--end", "j1"), ("shore", "--end", "logger", "--with", "probe")), "strip": (("shore", "--wire", "B2"), ("shore", "--wire", "C3")),
    "catalogue": (("list",), ("check", "bad.json")), "coils": (("tractor",), ("--shop", "SHOP")), "shelf": (("tractor",),), "buy": (("tractor",), ("empty",), ("--shop", "SHOP", "--now", "2026-12-01")),
    "wirecheck": (("--claim", "35 mm2 copper", "--length", "2m", "--mass", "620g", "--resistance", "1.1mohm", "--in", "shore", "--sold", "9 m", "--coil-resistance", "5 mohm"),
                  ("--claim", "35 mm2 copper", "--length", "2m", "--mass", "620g", "--resistance", "8.9mohm")),
    "order": (("shore",), ("empty",)), "log": (("tractor",),), "charts": (("tractor",),), "tests": (("loops",), ("empty",)),
    "prove": (("shore", "--sim"), ("shore", "--sim", "--fault", "open:T4"), ("tractor", "--sim", "--powered", "beacon", "--fault", "fuse:F5")), "faults": ((),), "identify": (("5",), ("2",)), "learn": (("shore", "--from", "logger", "--to", "probe", "--sim"),),
    "loops": (("loops",), ("empty",)), "units": (("tractor",), ("tractor", "hand", "Mara"), ("empty",)), "diff": (("tractor@1", "tractor"), ("tractor#lot 1/1", "tractor#lot 1/2")),
    "upgrade": (("tractor2", "lot 1/2"),), "repair": (("tractor", "lot 1/2"),), "verify": (("tractor",), ("empty",)), "disputes": (("tractor",), ("empty",)), "check": (("barge",), ("empty",)), "solve": (("barge",), ("unfed.json",)),
    "history": (("barge",), ("cut",)), "salvage": (("barge", "-o", "made3.umber"), ("cut", "-o", "made4.umber")), "copies": ((),), "shop": (("--shop", "SHOP"), ("--shop", "SHOP", "--list", "prices"), ("--shop", "SHOP", "--log")), "devices": (("list", "--shop", "SHOP"), ("compare", "psu-a", "psu-b", "--shop", "SHOP"), ("check", "barge", "sorter", "sorter-24", "--shop", "SHOP")),
    "assumed": (("earth",),), "job": (("list", "--shop", "SHOP", "--now", "2026-12-01"), ("show", "J101", "--shop", "SHOP", "--now", "2026-12-01")), "quote": (("tractor", "--units", "1,5", "--now", "2026-12-01"),), "lessons": (("--shop", "SHOP", "--now", "2026-12-01"),), "plan": (("SHOP", "--now", "2026-12-01T08:00+01:00", "--if", "first:J105"),), "variants": (("workshop/barge.umber",), ("workshop/barge.umber", "--differs", "full", "-")), "status": (("barge",), ("loops",), ("tractor",), ("empty",)), "station": ((),),
}  # fmt: skip

REFUSALS = (("check", "nowhere.umber"), ("pack", "x"), ("size", "--load", "18 apples", "--supply", "24V", "--run", "1m"), ("board", "shore", "--board", "big"), ("job", "show", "J9", "--shop", "SHOP"), ("prove", "empty", "--sim"), ("check", "--size"), ("solve", "shore", "--revision", "99"), ("size", "--load", "1e9 A", "--supply", "24V", "--run", "1m"))  # fmt: skip


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("answers")
    for name in ("barge", "shore", "loops", "tractor"):
        assert main(["demo", name, "--save", str(folder / f"{name}.umber")]) == 0
    put_shop(folder / "workshop")
    (folder / "barge2.umber").write_bytes((folder / "barge.umber").read_bytes())
    for name, said in (("empty", []), ("tiny", ["supply 12 V at battery", "lamp 2 A at bow run 4 m"])):
        assert main(["new", str(folder / f"{name}.umber")]) == 0
        assert not said or main(["say", str(folder / f"{name}.umber"), *said]) == 0
    (folder / "tractor2.umber").write_bytes((folder / "tractor.umber").read_bytes())
    assert main(["say", str(folder / "tractor2.umber"), "buzzer 1 A at shed run 2 m from box"]) == 0
    tractor = (folder / "tractor.umber").read_bytes()
    (folder / "cut.umber").write_bytes(tractor[: len(tractor) // 2])
    (folder / "list.csv").write_text(LIST)
    (folder / "doubtful.csv").write_text("wire,from,to,size,length\nW1,X1-1,X2-1,16,2.5 m\nW2,X1-2,X2-2,14,0\n")
    (folder / "pairs.csv").write_text(PAIRS)
    (folder / "lamp.job").write_text("supply 12 V at battery\nlamp 2 A at bow run 4 m\ntake sizes\number check FILE\n")
    (folder / "bad.json").write_text('[{"kind": "contact"}]')
    ends = [{"id": e, "name": e, "point": e, "cavities": [{"id": "1"}, {"id": "2"}]} for e in "ab"]
    wires = [{"id": f"W{n}", "start": {"end": "a", "cavity": n}, "finish": {"end": "b", "cavity": n}} for n in "12"]
    load = {
        "id": "l",
        "name": "l",
        "plus": {"end": "b", "cavity": "1"},
        "minus": {"end": "b", "cavity": "2"},
        "value": 1.0,
        "min_volts": 9.0,
    }
    segment = {"id": "S", "a": "a", "b": "b", "measure": {"length_m": 2.0}}
    (folder / "unfed.json").write_text(
        json.dumps(
            {"points": [{"id": "a"}, {"id": "b"}], "segments": [segment], "ends": ends, "wires": wires, "loads": [load]}
        )
    )
    return folder


@pytest.fixture
def sentences(monkeypatch: pytest.MonkeyPatch) -> set[str]:
    """What is said from the catalogue, of three words at least."""
    heard: set[str] = set()

    def listened(template: str, values: Mapping[str, Any]) -> str:
        text = filled(template, values)
        heard.update({bare(text)} if len(re.findall(r"[^\W\d_]{2,}", text)) > 2 else ())
        return text

    monkeypatch.setattr(core_sentences, "filled", listened)
    return heard


def placed(word: str, folder: Path) -> str:
    """A word of a call, files by their place."""
    name = re.split(r"[@#]", word)[0]
    if word == "SHOP":
        return str(folder / "workshop" / "shop.umber")
    for path in (folder / name, folder / f"{name}.umber"):
        if path.exists() or name.endswith(".umber"):
            return str(path) + word[len(name) :]
    return word


def described(value: Any, key: str = "") -> dict[str, Any]:
    """The schema of one answer."""
    if isinstance(value, dict):
        fields = {name: described(one, name) for name, one in value.items()}
        if key in MAPS or any(not re.fullmatch(r"[a-z_0-9]+", name) for name in fields):
            return {"type": ["object"], "additionalProperties": merged(fields.values())}
        return {"type": ["object"], "properties": fields, "required": sorted(fields)}
    if isinstance(value, list):
        return {"type": ["array"], "items": merged(described(one, key) for one in value)}
    return {"type": [next(name for name, kind in NAMES.items() if type(value) is kind)]}


def merged(many: Any) -> dict[str, Any]:
    """One schema for what all of these describe."""
    found: dict[str, Any] = {}
    for one in many:
        if not found:
            found = dict(one)
            continue
        if not one:
            continue
        known = set(found.get("type", [])) | set(one.get("type", []))
        both = {"type": sorted(known - ({"integer"} if "number" in known else set()))}
        for word in ("items", "additionalProperties"):
            if word in found or word in one:
                both[word] = merged([part[word] for part in (found, one) if word in part])
        if "properties" in found or "properties" in one:
            fields = [part["properties"] for part in (found, one) if "properties" in part]
            both["properties"] = {
                name: merged([f[name] for f in fields if name in f]) for name in sorted({n for f in fields for n in f})
            }
            both["required"] = sorted(
                set.intersection(*(set(part["required"]) for part in (found, one) if "properties" in part))
            )
        found = both
    return found


def faults(value: Any, schema: dict[str, Any], at: str) -> list[str]:
    """Where a value isn't what a schema says; a field it doesn't describe is one."""
    if schema and not any(
        (isinstance(value, NAMES[name]) and (name == "boolean" or not isinstance(value, bool)))
        or (name == "number" and type(value) is int)
        for name in schema["type"]
    ):
        return [f"{at} is {type(value).__name__}, not {schema['type']}"]
    if isinstance(value, list):
        return [fault for n, one in enumerate(value) for fault in faults(one, schema.get("items", {}), f"{at}[{n}]")]
    if not isinstance(value, dict):
        return []
    found = [f"{at}.{name} is gone" for name in schema.get("required", []) if name not in value]
    for name, one in value.items():
        inner = schema.get("properties", {}).get(name, schema.get("additionalProperties"))
        found += [f"{at}.{name} isn’t described"] if inner is None else faults(one, inner, f"{at}.{name}")
    return found


def refused(text: str) -> None:
    raise AssertionError(f"{text} in an answer")


def test_the_table_of_calls_is_whole(capsys: pytest.CaptureFixture[str]) -> None:
    with_json = set()
    for command in known_commands():
        with pytest.raises(SystemExit):
            main([command, "--help"])
        if "--json" in capsys.readouterr().out:
            with_json.add(command)
    assert with_json == set(CALLS)
    assert main(["schema", "answers"]) == 0
    assert capsys.readouterr().out == SCHEMA.read_text("utf-8") == DOCUMENTED.read_text("utf-8")


def test_a_refusal_is_an_answer_with_code_and_values(
    folder: Path, capsys: pytest.CaptureFixture[str], sentences: set[str]
) -> None:
    held("refused", [[placed(word, folder) for word in call] for call in REFUSALS], capsys, sentences)
    assert main(["check", "--json"]) == 2
    assert json.loads(capsys.readouterr().out)["refused"]["values"]["command"] == "umber check"
    assert main(["board", str(folder / "shore.umber"), "--board", "big", "--json"]) == 2
    told = capsys.readouterr()
    said = json.loads(told.out)["refused"]
    assert (said["code"], said["values"]) == ("refused.shell.no-size-of-board", {"text": "big"})
    assert told.err == f"umber: {said['message']}\n"


@pytest.mark.parametrize("command", sorted(CALLS))
@pytest.mark.share(3)
def test_answers_are_as_described(
    folder: Path, capsys: pytest.CaptureFixture[str], sentences: set[str], command: str
) -> None:
    held(command, [[command, *(placed(word, folder) for word in call)] for call in CALLS[command]], capsys, sentences)


def coded(value: Any) -> set[str]:
    """What an answer says beside a code."""
    if isinstance(value, list):
        return {text for one in value for text in coded(one)}
    if not isinstance(value, dict):
        return set()
    mine = {bare(value["message"]), bare(value.get("cure", ""))} if {"code", "message"} <= set(value) else set()
    return mine | coded(list(value.values()))


def bare(text: str) -> str:
    return text.strip().rstrip(".")


def texts(value: Any) -> set[str]:
    """Every text of an answer that isn't a sentence's own value."""
    if isinstance(value, str):
        return {bare(value)}
    if isinstance(value, dict):
        return {text for key, one in value.items() if key != "values" for text in texts(one)}
    return {text for one in value for text in texts(one)} if isinstance(value, list) else set()


NAMES_THINGS = {
    "assembly", "commands", "design", "digest", "file", "finding", "folder", "from", "harness", "id", "kept", "key",
    "leaves", "name", "next", "order", "part", "part_name", "parts", "path", "place", "seal", "signature", "step",
    "steps", "to", "todo", "tool", "tools", "unpriced",
}  # fmt: skip
"""Keys of names, ids and places."""
IN_THEIR_WORDS = {
    "assumed.figures.says", "catalogue.source", "charts.source", "devices.devices.note", "devices.devices.source",
    "figures.figures.rule", "figures.figures.source", "jobs.jobs.what", "lessons.lessons.what", "log.data.source",
    "quote.offers.dominates.what", "shop.changes.row.cancelled", "shop.changes.row.note", "shop.changes.row.source",
    "shop.changes.why", "size.why_said.formula", "size.why_said.inputs.meaning",
}  # fmt: skip
"""Where people, sheets and standards say something in their own words, or a line or a lesson is called something."""


def without_code(value: Any, at: str, codes: set[str]) -> set[str]:
    """Where an answer says four words or more, and neither a code nor values stand beside them."""
    if isinstance(value, list):
        return {place for one in value for place in without_code(one, at, codes)}
    if isinstance(value, dict):
        return {
            place
            for key, one in value.items()
            if key not in ("values", "code") and f"{key}_said" not in value
            for place in without_code(one, f"{at}.{key}", codes)
        }
    worded = isinstance(value, str) and len(re.findall(r"[^\W\d_]{2,}", value)) > 3 and bare(value) not in codes
    return {at} if worded else set()


def held(name: str, calls: list[list[str]], capsys: pytest.CaptureFixture[str], sentences: set[str]) -> None:
    """Holds the answers of some calls against what the schema has under a name."""
    schema = json.loads(SCHEMA.read_text("utf-8")) if SCHEMA.exists() else {}
    mine = schema.get("properties", {}).get(name, {})
    for call in calls:
        capsys.readouterr()
        sentences.clear()
        main([*call, "--json"])
        said = set(sentences)
        answer = json.loads(capsys.readouterr().out, parse_constant=refused)
        assert not isinstance(answer, dict) or answer["format"] == 1, call
        if os.environ.get("UMBER_GOLDEN") == "write":
            mine = merged([mine, described(answer)])
            schema = {
                "$schema": "https://json-schema.org/draft/2020-12/schema",
                "title": "Answers of the shell by command",
                "type": ["object"],
            } | schema
            schema["properties"] = dict(sorted(({**schema.get("properties", {}), name: mine}).items()))
            for path in (SCHEMA, DOCUMENTED):
                path.write_text(json.dumps(schema, indent=1) + "\n", "utf-8")
        assert not faults(answer, mine, name)[:5], call
        # a sentence of the catalogue has its code beside it, and nothing is said but what is in the catalogue
        assert texts(answer) & said <= coded(answer), call
        words = without_code(answer, name, coded(answer)) - IN_THEIR_WORDS
        assert not {place for place in words if place.rpartition(".")[2] not in NAMES_THINGS}, call
