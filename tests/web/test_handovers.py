"""The papers of a job: PDF, HTML and JSON through the API, read again by pypdf and an HTML parser of Python's own."""

import io
import re
from html.parser import HTMLParser
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from PIL import Image
from pypdf import PdfReader
from starlette.testclient import TestClient

from upper_rook.core.common.units import LONGEST_NAME
from upper_rook.core.handover.customer_card import customer_card
from upper_rook.core.handover.document import Handover
from upper_rook.desk.pdf_drawing import Drawer, NotDrawn
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
    step = next(one for one in steps if one["kind"] == "volume_steps")
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


def test_sixty_four_paths_with_long_names_stay_on_the_paper(client: TestClient) -> None:
    job = client.post("/api/jobs", json={"id": str(uuid4()), "layout": "front"}).json()
    sheet = job["sheet"]
    first = sheet["chain"]["paths"][0]
    for kind, field in (("amplifiers", "amplifier"), ("loads", "load")):
        own = sheet["chain"][kind][0]
        sheet["chain"][kind] = [own | {"id": f"{field}-{number}"} for number in range(64)]
    sheet["chain"]["paths"] = [
        first
        | {"id": f"p{number}", "name": f"Path {number} with a name as long as anybody types", "section": None}
        | {"amplifier": f"amplifier-{number}", "load": f"load-{number}"}
        for number in range(64)
    ]
    saved = client.put(f"/api/jobs/{job['id']}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    assert saved.status_code == 200, saved.text
    pdf = read(client, saved.json(), "sheet")
    words = words_of(pdf)
    assert all(f"Path {number} with a name as long as anybody types" in words for number in range(64))


def test_the_document_is_read_again_as_it_was_written(client: TestClient) -> None:
    job = measured(client, "front-sub", "Petrel")
    plain = client.get(f"/api/jobs/{job['id']}/handover.json").json()
    document = Handover.model_validate(plain)
    assert document.model_dump(mode="json") == plain
    assert "never pass 30" in customer_card(document).text
    assert client.get(f"/api/jobs/{uuid4()}/sheet.pdf").status_code == 404


def test_a_drawer_that_was_killed_is_told_and_the_next_page_is_drawn() -> None:
    drawer = Drawer()
    try:
        assert drawer.drawn("<!doctype html><html lang='en'><title>One</title><p>1").startswith(b"%PDF")
        drawer._child.kill()
        with pytest.raises(NotDrawn, match="HTML file"):
            drawer.drawn("<!doctype html><p>2")
        assert drawer.drawn("<!doctype html><p>3").startswith(b"%PDF")
    finally:
        drawer.close()


def test_a_page_can_name_nothing_outside_itself(tmp_path: Path) -> None:
    secret = tmp_path / "secret.png"
    Image.new("RGB", (40, 40), "red").save(secret)
    named = f"<!doctype html><html lang='en'><title>T</title><img alt='x' src='file://{secret}'>"
    drawn = PdfReader(io.BytesIO(pdf(named)))
    assert not list(drawn.pages[0].images)
