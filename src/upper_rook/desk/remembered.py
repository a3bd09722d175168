"""The latest few of something that can be worked out again."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from concurrent.futures import Future
from threading import Lock
from typing import Generic, TypeVar

KeyT = TypeVar("KeyT", bound=Hashable)
ValueT = TypeVar("ValueT")


class Remembered(Generic[KeyT, ValueT]):
    """The latest `most` values by their keys; requests ask side by side."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, Lock()
        self._values: OrderedDict[KeyT, Future[ValueT]] = OrderedDict()

    def get(self, key: KeyT) -> ValueT | None:
        """The value of `key` if it is there already."""
        value = self._values.get(key)
        return value.result() if value and value.done() else None

    def keep(self, key: KeyT, value: ValueT) -> ValueT:
        """Remembers `value` as the latest, in place of what `key` had."""
        made: Future[ValueT] = Future()
        made.set_result(value)
        with self._lock:
            self._put(key, made)
        return value

    def once(self, key: KeyT, make: Callable[[], ValueT]) -> ValueT:
        """The value of `key`: one request makes it, the others wait. Raises what `make` raises, and forgets the key."""
        with self._lock:
            known = self._values.get(key)
            value = known or Future[ValueT]()
            self._put(key, value)
        if not known:
            self._make(key, value, make)
        return value.result()

    def _put(self, key: KeyT, value: Future[ValueT]) -> None:
        self._values[key] = value
        self._values.move_to_end(key)
        while len(self._values) > self._most:
            self._values.popitem(last=False)

    def _make(self, key: KeyT, value: Future[ValueT], make: Callable[[], ValueT]) -> None:
        try:
            value.set_result(make())
        except BaseException as error:
            with self._lock:
                if self._values.get(key) is value:
                    del self._values[key]
            value.set_exception(error)
