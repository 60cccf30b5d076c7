"""What the program remembers about the user: recent harnesses and text size. A bad file never stops it."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path
from typing import Any

from platformdirs import user_config_path

MOST_RECENT = 8


class Settings:
    """Kept as JSON in the user's configuration folder; an unreadable file is set aside as .bad."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or user_config_path("umber-trunk") / "settings.json"
        self._values: dict[str, Any] = self._read()

    def _read(self) -> dict[str, Any]:
        try:
            values = json.loads(self.path.read_text("utf-8"))
            if not isinstance(values, dict):
                raise ValueError
        except FileNotFoundError:
            return {}
        except (OSError, ValueError):
            with suppress(OSError):
                self.path.replace(self.path.with_suffix(".bad"))
            return {}
        return values

    def _write(self) -> None:
        with suppress(OSError):
            self.path.parent.mkdir(parents=True, exist_ok=True)
            self.path.write_text(json.dumps(self._values, indent=1), "utf-8")

    def recent(self) -> list[Path]:
        """Harness files opened lately that are still there, latest first."""
        names = self._values.get("recent")
        paths = [Path(name) for name in names if isinstance(name, str)] if isinstance(names, list) else []
        return [path for path in paths if path.exists()][:MOST_RECENT]

    def opened(self, path: Path) -> None:
        """Puts a file at the head of the recent ones."""
        others = [str(one) for one in self.recent() if one != path.absolute()]
        self._values["recent"] = [str(path.absolute()), *others][:MOST_RECENT]
        self._write()

    @property
    def scale(self) -> float:
        """Text scale, 0.7 to 2."""
        value = self._values.get("scale", 1.0)
        return float(value) if isinstance(value, int | float) and 0.7 <= value <= 2 else 1.0

    @scale.setter
    def scale(self, value: float) -> None:
        self._values["scale"] = round(value, 3)
        self._write()
