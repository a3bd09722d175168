"""A whole run through the API, and every way to send it something bad."""

import copy
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import pytest
from starlette.testclient import TestClient

Body = dict[str, Any]
Make = Callable[..., Body]


def states(view: Body) -> dict[str, str]:
    return {state["step"]: state["state"] for state in view["run"]["states"]}


def volume_steps_of(view: Body) -> Body:
    return next(state["volume_steps"] for state in view["run"]["states"] if state["volume_steps"])


def test_from_an_empty_job_to_its_result(client: TestClient, job: Body, a_reading: Make, a_mark: Make) -> None:
    base = f"/api/jobs/{job['id']}"
    view = client.get(f"{base}/run").json()
    for step in view["run"]["steps"]:
        for item in step["items"]:
            answer = client.post(f"{base}/marks", json=a_mark(step["key"], item=item["key"], answer="done"))
            assert answer.status_code == 201
    client.post(f"{base}/readings", json=a_reading(volume=31, volts=3.8))
    client.post(f"{base}/readings", json=a_reading(volume=32, volts=4.1, seen="clipped"))
    client.post(f"{base}/marks", json=a_mark("ceiling.source.line", basis="marked", volume=31))
    for step, volts in (("gain.front", 15.4), ("match.front", 15.3)):
        client.post(f"{base}/readings", json=a_reading(step, 31, volts, seen="unseen"))
    for step in client.get(f"{base}/run").json()["run"]["steps"]:
        for row in (row for row in step["rows"] if row["target"]):
            body = a_reading(step["key"], 31, row["target"]["value"], seen="unseen", quantity=row["quantity"])
            body["circumstances"]["row"] = row["key"]
            kept = client.post(f"{base}/readings", json=body).json()
            assert kept["point"] == row["point"]
            # Beyond what the meter promises nobody knows the doubt.
            assert row["optional"] or kept["uncertainty"] > 0
    view = client.get(f"{base}/run").json()
    assert set(states(view).values()) == {"done"}
    sheet = client.get(f"{base}/result").json()
    assert sheet["complete"]
    assert sheet["top_volumes"][0]["sentence"].startswith("Never pass 31")
    assert [output["voltage_v"] for output in sheet["outputs"]] == [15.4, 15.3]
    summary = next(other for other in client.get("/api/jobs").json()["jobs"] if other["id"] == job["id"])["summary"]
    assert summary["stands"] == "finished"


def test_a_second_look_and_another_tone_through_the_api(
    client: TestClient, job: Body, a_reading: Make, a_mark: Make
) -> None:
    base = f"/api/jobs/{job['id']}"

    def send(step: str, volume: int, volts: float, seen: str, **tone: float) -> Body:
        body = a_reading(step, volume, volts, seen=seen)
        body["circumstances"] |= {"tone": {"frequency_hz": 1000} | tone}
        assert client.post(f"{base}/readings", json=body).status_code == 201
        return client.get(f"{base}/run").json()

    steps_at = "ceiling.source.line"
    for volume, volts, seen in ((30, 3.6, "clean"), (31, 4.0, "clean"), (32, 4.4, "clipped")):
        send(steps_at, volume, volts, seen)
    client.post(f"{base}/marks", json=a_mark(steps_at, basis="marked", volume=31))
    # With a second meter, and nobody looked: the verdict stays, the volts are the newest.
    view = send(steps_at, 31, 4.03, "unseen")
    clean = volume_steps_of(view)["last_clean"]
    assert (states(view)[steps_at], clean["volume"], clean["voltage_v"]) == ("done", 31, 4.03)
    # With a bass tone: asked about, and mixed into nothing.
    view = send(steps_at, 31, 1.2, "clipped", frequency_hz=40)
    assert (states(view)[steps_at], volume_steps_of(view)["last_clean"]) == ("done", clean)
    assert "read with 40 Hz sine" in volume_steps_of(view)["questions"][0]
    # At another level a gain isn't done, at the step's own it is.
    assert states(send("gain.front", 31, 15.4, "unseen", level_dbfs=-5))["gain.front"] == "open"
    assert states(send("gain.front", 31, 15.4, "unseen"))["gain.front"] == "done"


