"""
Writes THIRD-PARTY.md: the versions and licences of everything that ships, fonts included.

python scripts/third_party.py [--check]    --check writes nothing and fails when the file isn't current
"""

import json
import re
import sys
from collections.abc import Iterator
from importlib.metadata import PackageMetadata, PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
FILE = ROOT / "THIRD-PARTY.md"

# Built with, but parts of them end up in what is served.
_BUILT_IN = re.compile(r"^(workbox-(window|core|precaching|routing|strategies)|@iconify-json/bi)$")
_FONTS = re.compile(r"^@fontsource")
_CLASSIFIER = "License :: OSI Approved :: "

Row = tuple[str, str, str]


def python_packages() -> Iterator[Row]:
    """Every package that the app runs with, as it is pinned and installed."""
    for line in (ROOT / "requirements.txt").read_text("utf-8").splitlines():
        pinned = re.match(r"([A-Za-z0-9._-]+)==([^ ;\\]+)", line)
        if not pinned:
            continue
        try:
            about = metadata(pinned[1])
        except PackageNotFoundError:
            # Pinned for other systems.
            continue
        if about["Version"] == pinned[2]:
            yield about["Name"], pinned[2], _licence(about)


def _licence(about: PackageMetadata) -> str:
    said = about.get("License-Expression") or about.get("License") or ""
    classified = [one.removeprefix(_CLASSIFIER) for one in about.get_all("Classifier") or ()]
    # A whole licence text stands there now and then.
    short = said if len(said) < 60 and "\n" not in said else ""
    return short or "; ".join(one for one in classified if "::" not in one)


def front_end_packages() -> Iterator[Row]:
    """Every package that parts of are served to browsers."""
    lock = json.loads((ROOT / "frontend" / "package-lock.json").read_text("utf-8"))
    for place, about in lock["packages"].items():
        name = place.rpartition("node_modules/")[2]
        if name and (not about.get("dev") or _BUILT_IN.match(name)) and not about.get("optional"):
            yield name, about["version"], about.get("license", "")


def text() -> str:
    """The whole file."""
    front_end = sorted(set(front_end_packages()))
    parts = {
        "The server": sorted(set(python_packages()), key=lambda row: row[0].lower()),
        "The pages": [row for row in front_end if not _FONTS.match(row[0])],
        "Fonts": [row for row in front_end if _FONTS.match(row[0])],
    }
    lines = ["# What ships with Upper Rook", "", "Written by `scripts/third_party.py`; not edited by hand.", ""]
    for title, rows in parts.items():
        lines += [f"## {title}", "", "| package | version | licence |", "|---|---|---|"]
        lines += [f"| {name} | {version} | {licence} |" for name, version, licence in rows]
        lines.append("")
    lines += ["PostgreSQL comes from Debian's own packages and is not part of this.", ""]
    return "\n".join(lines)


def main() -> int:
    """0 when the file is current, or was written."""
    now = text()
    if "--check" not in sys.argv:
        FILE.write_text(now, "utf-8")
    elif not FILE.is_file() or FILE.read_text("utf-8") != now:
        sys.stderr.write("THIRD-PARTY.md isn't current: run python scripts/third_party.py\n")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
