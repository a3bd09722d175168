"""Judging in a child process: whatever a file holds or does to the judge, it is kept, and nobody else notices."""

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from upper_rook.core.common.errors import BadInput
from upper_rook.core.run.readings.kept_captures import CaptureKind, NewCapture
from upper_rook.desk import captures
from upper_rook.desk.judging import Judge, Request

Body = dict[str, Any]
RATE = 48000


@pytest.fixture
def judge() -> Iterator[Judge]:
    """A judge of one's own."""
    judge = Judge()
    yield judge
    judge.close()


def wav(samples: np.ndarray[Any, Any], subtype: str = "DOUBLE") -> bytes:
    file = io.BytesIO()
    soundfile.write(file, samples, RATE, subtype=subtype, format="WAV")
    return file.getvalue()


def tone(seconds: float) -> np.ndarray[Any, Any]:
    return 0.5 * np.sin(2 * np.pi * 1000 * np.arange(int(seconds * RATE)) / RATE)


def request(folder: Path, data: bytes, kind: CaptureKind = CaptureKind.WAV) -> Request:
    file = folder / f"{uuid4()}"
    file.write_bytes(data)
    new = NewCapture.model_validate({"id": uuid4(), "name": "x", "taken_at": "2026-05-01T09:00:00Z"})
    return Request(file=file, kind=kind, new=new, top_volume=40)


def send(client: TestClient, job: Body, data: bytes, name: str = "x.wav") -> Any:
    told = {"id": str(uuid4()), "name": name, "taken_at": "2026-05-01T09:00:00Z"}
    return client.post(f"/api/jobs/{job['id']}/captures", params=told, content=data)


@pytest.mark.parametrize("largest", [1e300, 1e308])
def test_numbers_beyond_all_reason_are_kept_with_a_word(client: TestClient, job: Body, largest: float) -> None:
    data = wav(tone(0.5) * largest)
    answer = send(client, job, data)
    assert answer.status_code == 201
    place = f"/api/jobs/{job['id']}/captures/{answer.json()['id']}"
    assert client.get(f"{place}/file").content == data


@pytest.mark.parametrize("seed", range(4))
def test_noise_of_any_kind_is_judged_or_kept(client: TestClient, job: Body, seed: int) -> None:
    dice = np.random.default_rng(seed)
    samples = (dice.standard_normal, lambda n: dice.choice((-0.9, 0.9), n), dice.standard_cauchy, np.zeros)[seed](4000)
    assert send(client, job, wav(np.clip(samples, -1e6, 1e6))).status_code == 201


def test_a_fault_in_the_arithmetic_is_a_word_about_the_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from upper_rook.desk import judging_child

    def singular(*_: object) -> None:
        raise np.linalg.LinAlgError("Singular matrix")

    monkeypatch.setattr(judging_child, "examine_wave", singular)
    examination = judging_child.reply_to(request(tmp_path, wav(tone(0.1)))).examination
    assert examination is not None
    assert "can’t be analysed (LinAlgError)" in str(examination.unjudged)


def test_a_judge_that_takes_too_long_is_ended_and_the_next_file_judged(tmp_path: Path) -> None:
    judge = Judge(longest_s=0.0)
    try:
        slow = judge.examine(request(tmp_path, wav(tone(1.0))))
        assert slow.unjudged == "The analysis took longer than 0 s."
        judge._longest_s = 60.0
        assert judge.examine(request(tmp_path, wav(tone(1.0)))).channels
        assert judge.waiting == 0
    finally:
        judge.close()


def test_a_file_beyond_the_memory_for_it_is_kept_unjudged(tmp_path: Path) -> None:
    judge = Judge(most_bytes=400_000_000)
    try:
        large = judge.examine(request(tmp_path, wav(tone(400.0), "PCM_16")))
        assert "memory" in str(large.unjudged)
        assert judge.examine(request(tmp_path, wav(tone(0.2)))).channels
    finally:
        judge.close()


def test_a_judge_that_was_killed_is_started_again(judge: Judge, tmp_path: Path) -> None:
    assert judge.examine(request(tmp_path, wav(tone(0.2)))).channels
    judge._child.kill()
    assert judge.examine(request(tmp_path, wav(tone(0.2)))).channels


def test_what_is_no_capture_is_still_refused_with_what_was_expected(judge: Judge, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="WAV file"):
        judge.examine(request(tmp_path, b"RIFF....WAVEnonsense"))


def test_nobody_waits_for_the_database_while_a_file_is_judged(
    client: TestClient, job: Body, a_reading: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Judging holds neither a transaction nor a lock: a save in the middle of it goes through."""
    saved: list[int] = []
    examine = captures.JUDGE.examine

    def in_the_middle(asked: Request) -> Any:
        saved.append(client.post(f"/api/jobs/{job['id']}/readings", json=a_reading()).status_code)
        return examine(asked)

    monkeypatch.setattr(captures.JUDGE, "examine", in_the_middle)
    assert send(client, job, wav(tone(0.2))).status_code == 201
    assert saved == [201]
