"""Test signals to be played, or put on a stick, a disc or a phone."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from upper_rook.core.signal.played_signal import PlayedSignal, SignalChoices
from upper_rook.desk import runs
from upper_rook.formats.signal_file import AudioFile, signal_file, signal_file_name
from upper_rook.formats.tone_set import tone_archive
from upper_rook.web import acts
from upper_rook.web.access import Store
from upper_rook.web.problems import responses

router = APIRouter(prefix="/api", tags=["tones"], dependencies=[acts.WORK])
_SET_S = 20.0


@router.get(
    "/jobs/{job_id}/tones.zip",
    response_class=StreamingResponse,
    responses={200: {"content": {"application/zip": {}}}, **responses(404)},
)
def get_tone_set(store: Store, job_id: UUID, file: AudioFile = AudioFile.WAV) -> StreamingResponse:
    """Every tone of the job's run and pink noise, as one numbered set with a list of what each is for."""
    with store() as session:
        tones = runs.tones_of(session, job_id)
    headers = {"Content-Disposition": 'attachment; filename="tones.zip"'}
    return StreamingResponse(tone_archive(tones, _SET_S, file), media_type="application/zip", headers=headers)


class SignalView(BaseModel):
    """A signal that can be played or saved, by its name."""

    label: str


@router.get("/signals", response_model=SignalChoices)
def get_signal_choices() -> SignalChoices:
    """Everything that can be chosen for a test signal."""
    return SignalChoices()


@router.get("/signal", response_model=SignalView, responses=responses())
def get_signal_name(signal: Annotated[PlayedSignal, Query()]) -> SignalView:
    """A signal's name, where there is such a signal."""
    return SignalView(label=signal.label)


_AUDIO: dict[int | str, dict[str, Any]] = {200: {"content": {"audio/wav": {}, "audio/flac": {}}}}


@router.get("/signal.{file}", response_class=Response, responses={**_AUDIO, **responses()})
def get_signal(file: AudioFile, signal: Annotated[PlayedSignal, Query()]) -> Response:
    """A sine, a sweep, noise, level steps or silence as a stereo file with its name as the title."""
    headers = {"Content-Disposition": f'attachment; filename="{signal_file_name(signal, file)}"'}
    return Response(signal_file(signal, file), media_type=f"audio/{file.value}", headers=headers)
