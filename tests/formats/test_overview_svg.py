"""The drawing of all paths on the sheet: as high as the levels say, whole with 64 paths, its words escaped."""

import re
import xml.etree.ElementTree as ET

import pytest

from upper_rook.core.handover.document import Level, Levels
from upper_rook.formats.overview_svg import overview_svg

SVG = "{http://www.w3.org/2000/svg}"


def path(name: str, *levels: tuple[float, float]) -> Levels:
    return Levels(
        path=name,
        stages=tuple(
            Level(stage=f"stage {number}", level_v=level, clean_maximum_v=clean, headroom_db=clean - level)
            for number, (level, clean) in enumerate(levels)
        ),
    )


def parsed(svg: str) -> ET.Element:
    return ET.fromstring(svg)  # noqa: S314 it is our own


def test_bars_are_as_high_as_their_levels_on_one_scale() -> None:
    drawn = parsed(overview_svg([path("Front", (1.0, 2.0), (10.0, 10.0)), path("Sub", (1.0, 4.0), (31.62, 40.0))]))
    bars = [float(bar.attrib["y"]) for bar in drawn.iter(f"{SVG}rect")]
    lines = {text.text: float(text.attrib["y"]) for text in drawn.iter(f"{SVG}text")}
    # 0, 20, 0 and 30 dBV lie on the scale's own lines, whose numbers stand 3.5 below them.
    assert bars == pytest.approx([lines[mark] - 3.5 for mark in ("0", "20", "0", "30")], abs=0.1)
    filled = [bar.attrib["fill"] == "#111" for bar in drawn.iter(f"{SVG}rect")]
    assert filled == [False, True, True, False]
    assert overview_svg([path("Front", (1.0, 2.0))]) == ""


def test_sixty_four_paths_with_any_names_stay_inside() -> None:
    text = overview_svg([path(f"<b>&{number} " + "long " * 20, (0.5, 4.0), (20.0, 25.0)) for number in range(64)])
    drawn = parsed(text)
    wide, tall = (float(side) for side in drawn.attrib["viewBox"].split()[2:])
    for bar in drawn.iter(f"{SVG}rect"):
        x, y, width, height = (float(bar.attrib[name]) for name in ("x", "y", "width", "height"))
        assert 0 <= x <= x + width <= wide
        assert 0 <= y <= y + height <= tall
    assert not re.search(r"<b>", text)