@pytest.mark.parametrize(
    ("said", "told"),
    [
        ((None, "dc_volts"), "say which this is, one of running, rest"),
        (("nowhere", "dc_volts"), "say which this is, one of running, rest"),
        (("running", "ac_volts"), "asks for dc volts here"),
    ],
)
def test_a_reading_of_several_says_which_it_is(
    client: TestClient, job: Body, a_reading: Make, said: tuple[str | None, str], told: str
) -> None:
    row, quantity = said
    body = a_reading("supply", 31, 14.1, quantity=quantity)
    body["circumstances"]["row"] = row
    answer = client.post(f"/api/jobs/{job['id']}/readings", json=body)
    assert answer.status_code == 422
    assert told in answer.json()["detail"]


def test_a_supply_that_was_read_the_wrong_way_round_holds_no_later_reading_up(
    client: TestClient, job: Body, a_reading: Make
) -> None:
    body = a_reading(volume=20, volts=1.5)
    body["circumstances"]["supply_v"] = -14.1
    assert client.post(f"/api/jobs/{job['id']}/readings", json=body).status_code == 201


def test_a_volume_steps_of_before_the_ways_were_told_apart_can_be_gone_on_with(
    client: TestClient, job: Body, a_reading: Make
) -> None:
    base = f"/api/jobs/{job['id']}"
    assert client.post(f"{base}/readings", json=a_reading(volume=30, volts=3.3)).status_code == 201
    sheet = job["sheet"]
    sheet["chain"]["sources"][0]["inputs"] = [{"kind": "disc"}, {"kind": "usb"}]
    client.put(f"{base}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    later = a_reading(volume=31, volts=3.7, sheet_version=2)
    assert client.post(f"{base}/readings", json=later).status_code == 201
    by_usb = client.post(f"{base}/readings", json=a_reading("ceiling.source.line.usb", 29, 3.0, sheet_version=2)).json()
    # The step knows which way it is, though its sender didn't say.
    assert by_usb["circumstances"]["way"] == "usb"


def test_each_path_keeps_its_knobs_on_the_bench(client: TestClient, job: Body) -> None:
    base = f"/api/jobs/{job['id']}"
    layout = next(one for one in client.get("/api/templates").json() if one["key"] == "front-rear")
    sheet = job["sheet"] | {"chain": layout["chain"], "not_confirmed": []}
    client.put(f"{base}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""})
    state = client.get(f"{base}/bench").json()["state"]

    def turned(**knobs: Any) -> Body:
        nonlocal state
        view = client.put(f"{base}/bench", json=state | knobs).json()
        state = view["state"]
        return view

    turned(gain=0.4, dials=[0.5])
    assert turned(path="rear")["state"]["gain"] == 0
    turned(gain=0.7)
    view = turned(path="front")
    assert (view["state"]["gain"], view["state"]["dials"]) == (0.4, [0.5])
    # Half of the way up from 30 to 250 Hz, on a logarithmic scale.
    assert view["dials"][0]["reads_hz"] == pytest.approx((30 * 250) ** 0.5)
    assert turned(path="rear")["state"]["gain"] == 0.7


def test_the_same_reading_sent_twice_is_one(client: TestClient, job: Body, a_reading: Make) -> None:
    body = a_reading()
    for _ in range(2):
        answer = client.post(f"/api/jobs/{job['id']}/readings", json=body)
        assert answer.status_code == 201
    assert len(client.get(f"/api/jobs/{job['id']}/run").json()["readings"]) == 1


def test_a_late_reading_keeps_the_settings_it_was_taken_under(client: TestClient, job: Body, a_reading: Make) -> None:
    base = f"/api/jobs/{job['id']}"
    sheet = job["sheet"]
    sheet["chain"]["sources"][0]["name"] = "Another receiver"
    assert client.put(f"{base}/sheet", json={"base_version": 1, "sheet": sheet}).json()["version"] == 2
    # Taken before the change, sent after it.
    reading = client.post(f"{base}/readings", json=a_reading(sheet_version=1)).json()
    assert reading["sheet_version"] == 1


def test_undo_is_a_strike_with_its_reason(client: TestClient, job: Body, a_reading: Make) -> None:
    base, body = f"/api/jobs/{job['id']}", a_reading()
    client.post(f"{base}/readings", json=body)
    struck = client.post(f"{base}/records/{body['id']}/strike", json={"reason": "undone"}).json()
    assert struck["struck"] == "undone"
    view = client.get(f"{base}/run").json()
    assert [reading["struck"] for reading in view["readings"]] == ["undone"]
    assert volume_steps_of(view)["last_clean"] is None


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"value": 0}, "at least"),
        ({"value": -3}, "at least"),
        ({"value": 5000}, "at most 1000"),
        ({"value": "loud"}, "number"),
        ({"value": None}, "number"),
        ({"value": True}, "number"),
        ({"value": "1"}, "number"),
        ({"seen": "maybe"}, "clean"),
        ({"circumstances": {"volume": 41}}, "outside the scale, which ends at 40"),
        ({"circumstances": {"volume": -1}}, "at least 0"),
        ({"circumstances": {"volume": 2.5}}, "a whole number"),
        ({"instrument": "abacus"}, "abacus"),
        ({"step": "nowhere"}, "no step"),
        ({"step": "safe"}, "has no readings"),
        ({"by": "x" * 81}, "at most 80 characters"),
        ({"by": "a\u0000b"}, "can’t be stored"),
        ({"taken_at": "0001-01-01T00:00:00Z"}, "between 1970 and 2199"),
        ({"taken_at": "2199-12-31T23:59:59-14:00"}, "between 1970 and 2199"),
        ({"taken_at": "9999-12-31T23:59:59-14:00"}, "between 1970 and 2199"),
        ({"taken_at": "2026-05-01T09:00:00"}, "its time zone"),
        ({"sheet_version": 99}, "no version 99"),
        ({"sheet_version": 10**12}, "at most"),
        ({"colour": "red"}, "isn’t known"),
    ],
)
def test_a_bad_reading_gets_a_clear_word(
    client: TestClient, job: Body, a_reading: Make, change: Body, said: str
) -> None:
    answer = client.post(f"/api/jobs/{job['id']}/readings", json=a_reading() | change)
    assert answer.status_code in (404, 422)
    assert answer.headers["content-type"] == "application/problem+json"
    assert said in answer.json()["detail"] + str(answer.json()["errors"])
    assert client.get(f"/api/jobs/{job['id']}/run").json()["readings"] == []


