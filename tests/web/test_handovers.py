"""The papers of a job: PDF, HTML and JSON through the API, read again by pypdf and an HTML parser of Python's own."""

import io
import re
from contextlib import suppress
from html.parser import HTMLParser
from pathlib import Path
from typing import Any
from uuid import uuid4
from xml.etree import ElementTree

import pytest
from PIL import Image
from pypdf import PdfReader
from starlette.testclient import TestClient

from upper_rook.core.common.units import LONGEST_NAME
from upper_rook.core.handover.customer_card import customer_card
from upper_rook.core.handover.document import Handover
from upper_rook.desk.child import Gone, TookTooLong
from upper_rook.desk.pdf_drawing import DRAWER, Drawer, NotDrawn
from upper_rook.formats.pdf import pdf

Body = dict[str, Any]
LONG = "A “van” with <b>marks</b> & the longest name that anybody gave one " * 4
SIZES_PT = {"A4": (595.3, 841.9), "letter": (612.0, 792.0)}
"""ISO 216 and ANSI Y14.1, in points of 1/72 inch."""


class Named(HTMLParser):
    """Every address that a page names."""

    def __init__(self) -> None:
        super().__init__()
        self.addresses: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.addresses += [value or "" for name, value in attrs if name in ("src", "href")]
        assert tag not in ("script", "link", "iframe")


def measured(client: TestClient, layout: str, vehicle: str) -> Body:
    """A job whose source has a clean maximum."""
    job = client.post("/api/jobs", json={"id": str(uuid4()), "vehicle": vehicle, "layout": layout}).json()
    steps = client.get(f"/api/jobs/{job['id']}/run").json()["run"]["steps"]
    step = next(step for step in steps if step["kind"] == "volume_steps")
    common = {"step": step["key"], "sheet_version": 1, "taken_at": "2026-05-03T09:05:00Z", "by": "Wren"}
    off = common | {"step": "safe", "item": "speakers-off", "answer": "done"}
    read = {"value": 3.9, "seen": "clean", "evidence": "eye", "instrument": "true-rms"}
    now = {"circumstances": {"volume": 30, "tone": step["wants"]["tone"], "way": step["wants"]["way"]}}
    bodies = (("marks", off), ("readings", common | read | now), ("marks", common | {"basis": "marked", "volume": 30}))
    for kind, body in bodies:
        answer = client.post(f"/api/jobs/{job['id']}/{kind}", json={"id": str(uuid4())} | body)
        assert answer.status_code == 201, answer.text
    return dict(job)


def read(client: TestClient, job: Body, kind: str, paper: str = "A4") -> PdfReader:
    answer = client.get(f"/api/jobs/{job['id']}/{kind}.pdf", params={"paper": paper})
    assert answer.status_code == 200, answer.text
    assert answer.headers["content-type"] == "application/pdf"
    return PdfReader(io.BytesIO(answer.content))


def words_of(pdf: PdfReader) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in pdf.pages))


@pytest.mark.parametrize("paper", SIZES_PT)
def test_the_sheet_is_a_tagged_page_with_its_fonts_and_the_figures_of_the_result(
    client: TestClient, paper: str
) -> None:
    job = measured(client, "front-sub", "Dunlin, day van")
    pdf = read(client, job, "sheet", paper)
    assert len(pdf.pages) <= 3
    box = pdf.pages[0].mediabox
    assert (float(box.width), float(box.height)) == pytest.approx(SIZES_PT[paper], abs=1)
    root = pdf.trailer["/Root"]
    assert root["/Lang"] == "en"
    assert bool(root["/MarkInfo"]["/Marked"])
    assert "/StructTreeRoot" in root
    assert pdf.metadata
    assert pdf.metadata.title == "Dunlin, day van: sheet"
    for page in pdf.pages:
        for font in page["/Resources"]["/Font"].values():
            told = font.get_object()["/DescendantFonts"][0].get_object()["/FontDescriptor"].get_object()
            assert {"/FontFile2", "/FontFile3"} & set(told)
    words = words_of(pdf)
    assert "never pass 30" in words
    assert "Measured by Wren" in words
    wanted = client.get(f"/api/jobs/{job['id']}/result").json()["outputs"][0]["target_v"]
    assert f"{wanted:.4g} V" in words


