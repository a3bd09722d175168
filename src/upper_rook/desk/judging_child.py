"""The child that judges files: a request a line in, a reply a line out, until its parent is gone."""

import os
import resource
from collections.abc import Callable
from typing import BinaryIO

from upper_rook.core.common.errors import BadInput
from upper_rook.core.judge.examination import Examination, examine_volume_steps, examine_wave
from upper_rook.core.run.readings.kept_captures import CaptureKind
from upper_rook.desk.child import answer_lines
from upper_rook.desk.judging import Reply, Request
from upper_rook.formats.capture_reader import read_capture
from upper_rook.formats.volume_steps_csv import read_volume_steps


def _wave(file: BinaryIO, request: Request) -> Examination:
    return examine_wave(read_capture(file, request.new.full_scale_v), request.new.expect_hz)


def _volume_steps(file: BinaryIO, request: Request) -> Examination:
    return examine_volume_steps(read_volume_steps(file.read()), request.top_volume)


_EXAMINE: dict[CaptureKind, Callable[[BinaryIO, Request], Examination]] = {
    CaptureKind.CSV: _wave,
    CaptureKind.WAV: _wave,
    CaptureKind.BINARY: _wave,
    CaptureKind.VOLUME_STEPS: _volume_steps,
}


def reply_to(request: Request) -> Reply:
    """Verdict on a file. An error in the arithmetic is a word about the file, never a fault."""
    try:
        with request.file.open("rb") as file:
            return Reply(examination=_EXAMINE[request.kind](file, request))
    except BadInput as error:
        return Reply(refusal=error.sentence, field=error.field)
    except MemoryError:
        return Reply(examination=Examination(unjudged="The analysis needs more memory than it may use."))
    except Exception as error:
        told = f"Its numbers can’t be analysed ({type(error).__name__}): is it a wave?"
        return Reply(examination=Examination(unjudged=told))


def main() -> None:
    """Works until standard input ends."""
    limit = int(os.environ.get("ROOK_JUDGE_BYTES", "0"))
    if limit:
        resource.setrlimit(resource.RLIMIT_DATA, (limit, limit))
    answer_lines(lambda line: reply_to(Request.model_validate_json(line)).model_dump_json())


if __name__ == "__main__":
    main()
