"""Test tones to put on a stick, a disc or a phone."""

from typing import Annotated

from fastapi import APIRouter, Query, Response

from upper_rook.core.common.units import Hertz
from upper_rook.core.signal.tones import Tone, ToneLevel
from upper_rook.formats.wav import tone_file_name, tone_wav
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api/tone.wav", tags=["tones"])


@router.get("", response_class=Response, responses={200: {"content": {"audio/wav": {}}}, **responses()})
def get_tone(
    frequency_hz: Annotated[Hertz, Query()],
    level_dbfs: Annotated[ToneLevel, Query()] = 0.0,
    *,
    swept: Annotated[bool, Query()] = False,
) -> Response:
    """A ten-second stereo sine that loops without a click, or a sweep of a minute."""
    tone = Tone(frequency_hz=frequency_hz, level_dbfs=level_dbfs, swept=swept)
    headers = {"Content-Disposition": f'attachment; filename="{tone_file_name(tone)}"'}
    return Response(tone_wav(tone), media_type="audio/wav", headers=headers)