def test_the_card_says_the_number_in_plain_words(client: TestClient) -> None:
    job = measured(client, "front", "Skua")
    pdf = read(client, job, "card")
    assert len(pdf.pages) == 1
    words = words_of(pdf)
    assert "never pass" in words
    assert "30" in words
    assert "isn’t finished" in words
    # No unit of the trade is on it.
    assert not re.search(r"\bdBV?\b|RMS|Ω|\d V\b", words)


def test_html_fetches_nothing_and_keeps_what_people_typed_as_text(client: TestClient) -> None:
    job = measured(client, "front", LONG[:LONGEST_NAME])
    for kind in ("sheet", "card"):
        answer = client.get(f"/api/jobs/{job['id']}/{kind}.html")
        found = Named()
        found.feed(answer.text)
        assert found.addresses == []
        assert "&lt;b&gt;marks&lt;/b&gt;" in answer.text
        assert not re.search(r"url\((?!\"data:)", answer.text)
        assert answer.headers["content-disposition"].startswith("attachment")


@pytest.mark.parametrize("count", [16, pytest.param(64, marks=pytest.mark.deep)])
def test_many_paths_with_long_names_stay_on_the_paper(client: TestClient, count: int) -> None:
    job = client.post("/api/jobs", json={"id": str(uuid4()), "layout": "front"}).json()
    sheet = job["sheet"]
    first = sheet["chain"]["paths"][0]
    for kind, field in (("amplifiers", "amplifier"), ("loads", "load")):
        own = sheet["chain"][kind][0]
        sheet["chain"][kind] = [own | {"id": f"{field}-{number}"} for number in range(count)]
    sheet["chain"]["paths"] = [
        first
        | {"id": f"p{number}", "name": f"Path {number} with a name as long as anybody types", "section": None}
        | {"amplifier": f"amplifier-{number}", "load": f"load-{number}"}
        for number in range(count)
    ]
    saved = client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    assert saved.status_code == 200, saved.text
    pdf = read(client, saved.json(), "sheet")
    words = words_of(pdf)
    assert all(f"Path {number} with a name as long as anybody types" in words for number in range(count))


def test_the_document_is_read_again_as_it_was_written(client: TestClient) -> None:
    job = measured(client, "front-sub", "Petrel")
    plain = client.get(f"/api/jobs/{job['id']}/handover.json").json()
    document = Handover.model_validate(plain)
    assert document.model_dump(mode="json") == plain
    assert "never pass 30" in customer_card(document).text
    assert client.get(f"/api/jobs/{uuid4()}/sheet.pdf").status_code == 404


def test_a_drawer_that_died_is_begun_anew() -> None:
    drawer = Drawer()
    try:
        assert drawer.drawn("<!doctype html><html lang='en'><title>One</title><p>1").startswith(b"%PDF")
        drawer._child.kill()
        for _ in range(2):
            # Whether it is found dead before or after it was asked.
            with suppress(NotDrawn):
                drawn = drawer.drawn("<!doctype html><p>2")
        assert drawn.startswith(b"%PDF")
    finally:
        drawer.close()


@pytest.mark.parametrize(("why", "said"), [(Gone(), "Take the HTML file"), (TookTooLong(), "more than a minute")])
def test_what_cannot_be_drawn_is_told_with_what_to_do_instead(
    client: TestClient, job: Body, monkeypatch: pytest.MonkeyPatch, why: Exception, said: str
) -> None:
    def ask(*_: object) -> bytes:
        raise why

    monkeypatch.setattr(DRAWER._child, "ask", ask)
    answer = client.get(f"/api/jobs/{job['id']}/sheet.pdf")
    assert (answer.status_code, said in answer.json()["detail"]) == (503, True)


def test_a_page_can_name_nothing_outside_itself(tmp_path: Path) -> None:
    secret = tmp_path / "secret.png"
    Image.new("RGB", (40, 40), "red").save(secret)
    named = f"<!doctype html><html lang='en'><title>T</title><img alt='x' src='file://{secret}'>"
    drawn = PdfReader(io.BytesIO(pdf(named)))
    assert not list(drawn.pages[0].images)


