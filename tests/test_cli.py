"""The command line as it is run: its contract, its exit codes, one sentence for what can't be used."""

import json
import subprocess
import sys
from pathlib import Path

import jsonschema_rs
import numpy as np
import pytest

from tests.command import run
from tests.core.waves import RATE, clipped, digitised

ROOK = Path(sys.executable).with_name("upper-rook")
FIELDS = {
    "name",
    "verdict",
    "frequency_hz",
    "v_rms",
    "v_peak_positive",
    "v_peak_negative",
    "v_dc",
    "crest_factor",
    "thd_percent",
    "over_db",
    "over_db_uncertainty",
    "clean_v_rms",
    "clean_v_uncertainty",
    "clipped_side",
    "intermodulation_percent",
    "reasons",
    "rate_hz",
    "samples",
    "clean_v_instrument",
    "clean_v_together",
    "noise_v",
    "below_tone_db",
    "harmonics",
    "sweep",
    "spectrum",
    "advice",
}


def started(*words: object) -> subprocess.CompletedProcess[str]:
    """The command as a process of its own, which takes seconds to load."""
    return subprocess.run([ROOK, *map(str, words)], capture_output=True, text=True, timeout=60, check=False)


def export(file: Path, *waves: np.ndarray) -> Path:
    rows = np.column_stack([np.arange(waves[0].size) / RATE, *waves])
    head = ",".join(("Time (s)", *(f"CH{n + 1} (V)" for n in range(len(waves)))))
    np.savetxt(file, rows, fmt="%.6f", delimiter=",", header=head, comments="")
    return file


def test_analyse_keeps_its_contract(tmp_path: Path) -> None:
    file = export(tmp_path / "two.csv", digitised(clipped(1.0)[0]), digitised(clipped(-1.0)[0], seed=1))
    done = started("analyse", file, "--json", "--expect-hz", "1k")
    assert (done.returncode, done.stderr) == (0, "")
    told = json.loads(done.stdout)
    assert told["file"] == str(file)
    assert [set(channel) for channel in told["channels"]] == [FIELDS, FIELDS]
    published = json.loads(run("schema", "analysis").stdout)
    assert set(published["$defs"]["AnalysedChannel"]["properties"]) == FIELDS
    assert told["contract"] == 1
    assert told["channels"][0]["clean_v_uncertainty"] > 0
    both = run("analyse", file, file, "--json", "--expect-hz", "1k")
    assert [json.loads(line) for line in both.stdout.splitlines()] == [told, told]
    first, second = told["channels"]
    assert (first["name"], first["verdict"], first["clipped_side"]) == ("CH1", "clipped", "both")
    assert (second["name"], second["verdict"], second["over_db"], second["clean_v_rms"]) == ("CH2", "clean", None, None)
    plain = run("analyse", file)
    assert plain.returncode == 0
    assert "CH1: clipped" in plain.stdout
    assert all(
        line in plain.stdout for channel in told["channels"] for line in (*channel["reasons"], *channel["advice"])
    )


def test_volume_steps_keeps_its_contract(tmp_path: Path) -> None:
    file = tmp_path / "volume-steps.csv"
    file.write_text("volume,voltage_v\n" + "".join(f"{n},{1.12**n / 10:.3f}\n" for n in range(12, 26)), "utf-8")
    done = run("volume-steps", file, "--json")
    assert (done.returncode, done.stderr) == (0, "")
    told = json.loads(done.stdout)
    figures = {"clean_volume", "surely_volume", "perhaps_volume", "clean_v_rms", "uncertainty_db"}
    assert set(told) == {"verdict", "reasons", "odd", *figures}
    assert (told["verdict"], told["clean_volume"]) == ("not_reached", None)
    assert "Go on to 26 and 27" in run("volume-steps", file).stdout


EXAMPLES = sorted((Path(__file__).parents[1] / "examples").glob("*.json"))


@pytest.mark.parametrize("file", EXAMPLES, ids=lambda file: file.stem)
def test_plan_tells_every_path_as_text_and_as_json(file: Path) -> None:
    done = run("plan", file, "--json")
    assert (done.returncode, done.stderr) == (0, "")
    told = json.loads(done.stdout)
    names = [path["name"] for path in json.loads(file.read_text("utf-8"))["chain"]["paths"]]
    assert [path["name"] for path in told["paths"]] == names
    plain = run("plan", file).stdout
    for one in told["paths"]:
        assert f"\n{one['name']}: " in plain
        assert all(line in plain for line in (*one["target"]["because"], one["knob"]["sentence"]))
        assert all(finding["title"] in plain for finding in one["findings"])
    assert all(corner["name"] in plain for corner in told["crossovers"]["corners"])


def test_plan_of_a_half_filled_file_says_what_it_lacks(tmp_path: Path) -> None:
    (five,) = (file for file in EXAMPLES if file.stem == "five-channel-amplifier")
    document = json.loads(five.read_text("utf-8"))
    document["chain"]["loads"][0]["power_w"] = None
    file = tmp_path / "half.json"
    file.write_text(json.dumps(document), "utf-8")
    done = run("plan", file)
    assert done.returncode == 0
    assert "Front: not planned yet. The speakers’ rated power isn’t known" in done.stdout
    assert "\nRear: " in done.stdout
    document["format"] = 9
    file.write_text(json.dumps(document), "utf-8")
    newer = run("plan", file)
    assert newer.returncode == 2
    assert "has format 9; this Upper Rook reads format 4" in newer.stderr


