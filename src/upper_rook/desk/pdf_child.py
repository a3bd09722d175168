"""The child that draws PDFs: a page a line in, a reply a line out, until its parent is gone; bounded in memory."""

import os
import resource
from base64 import b64encode

from upper_rook.desk.child import answer_lines
from upper_rook.desk.pdf_drawing import PdfReply, PdfRequest
from upper_rook.formats.pdf import pdf

MOST_BYTES = 1_500_000_000
_NICENESS = 10


def reply_to(request: PdfRequest) -> PdfReply:
    """The PDF of a page, or the error, so that the child lives on for the next."""
    try:
        return PdfReply(pdf=b64encode(pdf(request.html)).decode())
    except Exception as error:
        return PdfReply(trouble=f"{type(error).__name__}: {error}")


def main() -> None:
    """Works until standard input ends."""
    # Saves come first.
    os.nice(_NICENESS)
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_BYTES, MOST_BYTES))
    answer_lines(lambda line: reply_to(PdfRequest.model_validate_json(line)).model_dump_json())


if __name__ == "__main__":
    main()
