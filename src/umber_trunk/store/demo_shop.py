"""The co-op's workshop as a demo: a folder with the shop's file and its harnesses, all of it made up."""

from __future__ import annotations

import json
from importlib import resources
from pathlib import Path

from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.option import Only, Option, Variant
from umber_trunk.core.harness.variants import put_option, put_variant
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.shop.things import KINDS
from umber_trunk.core.text import digest_of
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.files import StoreError, reason
from umber_trunk.store.jsonfile import to_json
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.shop_file import ShopFile
from umber_trunk.store.shop_place import SHOP_NAME

OPTIONS = {
    "barge": (("wash-pump", "the deck wash pump", "wash"), ("horn", "the horn", "horn")),
    "tractor": (("winch", "the recovery winch", "winch"),),
}
"""Harness → its options: name, in words, the end that is there with it alone."""
VARIANTS = {
    "barge": (("full", ("wash-pump", "horn")), ("bare", ())),
    "tractor": (("with-winch", ("winch",)), ("no-winch", ())),
}


def with_variants(name: str) -> Design:
    """A demo harness with the options it is made in at the workshop."""
    design = demo(name)
    for option, told, end in OPTIONS.get(name, ()):
        design = put_option(design, Option(id=option, name=told, only=(Only(table="ends", id=end),)))
    for variant, options in VARIANTS.get(name, ()):
        design = put_variant(design, Variant(id=variant, options=options))
    return design


def put_shop(folder: Path) -> Path:
    """The workshop in a new folder; its shop's file. StoreError where something is there already."""
    try:
        folder.mkdir(parents=True)
    except OSError as why:
        raise StoreError.of("any.cant-be-made", folder=folder, why=reason(why)) from why
    for name in DEMOS:
        put_demo(folder / f"{name}.umber", name, with_variants(name)).close()
    plain = json.loads(resources.files("umber_trunk").joinpath("data/demo/shop.json").read_text("utf-8"))
    digests = {f"{name}.umber": digest_of(to_json(with_variants(name))) for name in DEMOS}
    path = folder / SHOP_NAME
    with ShopFile.create(path) as shop:
        for kind, one in KINDS.items():
            rows = [one.model.model_validate(row) for row in plain.get(kind, ())]
            if kind == "jobs":
                rows = [
                    row.model_copy(update={"revision": 1, "digest": "" if row.variant else digests[row.file]})
                    for row in rows
                ]
            shop.put(kind, rows, "MA", "demo")
        shop.count_coils([Coil(**row) for row in plain["coils"]], "MA")
        shop.count_parts(plain["counts"], "MA")
    for name in DEMOS:
        if name != "tractor":  # its lot was cut from coils of its own
            with ProjectFile.open(folder / f"{name}.umber") as project:
                project.floor.use_shelf(path)
    return path
