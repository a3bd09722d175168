"""Coroutines run in a test."""

import asyncio
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from typing import Any


def run(work: Coroutine[Any, Any, Any]) -> Any:
    """Runs `work` to its end; in a thread of its own, since the browser tests leave a loop running in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, work).result()