def test_schema_is_a_json_schema() -> None:
    assert json.loads(run("schema").stdout)["$id"] == "upper-rook-job-4"
    assert json.loads(run("schema", "plan").stdout)["$id"] == "upper-rook-plan-1"
    assert json.loads(run("schema", "archive").stdout)["$id"] == "upper-rook-archive-1"
    assert json.loads(run("schema", "part").stdout)["$id"] == "upper-rook-part-1"


@pytest.mark.parametrize("paper", ["sheet", "card"])
def test_the_papers_as_json_fit_their_schemas(paper: str, tmp_path: Path) -> None:
    schema = json.loads(run("schema", paper).stdout)
    out = tmp_path / "out.json"
    job = Path(__file__).parents[1] / "examples/active-eight-way.json"
    done = run("sheet", job, out, *(["--card"] if paper == "card" else []))
    assert done.returncode == 0, done.stderr
    assert not list(jsonschema_rs.Draft202012Validator(schema).iter_errors(json.loads(out.read_text("utf-8"))))


SOURCES = sorted((Path(__file__).parents[1] / "examples/sources").glob("*.source.json"))


@pytest.mark.parametrize("file", SOURCES, ids=lambda file: file.stem)
def test_a_source_is_told_as_text_and_as_json_and_fits_its_schema(file: Path) -> None:
    schema = json.loads(run("schema", "source").stdout)
    assert schema["$id"] == "upper-rook-source-1"
    assert not list(jsonschema_rs.Draft202012Validator(schema).iter_errors(json.loads(file.read_text("utf-8"))))
    told = json.loads(run("source", file, "--json").stdout)
    plain = run("source", file).stdout
    assert f"Governing number: {told['governing']['words']}" in plain
    assert all(
        line in plain for line in (*told["advice"], *(combination["because"] for combination in told["combinations"]))
    )
    refused = run("source", file, "--unit", "none")
    assert (refused.returncode, "has no unit “none”" in refused.stderr) == (2, True)


def test_a_sweep_is_named_by_analyse(tmp_path: Path) -> None:
    import soundfile

    from tests.core.test_sweep import sweep

    file = tmp_path / "sweep.wav"
    soundfile.write(file, 0.5 * sweep(6.0), 48_000, subtype="PCM_24")
    (channel,) = json.loads(run("analyse", file, "--json").stdout)["channels"]
    assert channel["verdict"] == "not_a_tone"
    assert channel["reasons"][0] == "A sweep."
    # Ranges, bands and advice are there as the text says them.
    assert (channel["sweep"]["verdict"], channel["sweep"]["clipped"]) == ("clean", [])
    assert len(channel["sweep"]["points"]) > 50
    plain = run("analyse", file).stdout
    assert all(line in plain for line in (*channel["sweep"]["reasons"], *channel["advice"]))


@pytest.mark.parametrize("command", ["analyse", "volume-steps", "plan"])
@pytest.mark.parametrize("content", [None, b"", b"\0\1\2" * 100, b"no numbers here\n", b"Time,V\n0,1\n1,NaN\n"])
def test_what_cannot_be_used_is_one_sentence_and_exit_2(tmp_path: Path, command: str, content: bytes | None) -> None:
    file = tmp_path / "what.csv"
    if content is not None:
        file.write_bytes(content)
    for more in ((), ("--json",)):
        done = run(command, file, *more)
        assert (done.returncode, done.stdout) == (2, "")
        assert done.stderr.count("\n") == 1
        assert done.stderr.startswith("upper-rook: ")


def test_a_tone_that_is_no_number(tmp_path: Path) -> None:
    done = started("analyse", export(tmp_path / "one.csv", clipped(1.0)[0]), "--expect-hz", "loud")
    assert done.returncode == 2
    assert "“loud” isn’t a number" in done.stderr


def test_nothing_in_a_file_steers_the_terminal(tmp_path: Path) -> None:
    steering = "\x1b[2J\x9b31m\u202e"
    file = tmp_path / f"a{steering}.csv"
    seconds = np.arange(2000) / 100_000
    volts = np.sin(2 * np.pi * 1000 * seconds)
    rows = "\n".join(f"{at:.6f},{value:.6f}" for at, value in zip(seconds, volts, strict=True))
    file.write_text(f"Time(s),CH1{steering}(V)\n{rows}\n", "utf-8")
    for words in (
        ("analyse", file),
        ("analyse", file, "--json"),
        ("plan", file),
        ("analyse", tmp_path / f"no{steering}"),
    ):
        ended = run(*words)
        told = ended.stdout + ended.stderr
        assert told.strip()
        assert not {text for text in told if text in steering and text in "\x1b\x9b\u202e"}, words
    # Everything that is printed goes through one place.
    modules = (Path(__file__).parents[1] / "src/upper_rook/cli").glob("*.py")
    assert [module.name for module in modules if "typer.echo(" in module.read_text("utf-8")] == ["told.py"]


def test_a_jobs_tones_as_flac_have_titles_and_track_numbers(tmp_path: Path) -> None:
    import soundfile

    job = Path(__file__).parents[1] / "examples/strapped-sub.json"
    assert run("tones", tmp_path / "set", "--job", job, "--flac").returncode == 0
    files = sorted((tmp_path / "set").glob("*.flac"))
    assert [file.name[:2] for file in files] == [f"{number:02}" for number in range(1, len(files) + 1)]
    with soundfile.SoundFile(files[0]) as first:
        assert (first.tracknumber, first.album, first.samplerate) == ("1", "Test tones", 48_000)
        assert first.title.startswith("01 ")
        assert first.title.endswith("dBFS")
