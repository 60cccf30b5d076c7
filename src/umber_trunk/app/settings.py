"""What the program remembers about the user: recent harnesses and text size. A bad file never stops it."""

from __future__ import annotations

import os
from pathlib import Path

from platformdirs import user_config_path

from umber_trunk.app.widgets.words import tr
from umber_trunk.core.voice import ENGLISH, NAMES
from umber_trunk.store.state import read_state, set_aside, write_state

MOST_RECENT = 8
MOST_FOLDED = 40


class Settings:
    """Kept as JSON in the user's configuration folder; an unreadable file is set aside as .bad, and `trouble` says
    what was wrong with it."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or user_config_path("umber-trunk") / "settings.json"
        self._values, self.trouble = read_state(self.path)
        if self.trouble:
            done = set_aside(self.path)
            self.trouble += " " + (
                tr("It was set aside, and the usual settings are used.")
                if done
                else tr("It could not be set aside; the usual settings are used.")
            )

    def _write(self) -> None:
        write_state(self.path, self._values)

    def recent(self) -> list[Path]:
        """Harness files opened lately that are still there, latest first."""
        names = self._values.get("recent")
        names = [name for name in names if isinstance(name, str)] if isinstance(names, list) else []
        return [Path(name) for name in names[:MOST_RECENT] if os.path.exists(name)]

    def opened(self, path: Path) -> None:
        """Puts a file at the head of the recent ones."""
        others = [str(one) for one in self.recent() if one != path.absolute()]
        self._values["recent"] = [str(path.absolute()), *others][:MOST_RECENT]
        self._write()

    @property
    def scale(self) -> float:
        """Text scale, 0.7 to 2."""
        value = self._values.get("scale", 1.0)
        return (
            float(value)
            if isinstance(value, int | float) and not isinstance(value, bool) and 0.7 <= value <= 2
            else 1.0
        )

    @scale.setter
    def scale(self, value: float) -> None:
        self._values["scale"] = round(value, 3)
        self._write()

    @property
    def language(self) -> str:
        """The language the program speaks, "en" unless another was chosen."""
        value = self._values.get("language")
        return value if isinstance(value, str) and value in NAMES else ENGLISH

    @language.setter
    def language(self, value: str) -> None:
        self._values["language"] = value
        self._write()

    def folds(self, path: Path) -> dict[str, bool]:
        """What the builder has folded and unfolded on the picture of a file."""
        known = self._values.get("folds")
        mine = known.get(str(path.absolute())) if isinstance(known, dict) else None
        return {k: v for k, v in mine.items() if isinstance(v, bool)} if isinstance(mine, dict) else {}

    def keep_folds(self, path: Path, folds: dict[str, bool]) -> None:
        """Remembers them, for the latest files."""
        known = self._values.get("folds")
        known = {k: v for k, v in known.items() if k != str(path.absolute())} if isinstance(known, dict) else {}
        if folds:
            known[str(path.absolute())] = folds
        self._values["folds"] = dict(list(known.items())[-MOST_FOLDED:])
        self._write()

    def states(self, path: Path) -> tuple[str, tuple[tuple[str, str], ...]]:
        """What the stages of a file were at when its window was closed: (what stood in it then, (stage, badge) of
        each)."""
        known = self._values.get("states")
        mine = known.get(str(path.absolute())) if isinstance(known, dict) else None
        if (
            not isinstance(mine, dict)
            or not isinstance(mine.get("of"), str)
            or not isinstance(mine.get("badges"), list)
        ):
            return "", ()
        rows = [
            row
            for row in mine["badges"][:20]
            if isinstance(row, list) and len(row) == 2 and all(isinstance(one, str) for one in row)
        ]
        return mine["of"], tuple((row[0][:40], row[1][:12]) for row in rows)

    def keep_states(self, path: Path, of: str, badges: list[tuple[str, str]]) -> None:
        """Remembers them, for the latest files. `of` is what stands in the file, see `glances.standing`."""
        known = self._values.get("states")
        known = {k: v for k, v in known.items() if k != str(path.absolute())} if isinstance(known, dict) else {}
        known[str(path.absolute())] = {"of": of, "badges": [list(row) for row in badges]}
        self._values["states"] = dict(list(known.items())[-MOST_FOLDED:])
        self._write()


class BenchHabits:
    """How this shop attests at the bench, by operation: a whole handful with one key, or piece by piece. Kept as
    Settings are."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or user_config_path("umber-trunk") / "bench.json"
        values, _ = read_state(self.path)
        pieces = values.get("piece by piece")
        self._pieces = {one for one in pieces if isinstance(one, str)} if isinstance(pieces, list) else set()

    def whole(self, op: str) -> bool:
        """Whether a handful of this operation is attested with one key."""
        return op not in self._pieces

    def change(self, op: str) -> bool:
        """The other way from now on: whether whole."""
        self._pieces ^= {op}
        write_state(self.path, {"piece by piece": sorted(self._pieces)})
        return self.whole(op)
