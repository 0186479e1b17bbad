"""A limit changed on the screen: with its source, a reason and a name; judged by at once; brought back to what ships."""

import pytest

from jemmon.api import create_app
from jemmon.app.settings import Settings
from jemmon.library.shipped import shipped_profiles

TRAINER = shipped_profiles()["a-trainer"]
WHY = {"source": "type", "reason": "Section 2 of the handbook", "who": "Ana Quill"}


def change(client, name: str = "mag_drop_max_rpm", **more):
    return client.post(f"/api/aircraft/a-trainer/limits/{name}", json={**WHY, "value": 140.0, **more})


def line(page: dict, name: str = "mag_drop_max_rpm") -> dict:
    return next(row for row in page["limits"] if row["name"] == name)


def test_a_changed_limit_says_who_why_and_what_ships(client):
    page = change(client).json
    row = line(page)
    assert row["value"] == 140.0
    assert row["source"] == "type"
    assert "Section 2 of the handbook (Ana Quill, " in row["note"]
    assert row["shipped"] == TRAINER.limit("mag_drop_max_rpm")
    assert row["is_changed"]
    assert page["is_changed"]
    assert not line(page, "mag_difference_max_rpm")["is_changed"]
    assert client.get("/api/aircraft/a-trainer").json == page


def test_it_is_judged_by_at_once_and_after_a_restart_and_earlier_flights_keep_theirs(client, app):
    begin = {"aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
    typed = {"check": "mag_check", "base_rpm": 1_800, "left_rpm": 1_670, "right_rpm": 1_690, "restored_rpm": 1_800}
    verdicts = []
    for flight in ("before", "after"):
        client.post("/api/flights", json={"id": flight, **begin})
        url = f"/api/flights/{flight}/events"
        client.post(url, json={"id": f"t-{flight}", "kind": "typed_reading", "body": typed})
        client.post(url, json={"id": f"e-{flight}", "kind": "flight_ended", "body": {}})
        verdicts.append(client.get(f"/api/flights/{flight}").json["findings"][0]["limits"]["drop_max_rpm"])
        change(client, value=110.0)
    assert verdicts == [TRAINER.limit("mag_drop_max_rpm"), 110.0]
    assert client.get("/api/flights/before").json["findings"][0]["limits"]["drop_max_rpm"] == verdicts[0]
    path = app.extensions["hangar"].settings.database
    app.extensions["hangar"].close()
    again = create_app(Settings(database=path))
    assert line(again.test_client().get("/api/aircraft/a-trainer").json)["value"] == 110.0
    again.extensions["hangar"].close()


def test_one_limit_and_the_whole_profile_come_back_to_what_ships(client):
    change(client)
    change(client, "mag_difference_max_rpm", value=60.0)
    back = client.post("/api/aircraft/a-trainer/shipped", json={"limit": "mag_drop_max_rpm"}).json
    assert not line(back)["is_changed"]
    assert line(back, "mag_difference_max_rpm")["is_changed"]
    whole = client.post("/api/aircraft/a-trainer/shipped", json={}).json
    assert not whole["is_changed"]
    assert whole["content_hash"] == TRAINER.content_hash


@pytest.mark.parametrize(
    ("name", "more", "status"),
    [
        ("mag_drop_max_rpm", {"value": 9_999.0}, 400),
        ("mag_drp_max_rpm", {}, 400),
        ("mag_drop_max_rpm", {"reason": " "}, 422),
        ("mag_drop_max_rpm", {"who": ""}, 422),
        ("mag_drop_max_rpm", {"source": "a friend"}, 422),
    ],
)
def test_what_cannot_be_a_limit_is_refused_and_nothing_changes(client, name, more, status):
    answer = change(client, name, **more)
    assert answer.status_code == status
    assert answer.json["message"]
    assert client.get("/api/aircraft/a-trainer").json["content_hash"] == TRAINER.content_hash


def test_an_aircraft_of_ones_own_has_nothing_to_go_back_to(client):
    body = {**TRAINER.body, "id": "my-own", "registration": "ZZ-OWN"}
    assert client.post("/api/aircraft", json=body).status_code == 201
    page = client.get("/api/aircraft/my-own").json
    assert not page["is_changed"]
    assert line(page)["shipped"] is None
    assert client.post("/api/aircraft/my-own/shipped", json={}).status_code == 409
