"""A recording is heard through the interface, judged, and leaves nothing behind."""

import io
import time
import wave

import numpy as np
import pytest

from tests.strange.sound import RATE_HZ, run_up


def wav_of(samples: np.ndarray) -> bytes:
    written = io.BytesIO()
    with wave.open(written, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE_HZ)
        file.writeframes((samples * 32_000).astype("<i2").tobytes())
    return written.getvalue()


def heard(client, data: bytes, aircraft: str = "a-trainer", query: str = "at_s=4&rpm=1800"):
    url = f"/api/aircraft/{aircraft}/hearing?{query}"
    return client.post(url, data=data, headers={"Content-Type": "application/octet-stream"})


def test_a_recorded_run_up_is_heard_and_its_drops_are_judged(client):
    made = run_up(501, 12.0)
    answer = heard(client, wav_of(made.samples))
    assert answer.status_code == 200, answer.json
    page = answer.json
    assert page["told_pct"] > 90
    assert page["why"] is None
    check = next(one for one in page["checks"] if one["title"] == "Magnetos")
    assert "first" in check["because"]
    assert "left" not in check["because"]
    rpm = np.array([np.nan if value is None else value for value in page["rpm"]])
    told = np.isfinite(rpm[: len(made.rpm)])
    assert np.quantile(np.abs(rpm[: len(made.rpm)] - made.rpm)[told], 0.5) < 3


@pytest.mark.parametrize(
    ("data", "aircraft", "query", "status", "says"),
    [
        (b"not a sound", "a-trainer", "at_s=4&rpm=1800", 400, "WAV"),
        (b"not a sound", "a-trainer", "at_s=4&rpm=100", 422, "rpm"),
        (None, "e-rotor", "at_s=4&rpm=1800", 400, "rotor"),
    ],
)
def test_what_cannot_be_heard_is_refused_in_words(client, data, aircraft, query, status, says):
    answer = heard(client, wav_of(np.zeros(RATE_HZ)) if data is None else data, aircraft, query)
    assert answer.status_code == status
    assert says in str(answer.json)


def test_nothing_of_a_sound_is_kept(client, tmp_path):
    mark = np.random.default_rng(502).integers(-20_000, 20_000, 64).astype("<i2")
    data = wav_of(np.concatenate([mark / 32_000, run_up(503, 10.0).samples[: 4 * RATE_HZ]]))
    heard(client, data)
    needle = data[44 : 44 + 64]
    files = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert not [path.name for path in files if needle in path.read_bytes()]


CHUNK = RATE_HZ // 10
BEGIN = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}


def sent(client, samples: np.ndarray, numbers: range):
    """Send chunks of a microphone's sound, and return the last answer."""
    for number in numbers:
        data = (samples[number * CHUNK : (number + 1) * CHUNK] * 32_000).astype("<i2").tobytes()
        url = f"/api/live/ear?rate_hz={RATE_HZ}&number={number}"
        answer = client.post(url, data=data, headers={"Content-Type": "application/octet-stream"})
    return answer


def told(client, kind: str, body: dict):
    event = {"id": f"{kind}-1", "kind": kind, "body": body}
    assert client.post("/api/flights/f1/events", json=event).status_code == 201, event


def at_run_up(client, **begin) -> None:
    assert client.post("/api/flights", json={**BEGIN, **begin}).status_code == 201
    told(client, "phase_entered", {"phase": "run_up"})


def test_a_flight_by_hand_hears_its_engine_and_the_check_is_told(client):
    made = run_up(511, 15.0)
    at_run_up(client)
    assert sent(client, made.samples, range(40)).json["says"].startswith("Cannot hear yet")
    told(client, "needle_read", {"needle": "rpm", "value": 1_800})
    assert sent(client, made.samples, range(40, 60)).json["rpm"] == pytest.approx(1_800, abs=15)
    frame = client.get("/api/live").json["frame"]
    assert frame["ear"]["says"].startswith("Hearing 1,")
    assert frame["rpm"] == pytest.approx(1_800, abs=15), "what is heard counts beside the needles that are read out"
    sent(client, made.samples, range(60, 320))
    end, titles, number = time.monotonic() + 60, set(), 320
    while "Magnetos" not in titles:  # and the engine runs on, while the verdict ripens
        assert time.monotonic() < end, "the two drops are told"
        sent(client, np.tile(made.samples[: 4 * RATE_HZ], 10), range(number, number + 1))
        number += 1
        card = client.get("/api/live").json["frame"]["run_up"]
        titles = {row["title"] for row in card["rows"]} if card else set()


