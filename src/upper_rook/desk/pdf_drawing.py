"""
Drawing PDFs in a child process: one at a time, bounded in memory and time, so that no page can hurt who saves.

The child stays: the drawing library takes half a second to load.
"""

import logging
import threading
from base64 import b64decode

from upper_rook.core.common.errors import RookError
from upper_rook.core.common.units import Frozen
from upper_rook.desk.child import Child, Gone, TookTooLong

log = logging.getLogger("upper_rook")
LONGEST_S = 60.0
_USE_HTML = "The PDF can’t be drawn on this machine. Take the HTML file and print it."


class NotDrawn(RookError):
    """A PDF couldn't be drawn."""


class PdfRequest(Frozen):
    """A page to be drawn."""

    html: str


class PdfReply(Frozen):
    """Its PDF in base 64, or why there is none."""

    pdf: str = ""
    trouble: str = ""


class Drawer:
    """The child that draws, and who waits for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._child = Child("upper_rook.desk.pdf_child", {})

    def drawn(self, html: str) -> bytes:
        """A page as PDF. Raises NotDrawn with what to do instead."""
        with self._lock:
            try:
                asked = PdfRequest(html=html).model_dump_json().encode()
                told = PdfReply.model_validate_json(self._child.ask(asked, LONGEST_S))
            except TookTooLong:
                raise NotDrawn("Drawing the PDF took more than a minute. Take the HTML file, or try again.") from None
            except Gone:
                raise NotDrawn(_USE_HTML) from None
        if told.trouble:
            log.warning("A PDF can’t be drawn: %s", told.trouble)
            raise NotDrawn(_USE_HTML)
        return b64decode(told.pdf)

    def close(self) -> None:
        """Ends the child, in the middle of a page too."""
        self._child.kill()
        with self._lock:
            self._child.end()


DRAWER = Drawer()
"""The one of this process."""
