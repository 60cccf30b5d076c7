"""The shop from the shell, as a builder goes through a job: on an empty shop first, then at the workshop."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from umber_trunk.cli.main import main
from umber_trunk.store.catalogues import stocked_shelf
from umber_trunk.store.demo_shop import put_shop

NOW = ["--now", "2026-12-01"]


class Shell:
    """Runs commands in a folder."""

    def __init__(self, folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
        self.folder, self.capsys = folder, capsys

    def __call__(self, *words: str, status: int = 0) -> str:
        code = main(list(words))
        said = self.capsys.readouterr()
        assert code == status, said
        return said.out + said.err

    def plain(self, *words: str, status: int = 0) -> Any:
        code = main([*words, "--json"])
        said = self.capsys.readouterr()
        assert code == status, said
        return json.loads(said.out)


@pytest.fixture
def shell(tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch) -> Shell:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    return Shell(tmp_path, capsys)


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return put_shop(tmp_path_factory.mktemp("demo") / "workshop").parent


def test_a_job_from_nothing_to_the_customer(shell: Shell) -> None:
    assert "no shop.umber here" in shell("job", "list", status=2)
    shell("shop", "--new")
    assert shell("job", "list") == ""
    shell("new", "lamp.umber")
    assert "no wire yet" in shell("quote", "lamp.umber", *NOW, status=2)
    for words in (
        ("coils", "--shop", "shop.umber"),
        ("buy", "--shop", "shop.umber"),
        ("lessons",),
        ("devices", "list"),
    ):
        shell(*words)
    assert "no end" in shell("devices", "take", "lamp.umber", "x", "y", status=2)
    assert shell.plain("plan", "shop.umber", "--now", "2026-12-01T08:00+01:00")["tasks"] == []
    shell("say", "lamp.umber", "supply 12 V at battery", "lamp 2 A at bow run 4 m")
    shell("take", "lamp.umber", "all")
    assert "There is no job “J1”" in shell("job", "show", "J1", status=2)
    assert "J1: 2 of lamp.umber" in shell(
        "job", "new", "lamp.umber", "--units", "2", "--customer", "Jo", "--due", "2026-12-20"
    )
    assert "is there already" in shell("job", "new", "lamp.umber", "--id", "J1", status=2)
    first = shell.plain("job", "list", *NOW)["jobs"][0]
    assert (first["state"], first["holds"][0]) == ("asked", "nothing was offered yet")
    shell("job", "quote", "J1", *NOW, status=1)  # something has no price, and is named
    assert shell.plain("job", "show", "J1", *NOW)["quote"]["offers"][0]["units"] == 2
    assert shell.plain("job", "list", *NOW)["jobs"][0]["state"] == "quoted"
    shell("job", "accept", "J1", *NOW)
    shown = shell.plain("job", "list", *NOW)["jobs"][0]
    assert shown["state"] == "accepted"
    assert any("the shelf lacks" in what for what in shown["holds"])  # nothing is on it
    shell("say", "lamp.umber", "horn 3 A at stern run 1 m")
    assert any("changed since revision" in what for what in shell.plain("job", "list", *NOW)["jobs"][0]["holds"])
    assert "aren’t proven" in shell("job", "deliver", "J1", "1", status=2)
    assert "Say which build" in shell("job", "build", "J1", status=2)
    shell("job", "build", "J1", "lot 1")
    assert "and isn’t yet" in shell("job", "build", "J1", "lot 1", status=2)
    shell("job", "deliver", "J1", "1", "--why", "a sample", "--who", "MA", *NOW)
    assert "Unit 1 of J1 was handed over already" in shell(
        "job", "deliver", "J1", "1", "--why", "again", "--who", "MA", status=2
    )
    assert "say why J1 is closed (--why" in shell("job", "close", "J1", status=2)
    shell("job", "close", "J1", "--why", "one was enough", *NOW)
    assert "closed already" in shell("job", "accept", "J1", status=2)
    assert shell.plain("job", "show", "J1", *NOW)["state"] == "closed"
    assert "each as it was written" in shell("shop", "--log")


def test_lists_come_in_whole_or_not_at_all(shell: Shell) -> None:
    shell("shop", "--new")
    Path("p.csv").write_text("id,part,each,since\na,2.5 mm2,0.5,2026-01-01\nb,x,much,2026-01-01\n")
    assert "row 3, each" in shell("shop", "--read", "prices", "p.csv", status=2)
    assert shell.plain("shop")["lists"]["prices"] == 0
    Path("p.csv").write_text("id;part;each;since\na;2.5 mm2;0.5;2026-01-01\n")
    shell("shop", "--read", "prices", "p.csv", "--who", "JO")
    shell("shop", "--write", "prices", "out.xlsx")
    shell("shop", "--read", "prices", "out.xlsx", "--replace")
    assert shell.plain("shop", "--list", "prices")["rows"][0]["each"] == "0.5"
    assert "none of the shop’s lists" in shell("shop", "--read", "cats", "p.csv", status=2)
    shell("shop", "--drop", "prices", "a")
    assert "There is no “a”" in shell("shop", "--drop", "prices", "a", status=2)
    Path("i.csv").write_text("id,part,amount,ordered\nD1,2.5 mm2 red,50,2026-11-01\nD2,socket,100,2026-11-01\n")
    shell("shop", "--read", "incoming", "i.csv")
    assert "say --coil" in shell("shop", "--came", "D1", "genuine", status=2)
    assert "judge" in shell("shop", "--came", "D1", " ", "--coil", "C1", status=2)
    shell("shop", "--came", "D1", "genuine, 7.4 mΩ/m", "--coil", "C1", "--who", "JO")
    assert "here already" in shell("shop", "--came", "D1", "genuine", "--coil", "C2", status=2)
    shell("shop", "--came", "D2", "counted", "--who", "JO")
    assert shell.plain("shop") | {"format": 1} == shell.plain("shop")
    assert "--who" in shell("shop", "--count", "socket", "90", status=2)
    assert "100 were expected" in shell("shop", "--count", "socket", "90", "--who", "JO")


def test_one_shelf_and_one_order_list_for_all_jobs(workshop: Path, shell: Shell) -> None:
    shop = str(workshop / "shop.umber")
    plan = shell.plain("coils", "--shop", shop, status=1)
    assert plan["in_turn"]
    used: dict[str, float] = {}
    for cut in plan["cuts"]:
        used[cut["coil"]] = used.get(cut["coil"], 0.0) + cut["length_m"]
    coils = {row["coil"]: row["left_m"] for row in shell.plain("shelf", shop)}
    left = {row["coil"]: row["left_m"] for row in plan["left"]}
    for name, much in used.items():  # nothing is cut twice, and nothing that isn't there
        assert left[name] == pytest.approx(coils[name] - much, abs=1e-3)
        assert left[name] >= 0
    due = {row["job"]: row["due"] for row in shell.plain("job", "list", "--shop", shop, *NOW)["jobs"]}
    assert {row["job"] for row in plan["short"]} <= set(due)
    assert "Say one" in shell("coils", "x.umber", "--shop", shop, status=2)
    assert "Say one" in shell("coils", status=2)
    orders = shell.plain("buy", "--shop", shop, *NOW, status=1)["orders"]
    short = {(row["what"], row["job"]) for row in plan["short"]}
    for what, job in short:
        assert any(row["what"] == what and job in row["jobs"] for row in orders)
    what, job = min(short)  # ordered since, and said as it is typed
    Path("i.csv").write_text(f"id,part,amount,ordered,due\nD9,{what.replace('²', '2')},9000,2026-11-01,2026-12-04\n")
    shell("shop", "--shop", shop, "--read", "incoming", "i.csv")
    assert what not in {row["what"] for row in shell.plain("buy", "--shop", shop, *NOW, status=1)["orders"]}
    assert "to come on 2026-12-04" in str(shell.plain("job", "show", job, "--shop", shop, *NOW))
    days = [row["by"] for row in orders if row["by"]]
    assert days == sorted(days)
    packed = [row for row in orders if row["packs"]]
    assert packed
    assert all(row["amount"] >= row["lacking"] - 1e-6 for row in orders)
    shell("buy", "--shop", shop, *NOW, "-o", "o.pdf", status=1)
    shell("buy", "--shop", shop, *NOW, "-o", "o.xlsx", status=1)
    assert Path("o.pdf").read_bytes()[:4] == b"%PDF"


def test_quotes_of_files_variants_and_papers(workshop: Path, shell: Shell) -> None:
    tractor = str(workshop / "tractor.umber")
    found = shell.plain("quote", tractor, "--units", "1,5,20", *NOW, status=1)
    prices = [one["unit_price"] for one in found["offers"]]
    assert prices == sorted(prices, reverse=True)  # set-ups and samples are shared
    assert found["valid_until"] == "2026-12-31"
    assert all(
        line["cost"] is not None or line["what"] in one["unpriced"] for one in found["offers"] for line in one["lines"]
    )
    assert all(one["saves"] > 0 for one in found["cheaper"])
    bare = shell.plain("quote", f"{tractor}:no-winch", "--units", "1", "--plain", *NOW, status=1)
    assert bare["offers"][0]["unit_price"] < prices[0]
    assert bare["revision"].endswith(":no-winch")
    for name in ("q.pdf", "q.csv", "q.xlsx"):
        shell("quote", tractor, "--plain", "-o", name, status=1)
        assert Path(name).stat().st_size > 1000
    assert "no numbers of units" in shell("quote", tractor, "--units", "0", status=2)
    assert "no day" in shell("quote", tractor, "--now", "tomorrow", status=2)
    assert "written as .pdf" in shell("quote", tractor, "-o", "q.doc", status=2)


def test_variants_anywhere_a_file_is_named(workshop: Path, shell: Shell) -> None:
    barge = str(workshop / "barge.umber")
    whole, bare = (shell.plain("solve", name)["wires"] for name in (barge, f"{barge}:bare"))
    gone = {row["id"] for row in whole} - {row["id"] for row in bare}
    told = shell.plain("variants", barge, "--differs", "full", "bare")["tables"]
    assert gone == set(told["wires"]["gone"])
    assert "no variant or option" in shell("solve", f"{barge}:gold", status=2)
    assert "is a variant" in shell("say", f"{barge}:bare", "buzzer 1 A at stern run 1 m", status=2)
    assert "names no part" in shell("variants", barge, "--option", "x", "--only", "wash", status=2)
    shell("order", f"{barge}:bare")
    shell("export", f"{barge}:bare", "-o", "bare.json")
    alone = json.loads(Path("bare.json").read_text())
    assert {wire["id"] for wire in alone["wires"]} == {row["id"] for row in bare}
    assert shell.plain("pinmap", f"{barge}:wash-pump+horn", "--end", "j1", "--side", "wire")


def test_devices_and_what_was_learnt(workshop: Path, shell: Shell) -> None:
    where = ["--shop", str(workshop / "shop.umber")]
    barge = str(workshop / "barge.umber")
    found = shell.plain("devices", "compare", "psu-a", "psu-b", *where, status=1)
    assert [row["what"] for row in found["rows"]] == ["plus on minus"] * 2
    assert found["alike"] is False
    told = shell.plain("devices", "check", barge, "sorter", "sorter-24", *where, status=1)
    assert told["fits"] is None  # two of its pins nobody measured
    assert told["unmeasured"]
    assert "There is no device" in shell("devices", "show", "x", *where, status=2)
    assert "takes 2 words" in shell("devices", "compare", "psu-a", *where, status=2)
    shell("devices", "list", *where)
    lessons = shell.plain("lessons", *where, *NOW)["lessons"]
    topics = {row["topic"] for row in lessons}
    assert {"times", "dies", "calibration", "prices"} <= topics
    assert "people" not in topics  # over people by default: nothing
    by_name = shell.plain("lessons", "--by-name", *where, *NOW)["lessons"]
    assert {row["what"] for row in by_name if row["topic"] == "people"} <= {"JO"}
    shell("lessons", *where, "-o", "l.pdf")


def test_the_shops_catalogue_is_on_its_harnesses_shelf_alone(shell: Shell, tmp_path: Path) -> None:
    """Parts in the shop's file are had by what lies beside it, and by no other harness."""
    for folder in ("shop", "elsewhere"):
        (tmp_path / folder).mkdir()
        shell("new", f"{folder}/a.umber")
        shell("say", f"{folder}/a.umber", "supply 12 V at battery", "lamp 2 A at bow run 4 m")
    shell("shop", "--new", "--shop", "shop/shop.umber")
    part = json.loads(shell("catalogue", "list", "--kind", "lug", "--json"))[0] | {
        "id": "own-lug",
        "name": "our own lug",
    }
    Path("own.json").write_text(json.dumps([part]))
    assert "holds 1" in shell("catalogue", "import", "own.json", "--shop", "shop/shop.umber")
    assert shell.plain("shop", "--shop", "shop/shop.umber")["whole"]
    assert "own-lug" in shell("catalogue", "list", "--shop", "shop/shop.umber")
    assert "own-lug" not in shell("catalogue", "list")
    assert (stocked_shelf(None, tmp_path / "shop" / "a.umber")[0].named("own-lug") is None) is False
    assert stocked_shelf(None, tmp_path / "elsewhere" / "a.umber")[0].named("own-lug") is None
    Path("shop/shop.umber").write_bytes(b"x" * 2000)  # no shop's file any more: told, and left out
    assert "no shop’s file" in shell("check", "shop/a.umber")