def test_what_a_slow_server_left_waiting_comes_as_one_letter(client):
    """Ten tenths at once are heard as ten tenths; more than a second is refused."""
    made = run_up(515, 15.0)
    at_run_up(client)
    sent(client, made.samples, range(40))
    told(client, "needle_read", {"needle": "rpm", "value": 1_800})
    url, kind = f"/api/live/ear?rate_hz={RATE_HZ}&number=", {"Content-Type": "application/octet-stream"}
    for first in (40, 50):
        part = (made.samples[first * CHUNK : (first + 10) * CHUNK] * 32_000).astype("<i2").tobytes()
        said = client.post(f"{url}{first}", data=part, headers=kind).json
    assert said["rpm"] == pytest.approx(1_800, abs=15)
    assert sent(client, made.samples, range(60, 61)).json["rpm"] is not None, "no gap between them"
    refused = client.post(f"{url}61", data=bytes(2 * (10 * CHUNK + 1)), headers=kind)
    assert refused.status_code == 400


def test_a_rate_whose_tenth_has_half_a_sample_loses_nothing(client):
    """A tenth at 11,025 Hz is 1,102.5 samples: the browser sends 1,103."""
    at_run_up(client)
    url, kind = "/api/live/ear?rate_hz=11025&number=", {"Content-Type": "application/octet-stream"}
    loud = np.full(1_103, 16_000, dtype="<i2").tobytes()
    levels = [client.post(f"{url}{number}", data=loud, headers=kind).json["level_pct"] for number in range(8)]
    quiet = client.post(f"{url}8", data=bytes(len(loud)), headers=kind).json
    assert quiet["level_pct"] < levels[-1], "the newest tenth is heard, and not taken for one that came late"


def test_the_ear_is_closed_and_forgets(client):
    at_run_up(client)
    sent(client, run_up(512, 15.0).samples, range(3))
    frame = client.get("/api/live").json["frame"]
    assert frame["panels"]["ear"]
    assert frame["ear"] is not None
    assert client.delete("/api/live/ear").json == {"forgotten": True}
    assert client.get("/api/live").json["frame"]["ear"] is None
    again = sent(client, run_up(512, 15.0).samples, range(8)).json
    assert again["level_pct"] > 0, "another microphone counts from 0, and is heard at once"
    assert again["says"].startswith("Cannot hear yet")


@pytest.mark.parametrize(
    ("begin", "says"),
    [
        ({"source": "bench"}, "by hand"),
        ({"aircraft": "e-rotor", "registration": "ZZ-DPR"}, "rotor"),
    ],
)
def test_who_has_needles_and_a_rotor_are_not_listened_to(client, begin, says):
    assert client.post("/api/flights", json={**BEGIN, **begin}).status_code == 201
    answer = sent(client, np.zeros(CHUNK), range(1))
    assert answer.status_code == 400
    assert says in answer.json["message"]
    assert client.get("/api/live").json["frame"]["panels"]["ear"] is False, "and nothing on the screen asks for it"


def test_a_speed_above_the_type_s_limit_is_the_needle_s_to_tell(client, profile):
    from jemmon.core.screen.ear import heard_readings

    most = profile.limit("rpm_max")
    assert heard_readings(profile, most, 1) == {"rpm": most}
    assert heard_readings(profile, most + 1, 1) == {}
    assert heard_readings(profile, None, 1) == {}
    assert heard_readings(profile, 1_800.0, 2) == {"e2_rpm": 1_800.0}


def test_nothing_of_a_live_sound_is_kept(client, tmp_path):
    mark = np.random.default_rng(513).integers(-20_000, 20_000, CHUNK)
    at_run_up(client)
    sent(client, np.concatenate([run_up(514, 15.0).samples[: 4 * RATE_HZ], mark / 32_000]), range(41))
    told(client, "needle_read", {"needle": "rpm", "value": 1_800})
    client.get("/api/live")
    needle = mark.astype("<i2").tobytes()[:64]
    files = [path for path in tmp_path.rglob("*") if path.is_file()]
    assert len(files) > 0
    assert not [path.name for path in files if needle in path.read_bytes()]