@pytest.mark.parametrize("text", ['{"value": Infinity}', '{"value": NaN}', '{"value": 1e999}', "{", "", "[]"])
def test_what_is_not_json_or_not_finite_is_refused(client: TestClient, job: Body, text: str) -> None:
    answer = client.post(f"/api/jobs/{job['id']}/readings", content=text, headers={"content-type": "application/json"})
    assert answer.status_code == 422


def test_answers_belong_to_lines_that_exist(client: TestClient, job: Body, a_mark: Make) -> None:
    base = f"/api/jobs/{job['id']}"
    answer = client.post(f"{base}/marks", json=a_mark("safe", item="moonroof", answer="done"))
    assert (answer.status_code, answer.json()["field"]) == (422, "item")
    answer = client.post(f"{base}/marks", json=a_mark("ceiling.source.line", basis="guess", volume=30))
    assert "no reading at 30" in answer.json()["detail"]


def test_a_job_that_is_not_there(client: TestClient) -> None:
    answer = client.get(f"/api/jobs/{uuid4()}/run")
    assert (answer.status_code, answer.json()["title"]) == (404, "Not found")


def test_the_meter_is_held_against_the_step_it_is_for(
    client: TestClient, job: Body, a_reading: Make, a_mark: Make
) -> None:
    base = f"/api/jobs/{job['id']}"
    client.post(f"{base}/readings", json=a_reading(volume=31, volts=3.8))
    client.post(f"{base}/marks", json=a_mark("ceiling.source.line", basis="marked", volume=31))
    state = client.get(f"{base}/bench").json()["state"]
    elsewhere = client.get(f"{base}/meter", params={"step": "gain.front"}).json()
    assert elsewhere["elsewhere"]
    assert elsewhere["comparison"] is None
    client.put(f"{base}/bench", json=state | {"probe": "left", "gain": 0.5, "volume": 25})
    update = client.get(f"{base}/meter", params={"step": "gain.front"}).json()
    assert not update["elsewhere"]
    assert update["sample"]["uncertainty_v"] > 0
    assert update["comparison"]["fit"] in ("below", "above", "inside", "unsure")
    silent = client.put(f"{base}/bench", json=state | {"probe": "left", "playing": False})
    assert silent.status_code == 200
    assert client.get(f"{base}/meter", params={"step": "gain.front"}).json()["sample"]["value_v"] == 0