def gain_read(client: TestClient, job: Body) -> None:
    """The first gain of a measured job, read at its target."""
    step = next(
        step for step in client.get(f"/api/jobs/{job['id']}/run").json()["run"]["steps"] if step["kind"] == "gain"
    )
    body = {
        "id": str(uuid4()),
        "step": step["key"],
        "value": step["target"]["value"],
        "instrument": "true-rms",
        "circumstances": {key: step["wants"][key] for key in ("volume", "tone", "way", "hanging")},
        "builds_on": step["builds_on"],
        "sheet_version": 1,
        "taken_at": "2026-05-03T09:20:00Z",
    }
    answer = client.post(f"/api/jobs/{job['id']}/readings", json=body)
    assert answer.status_code == 201, answer.text


GRID = {"columns": 2, "rows": 5, "width_mm": 90, "height_mm": 50, "left_mm": 10, "top_mm": 15, "gap_x_mm": 10}


def test_labels_lie_where_the_packet_says_and_begin_where_the_sheet_was_left(client: TestClient) -> None:
    job = measured(client, "front", "Skua")
    gain_read(client, job)
    query = GRID | {"first": 2, "paper": "A4"}
    drawing = ElementTree.fromstring(  # noqa: S314 our own
        client.get(f"/api/jobs/{job['id']}/labels.svg", params=query).text
    )
    assert (drawing.get("width"), drawing.get("height")) == ("210.0mm", "297.0mm")
    texts = [(float(element.get("x", 0)), float(element.get("y", 0)), element.text or "") for element in drawing]
    number, gain = texts[:3], texts[3:6]
    # The second label of the first row, then the first of the second, each within its own edges.
    assert all(110 <= x <= 200 and 15 <= y <= 65 for x, y, _ in number)
    assert all(10 <= x <= 100 and 65 <= y <= 115 for x, y, _ in gain)
    assert number[1][2] == "never pass 30"
    target = client.get(f"/api/jobs/{job['id']}/result").json()["outputs"][0]["target_v"]
    assert gain[1][2] == f"{target:.3g} V"
    assert "at 30, 1 kHz" in gain[2][2]
    pdf = PdfReader(io.BytesIO(client.get(f"/api/jobs/{job['id']}/labels.pdf", params=query).content))
    (page,) = pdf.pages
    assert (float(page.mediabox.width), float(page.mediabox.height)) == pytest.approx(SIZES_PT["A4"], abs=0.5)
    found: list[tuple[str, float, float]] = []
    page.extract_text(visitor_text=lambda text, user, at, *_: found.append((text, *placed(user, at))))
    _, x, y = next(one for one in found if "never pass 30" in one[0])
    # Where the SVG has it, in points from below (72 to the inch).
    assert (x, 841.9 - y) == pytest.approx((number[1][0] * 72 / 25.4, number[1][1] * 72 / 25.4), abs=1.5)


def placed(user: list[float], at: list[float]) -> tuple[float, float]:
    """Origin of a text by its matrix and the page's (PDF 32000-1, 8.3.4)."""
    return (
        user[0] * at[4] + user[2] * at[5] + user[4],
        user[1] * at[4] + user[3] * at[5] + user[5],
    )


@pytest.mark.parametrize(
    ("changed", "said"),
    [({"columns": 3}, "300.0 mm wide"), ({"rows": 6}, "315.0 mm high"), ({"first": 11}, "A sheet has 10 labels")],
)
def test_a_grid_that_does_not_fit_is_told_in_millimetres(client: TestClient, changed: Body, said: str) -> None:
    job = measured(client, "front", "Skua")
    answer = client.get(f"/api/jobs/{job['id']}/labels.pdf", params=GRID | changed)
    assert answer.status_code == 422
    assert said in answer.json()["detail"]


def test_nothing_measured_has_no_labels(client: TestClient, job: Body) -> None:
    answer = client.get(f"/api/jobs/{job['id']}/labels.svg")
    assert (answer.status_code, "Nothing was measured yet" in answer.json()["detail"]) == (422, True)
