"""Marks on a photo for paper; the screen passes the same cases (frontend/tests/photoMarks.test.ts)."""

import json
import re
from pathlib import Path

import pytest

from upper_rook.core.run.readings.photos import Drawn
from upper_rook.formats.photo_marks import photo_marks_svg

CASES = json.loads((Path(__file__).parents[1] / "shared/photo_marks.json").read_text("utf-8"))


def drawn(case: dict[str, object]) -> str:
    return photo_marks_svg([Drawn.model_validate(case["mark"])], int(str(case["width"])), int(str(case["height"])))


def test_an_arrow_has_its_head_where_it_points() -> None:
    path = re.search(r' d="([^"]+)"', drawn(CASES["arrow"]))
    assert path is not None
    assert [float(one) for one in re.findall(r"[\d.]+", path[1])] == pytest.approx(CASES["arrow"]["points"], abs=0.06)


@pytest.mark.parametrize("case", CASES["circles"])
def test_a_circle_is_round_on_a_photo_that_is_not_square(case: dict[str, object]) -> None:
    radius = re.search(r' r="([\d.]+)"', drawn(case))
    assert radius is not None
    assert float(radius[1]) == case["radius"]
