"""Photographs travel in the harness file, without where they were taken and without a path of the user's machine."""

from __future__ import annotations

import os
import random
import zlib
from pathlib import Path

import pytest
from PySide6.QtGui import QColor, QImage

from umber_trunk.app.paper.photographs import MOST_PX, photograph
from umber_trunk.cli.main import main
from umber_trunk.core.demo import demo
from umber_trunk.store.builds import begin
from umber_trunk.store.files import StoreError
from umber_trunk.store.lines_log import station_path
from umber_trunk.store.merging import merge
from umber_trunk.store.photographs import photographs
from umber_trunk.store.project import ProjectFile

PLACE = b"GPSLatitude 57 deg 41 min; camera of Mara, serial 470800471123"


def taken(path: Path, width: int = 4000, height: int = 3000) -> Path:
    """A JPEG that says where it was taken: an Exif segment put right behind the first two bytes, and a comment behind
    it."""
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(QColor("teal"))
    image.save(str(path), "JPEG", 90)  # type: ignore[call-overload]
    data = path.read_bytes()
    exif = b"Exif\0\0MM\0*\0\0\0\x08\0\0" + PLACE
    said = b"".join(
        b"\xff" + mark + (len(text) + 2).to_bytes(2, "big") + text for mark, text in ((b"\xe1", exif), (b"\xfe", PLACE))
    )
    path.write_bytes(data[:2] + said + data[2:])
    return path


def test_a_photograph_travels_with_the_file_and_nothing_of_its_place_does(
    tmp_path: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    harness, out = tmp_path / "shore.umber", tmp_path / "out"
    secret = tmp_path / "Mara's private folder"
    secret.mkdir()
    out.mkdir()
    picture = taken(secret / "crimp <b>7.jpg")
    assert PLACE in picture.read_bytes()
    with ProjectFile.create(harness, demo("shore"), copied=False) as project, begin(project, "one", [1]) as build:
        build.advance()
        build.photograph(str(picture), photograph(picture), build.bench.now)
        with ProjectFile.open(harness, for_writing=False) as reader, begin(reader, "two", [2], station="back") as other:
            other.photograph(str(picture), photograph(picture), other.bench.now)
        lines = station_path(harness, "back")
        merge(project, lines)
        picture.unlink()
        found = photographs(project.floor)
        assert [name.split("-")[-1] for name, _ in found] == ["crimp__b_7.jpg"] * 2
        assert not project.floor.trust().wrong
        for _, data in found:
            seen = QImage.fromData(data)
            assert max(seen.width(), seen.height()) == MOST_PX
            assert seen.pixelColor(5, 5).green() > 100
    for kept in (harness.read_bytes(), lines.read_bytes(), *(data for _, data in found)):
        assert PLACE not in kept
        assert b"private folder" not in kept
        assert b"470800471123" not in kept
    assert main(["log", str(harness), "--photos", str(out)]) == 0
    assert len(list(out.iterdir())) == 2
    assert main(["log", str(harness), "--photos", str(out)]) == 2  # nothing there is replaced
    assert main(["log", str(harness)]) == 0
    assert "crimp <b>7.jpg" in capfd.readouterr().out


@pytest.mark.no_qt_log  # Qt says what is wrong with each
def test_what_is_no_photograph_is_a_sentence(tmp_path: Path) -> None:
    path, rng = tmp_path / "x.jpg", random.Random(2)
    good = taken(tmp_path / "good.jpg", 64, 48).read_bytes()
    huge = b"\x89PNG\r\n\x1a\n" + b"\0\0\0\rIHDR" + (2**30).to_bytes(4, "big") * 2 + b"\x08\x02\0\0\0"
    huge += zlib.crc32(huge[12:29]).to_bytes(4, "big")
    os.mkfifo(tmp_path / "pipe.jpg")
    (tmp_path / "zero.jpg").symlink_to("/dev/zero")
    for name in ("pipe.jpg", "zero.jpg", "none.jpg", "."):
        with pytest.raises(StoreError):
            photograph(tmp_path / name)
    for data in (
        b"",
        b"\xff\xd8",
        b"\xff\xd8\xff\xe0" * 50,
        rng.randbytes(5000),
        huge,
        b"<svg xmlns='http://www.w3.org/2000/svg'><image href='/etc/passwd'/></svg>",
    ):
        path.write_bytes(data)
        with pytest.raises(StoreError, match=r"x\.jpg"):
            photograph(path)
    for _ in range(40):  # a broken picture is refused or drawn as far as it goes, never a bug
        hurt = bytearray(good)
        for _ in range(6):
            hurt[rng.randrange(len(hurt))] = rng.randrange(256)
        path.write_bytes(bytes(hurt))
        try:
            assert photograph(path).startswith("data:image/jpeg")
        except StoreError as why:
            assert str(why).endswith(".")
