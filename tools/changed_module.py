"""A plugin for pytest: one module is imported as it would be with one node changed, for what stands outside of
functions."""

from __future__ import annotations

import os
import sys
from importlib.abc import MetaPathFinder
from importlib.machinery import ModuleSpec, SourceFileLoader
from importlib.util import spec_from_file_location
from pathlib import Path
from types import CodeType
from typing import Any

from mutants import changed
from mutate import ROOT, module_of


class _Changed(SourceFileLoader):
    """Compiles the changed text, whatever is kept from before."""

    def get_code(self, fullname: str) -> CodeType:
        _, number, what = os.environ["UMBER_CHANGED"].split("|")
        return compile(changed(Path(self.path).read_text("utf-8"), int(number), what), self.path, "exec")


class _Finder(MetaPathFinder):
    """Finds that one module before anybody else does."""

    def __init__(self, file: str) -> None:
        self.name, self.path = module_of(file), str(ROOT / file)

    def find_spec(self, fullname: str, *_: Any) -> ModuleSpec | None:
        if fullname != self.name:
            return None
        return spec_from_file_location(fullname, self.path, loader=_Changed(fullname, self.path))


sys.meta_path.insert(0, _Finder(os.environ["UMBER_CHANGED"].split("|")[0]))
