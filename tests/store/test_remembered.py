"""What requests side by side remember together."""

from concurrent.futures import ThreadPoolExecutor
from threading import Barrier, Event

import pytest

from upper_rook.desk.remembered import Remembered


def test_requests_side_by_side_make_a_value_once() -> None:
    remembered: Remembered[str, list[int]] = Remembered(4)
    made: list[int] = []
    finish = Event()
    together = Barrier(3, action=finish.set)

    def make() -> list[int]:
        assert finish.wait(5)
        made.append(1)
        return made

    def ask() -> list[int]:
        together.wait(5)
        return remembered.once("job", make)

    with ThreadPoolExecutor(3) as pool:
        answers = list(pool.map(lambda _: ask(), range(3)))
    assert made == [1]
    assert all(answer is made for answer in answers)


def test_a_failure_is_told_and_tried_again() -> None:
    remembered: Remembered[str, int] = Remembered(4)

    def fail() -> int:
        raise LookupError

    with pytest.raises(LookupError):
        remembered.once("job", fail)
    assert remembered.once("job", lambda: 3) == 3


def test_only_the_latest_are_remembered() -> None:
    remembered: Remembered[int, int] = Remembered(2)
    for key in (1, 2, 1, 3):
        remembered.once(key, lambda key=key: key)  # type: ignore[misc]
    assert [remembered.get(key) for key in (1, 2, 3)] == [1, None, 3]