def test_the_bench_refuses_a_volume_off_its_scale(client: TestClient, job: Body) -> None:
    state = client.get(f"/api/jobs/{job['id']}/bench").json()["state"]
    answer = client.put(f"/api/jobs/{job['id']}/bench", json=state | {"volume": 77})
    assert "ends at 40" in answer.json()["detail"]


def test_speakers_on_a_steady_tone_are_warned_about(client: TestClient, job: Body) -> None:
    base = f"/api/jobs/{job['id']}/bench"
    state = client.get(base).json()["state"]
    view = client.put(base, json=state | {"probe": "left", "gain": 0.8, "speakers_on": True}).json()
    assert "voice coil" in view["warning"]


def test_a_preview_plans_without_saving(client: TestClient, job: Body) -> None:
    sheet = copy.deepcopy(job["sheet"])
    sheet["chain"]["loads"][0]["power_w"] = 25
    planned = client.post(f"/api/jobs/{job['id']}/preview", json=sheet).json()
    # 25 W into 4 ohm: 10 V.
    assert planned["paths"][0]["target"]["value"] == pytest.approx(10)
    assert client.get(f"/api/jobs/{job['id']}").json() == job
    sheet["chain"]["loads"][0]["power_w"] = 0
    assert client.post(f"/api/jobs/{job['id']}/preview", json=sheet).status_code == 422


def test_a_setting_is_added_by_its_first_reading(client: TestClient, job: Body, a_reading: Make) -> None:
    base, sheet = f"/api/jobs/{job['id']}", job["sheet"]
    sheet["chain"]["sources"][0]["tone"]["sub_level"] = 0
    assert client.put(f"{base}/sheet", json={"base_version": 1, "sheet": sheet, "by": ""}).status_code == 200

    def send(output: str, **more: Any) -> Any:
        body = a_reading("trims.source", 29, 3.5, seen="unseen", sheet_version=2)
        setting = {"kind": "fader", "shown": "R 3", "output": output}
        body["circumstances"] |= {"row": "own-new-1", "setting": setting, "tone": {"frequency_hz": 50}} | more
        return client.post(f"{base}/readings", json=body)

    kept, again = send("line"), send("line")
    assert (kept.status_code, again.status_code) == (201, 201)
    # The server names the row by what it is, so that two devices mean the same one.
    assert kept.json()["circumstances"]["row"] == again.json()["circumstances"]["row"] != "own-new-1"
    step = next(step for step in client.get(f"{base}/run").json()["run"]["steps"] if step["key"] == "trims.source")
    assert [row["name"] for row in step["rows"] if row["wants"]["setting"]] == ["Fader R 3, Line out, 50 Hz"]
    assert send("nowhere").status_code == send("line", volume=None).status_code == 422
    elsewhere = a_reading("ceiling.source.line", 29, 3.5, sheet_version=2)
    elsewhere["circumstances"]["setting"] = {"kind": "trim", "shown": "+3", "output": "line"}
    assert "compares no settings" in client.post(f"{base}/readings", json=elsewhere).json()["detail"]


def test_readings_come_as_a_table(client: TestClient, job: Body, a_reading: Make) -> None:
    base = f"/api/jobs/{job['id']}"
    client.post(f"{base}/readings", json=a_reading(volume=31, volts=3.8))
    answer = client.get(f"{base}/readings.csv")
    assert answer.headers["content-type"].startswith("text/csv")
    head, row = answer.text.splitlines()
    assert head.startswith("taken at (UTC),step,")
    assert ",Find the source’s clean maximum,,3.8,V RMS," in row
    assert client.get(f"/api/jobs/{uuid4()}/readings.csv").status_code == 404
