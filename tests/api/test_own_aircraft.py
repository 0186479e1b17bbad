"""An aircraft of one's own through the interface: made, written in drafts, saved in versions, signed, locked, shared."""

import copy
import io

import pytest
from PIL import Image

from jemmon.core.aircraft.questions import questions_of
from tests.core.builders import PROFILES

KIND = PROFILES["a-trainer"]


def told(only_needed: bool = False) -> dict[str, dict]:
    return {
        q.id: {"value": q.kind_has, "choice": "us" if q.unit != "l" else "metric"}
        for q in questions_of(KIND)
        if q.needed or not only_needed
    }


def make(client, registration="ZZ-MIN", answers=None):
    body = {"name": "Mine", "registration": registration, "answers": told() if answers is None else answers}
    return client.post("/api/aircraft/a-trainer/own", json=body)


@pytest.fixture
def own(client) -> str:
    answer = make(client)
    assert answer.status_code == 201, answer.json
    return answer.json["aircraft"]["id"]


def edited(client, own: str, change) -> dict:
    body = client.get(f"/api/aircraft/{own}/edit").json["body"]
    change(body)
    return client.put(f"/api/aircraft/{own}/draft", json=body).json


def save(client, own: str, note: str = "Changed"):
    return client.post(f"/api/aircraft/{own}/versions", json={"note": note, "who": "Ana"})


def test_a_new_aircraft_is_among_the_others_and_flies_on_the_simulated_engine_of_its_kind(client, own):
    assert own in [row["id"] for row in client.get("/api/aircraft").json["aircraft"]]
    begun = {"id": "f1", "aircraft": own, "registration": "ZZ-MIN", "pilot": "Ana", "source": "bench"}
    assert client.post("/api/flights", json=begun).status_code == 201
    assert client.get("/api/live").json["frame"]["item"]


def test_an_answer_is_taken_in_the_unit_that_the_handbook_prints(client):
    answers = told()
    answers["limits.oil_t_max_f"] = {"value": 118, "choice": "metric"}
    own = make(client, answers=answers).json["aircraft"]["id"]
    shown = {row["name"]: row["value"] for row in client.get(f"/api/aircraft/{own}").json["limits"]}
    assert shown["oil_t_max_f"] == pytest.approx(244.4)


def test_answers_are_checked_while_they_are_typed(client):
    said = client.post(
        "/api/aircraft/a-trainer/answers",
        json={"answers": {"limits.oil_pressure_max_psi": {"value": 690}, "engine.rated_rpm": {"value": 2600}}},
    ).json
    assert [row["place"] for row in said["wrong"]] == ["limits.oil_pressure_max_psi"]
    assert "Is the unit right?" in said["wrong"][0]["rule"]
    assert "engine.rated_rpm" not in said["needed"]
    assert "briefing.glide_kt" in said["needed"]
    assert "RPM, at most" in said["not_judged"]


@pytest.mark.parametrize(
    ("registration", "answers", "where"),
    [
        ("ZZ-WRN", None, "registration"),  # an aircraft that ships has it
        ("ZZ MIN <b>", None, "registration"),
        ("Z", None, "registration"),
        ("ZZ-MIN", {}, "engine.rated_power_hp"),
        ("ZZ-MIN", {"engine.rated_rpm": {"value": 26000}}, "engine.rated_rpm"),
    ],
)
def test_a_wrong_new_aircraft_is_refused_by_its_field(client, registration, answers, where):
    refused = make(client, registration, answers)
    assert refused.status_code == 400
    assert refused.json["where"] == where


def test_the_same_registration_twice_is_refused(client, own):
    assert make(client).status_code == 400


def test_a_draft_counts_for_nothing_until_it_is_saved_and_comes_back_after_a_reload(client, own):
    def change(body):
        body["limits"]["rpm_max"]["value"] = 2_650

    assert edited(client, own, change) == {"is_draft": True, "wrong": []}
    again = client.get(f"/api/aircraft/{own}/edit").json
    assert again["is_draft"]
    assert again["body"]["limits"]["rpm_max"]["value"] == 2_650
    assert limit(client, own, "rpm_max") == 2_600
    saved = save(client, own, "Engine of the other series").json
    assert [(row["number"], row["note"], row["counts"]) for row in saved["versions"]] == [
        (2, "Engine of the other series", True),
        (1, "Made from Pellamy two-seat trainer", False),
    ]
    assert limit(client, own, "rpm_max") == 2_650
    assert not client.get(f"/api/aircraft/{own}/edit").json["is_draft"]


def limit(client, own: str, name: str) -> float:
    return next(row["value"] for row in client.get(f"/api/aircraft/{own}").json["limits"] if row["name"] == name)


def test_every_fault_of_a_draft_is_told_with_its_place_rule_and_way_out_and_is_not_saved(client, own):
    def change(body):
        body["limits"]["rpm_max"]["value"] = 26_000
        body["phases"][0]["lists"][1]["items"][2]["lever"] = "throtle"
        body["put_backs"][0]["back_by"] = "never"

    wrong = {row["place"]: row for row in edited(client, own, change)["wrong"]}
    assert set(wrong) == {"limits.rpm_max.value", "phases.0.lists.1.items.2", "put_backs.0"}
    assert "did you mean 'throttle'" in wrong["phases.0.lists.1.items.2"]["rule"]
    assert all(row["rule"] and row["way_out"] for row in wrong.values())
    assert save(client, own).status_code == 400
    assert limit(client, own, "rpm_max") == 2_600


def test_a_field_that_is_missing_or_of_another_kind_is_told_by_its_path(client, own):
    def change(body):
        del body["phases"][0]["lists"][0]["items"][0]["response"]
        body["engine"]["cylinders"] = "four"
        body["emergency"][0]["steps"] = []

    places = {row["place"] for row in edited(client, own, change)["wrong"]}
    assert places == {"phases.0.lists.0.items.0.response", "engine.cylinders", "emergency.0.steps"}


def test_a_draft_of_another_id_is_not_saved(client, own):
    edited(client, own, lambda body: body.update(id="a-trainer"))
    refused = save(client, own)
    assert (refused.status_code, refused.json["where"]) == (400, "id")


def test_without_a_draft_there_is_nothing_to_save(client, own):
    assert "Nothing was changed" in save(client, own).json["message"]
    edited(client, own, lambda body: body.update(name="Other"))
    edited(client, own, lambda body: body.update(name="Mine"))  # written back: no draft any more
    assert not client.get(f"/api/aircraft/{own}/edit").json["is_draft"]


def test_two_versions_are_compared_line_by_line_and_an_older_one_counts_again(client, own):
    def change(body):
        body["limits"]["rpm_max"]["value"] = 2_650
        body["phases"][0]["lists"][1]["items"][0]["response"] = "Away, counted"
        del body["emergency"][-1]

    edited(client, own, change)
    save(client, own)
    lines = client.get(f"/api/aircraft/{own}/differences?before=1&after=2").json["lines"]
    places = {row["place"]: (row["before"], row["after"]) for row in lines}
    assert places["Limits, RPM, at most"] == ("{2600.00|rpm}", "{2650.00|rpm}")
    item = KIND.body["phases"][0]["lists"][1]["items"][0]
    assert (
        places[f"Lists, Before start, {KIND.body['phases'][0]['lists'][1]['title']}, {item['challenge']}, response"][1]
        == "Away, counted"
    )
    assert [after for place, (_, after) in places.items() if place.startswith("Emergency")] == [None]
    assert len(lines) == 3
    back = client.post(f"/api/aircraft/{own}/versions/1/back", json={"who": "Ana"}).json
    assert back["versions"][0]["note"] == "Back to version 1"
    assert limit(client, own, "rpm_max") == 2_600
    assert client.get(f"/api/aircraft/{own}/differences?before=1&after=3").json["lines"] == []
    assert client.post(f"/api/aircraft/{own}/versions/9/back", json={"who": "Ana"}).status_code == 404


def test_a_flight_keeps_the_version_that_it_was_flown_with(client, own):
    begun = {"id": "f1", "aircraft": own, "registration": "ZZ-MIN", "pilot": "Ana", "source": "manual"}
    client.post("/api/flights", json=begun)
    edited(client, own, lambda body: body.update(name="Another name"))
    save(client, own)
    assert client.get("/api/flights/f1").json["aircraft"]["name"] == "Mine"
    assert client.get(f"/api/aircraft/{own}").json["aircraft"]["name"] == "Another name"


def test_the_first_change_of_an_aircraft_that_ships_keeps_what_shipped_as_version_one(client):
    body = {"value": 2_550, "source": "type", "reason": "Handbook", "who": "Ana"}
    client.post("/api/aircraft/a-trainer/limits/rpm_max", json=body)
    versions = client.get("/api/aircraft/a-trainer/versions").json["versions"]
    assert [row["note"] for row in versions] == ["RPM, at most: Handbook", "As it ships"]
    assert versions[1]["content_hash"] == KIND.content_hash


def test_a_draft_is_tried_on_the_simulated_engine_before_it_is_saved(client, own):
    edited(client, own, lambda body: body["phases"][0]["lists"][0]["items"][0].update(challenge="Tried at once"))
    begun = {"id": "f1", "aircraft": own, "registration": "ZZ-MIN", "pilot": "Ana", "source": "bench", "draft": True}
    assert client.post("/api/flights", json=begun).status_code == 201
    lists = client.get("/api/live").json["frame"]["lists"]
    assert "Tried at once" in [line["challenge"] for one in lists for line in one["items"]]
    refused = {**begun, "id": "f2", "source": "manual"}
    assert client.post("/api/flights", json=refused).status_code == 409


def test_a_signature_holds_for_its_figure_only_and_changes_no_content(client, own):
    before = client.get(f"/api/aircraft/{own}").json
    assert before["unsigned"] == len(before["limits"])
    signed = client.post(f"/api/aircraft/{own}/signatures", json={"limits": ["rpm_max", "idle_min_rpm"], "who": "Ana"})
    rows = {row["name"]: row["signed_by"] for row in signed.json["limits"]}
    assert (rows["rpm_max"], rows["idle_min_rpm"], rows["idle_max_rpm"]) == ("Ana", "Ana", None)
    assert signed.json["unsigned"] == before["unsigned"] - 2
    assert signed.json["content_hash"] == before["content_hash"]
    edited(client, own, lambda body: body["limits"]["rpm_max"].update(value=2_610))
    save(client, own)
    assert client.get(f"/api/aircraft/{own}").json["unsigned"] == before["unsigned"] - 1
    refused = client.post(f"/api/aircraft/{own}/signatures", json={"limits": ["rpm_most"], "who": "Ana"})
    assert refused.status_code == 400


def test_a_locked_list_is_not_changed_but_unlocked_first_and_a_pilot_adds_on_top(client, own):
    edited(client, own, lambda body: body["phases"][0]["lists"][1].update(locked="The school"))
    assert save(client, own, "Locked").status_code == 200
    edited(client, own, lambda body: body["phases"][0]["lists"][1]["items"].pop())
    refused = save(client, own)
    assert refused.status_code == 400
    assert "locked by The school" in refused.json["message"]
    client.delete(f"/api/aircraft/{own}/draft")
    listed = client.get(f"/api/aircraft/{own}/edit").json["body"]["phases"][0]["lists"][1]
    mine = {"pilot": "Ana", "in_list": listed["id"], "items": [{"challenge": "My cushion", "response": "Under me"}]}
    assert client.put(f"/api/aircraft/{own}/additions", json=mine).status_code == 200
    kept = client.get(f"/api/aircraft/{own}/additions?pilot=Ana").json["lists"]
    behind = {one["id"]: [item["challenge"] for item in one["items"]] for one in kept}
    assert behind.pop(listed["id"]) == ["My cushion"]
    assert not any(behind.values())
    assert next(one["locked"] for one in kept if one["id"] == listed["id"]) == "The school"
    assert "My cushion" in challenges_of(client, own, "Ana")
    assert "My cushion" not in challenges_of(client, own, "Bo")
    edited(client, own, lambda body: body["phases"][0]["lists"][1].pop("locked"))
    assert save(client, own, "Unlocked").status_code == 200


def challenges_of(client, own: str, pilot: str) -> list[str]:
    begun = {"id": f"f-{pilot}", "aircraft": own, "registration": "ZZ-MIN", "pilot": pilot, "source": "manual"}
    assert client.post("/api/flights", json=begun).status_code == 201
    frame = client.get("/api/live").json["frame"]
    end = {"id": f"end-{pilot}", "kind": "flight_ended", "body": {}}
    client.post(f"/api/flights/f-{pilot}/events", json=end)
    return [line["challenge"] for one in frame["lists"] for line in one["items"]]


def test_a_draft_with_the_registration_of_another_aircraft_is_not_saved(client, own):
    edited(client, own, lambda body: body.update(registration="ZZ-WRN"))
    refused = save(client, own)
    assert refused.status_code == 400
    assert "ZZ-WRN is another aircraft here" in refused.json["message"]
    edited(client, own, lambda body: body.update(registration="ZZ-MIO"))
    assert save(client, own).status_code == 200


def test_an_own_item_behind_a_list_that_there_is_not_is_refused(client, own):
    mine = {"pilot": "Ana", "in_list": "nowhere", "items": [{"challenge": "A", "response": "B"}]}
    assert client.put(f"/api/aircraft/{own}/additions", json=mine).status_code == 400


def test_lists_go_out_as_text_and_come_in_again_without_a_difference(client, own):
    text = client.get(f"/api/aircraft/{own}/lists.md").get_data(as_text=True)
    taken = client.post(f"/api/aircraft/{own}/lists", json={"text": text}).json
    assert {line["matched"] for line in taken["lines"]} == {"kept"}
    assert not client.get(f"/api/aircraft/{own}/edit").json["is_draft"]


def picture(size=(3000, 1500), kind="JPEG", **more) -> bytes:
    made = io.BytesIO()
    Image.new("RGB", size, (40, 80, 120)).save(made, kind, **more)
    return made.getvalue()


def put_photo(client, own: str, data: bytes):
    return client.put(f"/api/aircraft/{own}/panel.jpg", data=data, headers={"Content-Type": "application/octet-stream"})


def test_a_photo_is_made_smaller_and_keeps_nothing_of_what_the_camera_wrote(client, own):
    exif = Image.Exif()
    exif[0x010F] = "A maker of cameras"
    exif[0x0112] = 6  # held upright: to be turned by a quarter
    said = put_photo(client, own, picture(exif=exif))
    assert (said.json["width"], said.json["height"]) == (1000, 2000)
    kept = client.get(f"/api/aircraft/{own}/panel.jpg").data
    assert b"A maker of cameras" not in kept
    assert not Image.open(io.BytesIO(kept)).getexif()


@pytest.mark.parametrize("data", [b"no photo", b"", picture()[:900], picture(kind="GIF")])
def test_what_is_no_photo_is_refused(client, own, data):
    assert put_photo(client, own, data).status_code == 400
    assert client.get(f"/api/aircraft/{own}/panel.jpg").status_code == 404


def test_a_photo_of_over_eight_megabytes_is_not_read(client, own):
    assert put_photo(client, own, b"x" * 8_000_001).status_code == 413


def test_spots_are_kept_where_they_were_marked_and_go_with_the_photo(client, own):
    put_photo(client, own, picture())
    controls = client.get(f"/api/aircraft/{own}/panel").json["controls"]
    assert len(controls) > 20
    spots = [{"control": controls[0]["id"], "x": 0.25, "y": 0.75}, {"control": controls[1]["id"], "x": 1.0, "y": 0.0}]
    assert client.put(f"/api/aircraft/{own}/panel/spots", json={"spots": spots}).status_code == 200
    kept = client.get(f"/api/aircraft/{own}/panel").json["spots"]
    assert sorted(kept, key=lambda s: s["x"]) == spots
    outside = {"spots": [{"control": "a", "x": 1.01, "y": 0}]}
    assert client.put(f"/api/aircraft/{own}/panel/spots", json=outside).status_code == 422
    assert client.delete(f"/api/aircraft/{own}/panel").json["spots"] == []


@pytest.mark.parametrize(
    ("x", "y", "found"),
    [
        (0.549, 0.5, True),
        (0.551, 0.5, False),
        (0.5, 0.598, True),
        (0.5, 0.602, False),
    ],  # the photo is twice as wide as high
)
def test_a_touch_finds_a_control_within_a_finger_s_breadth(client, own, x, y, found):
    put_photo(client, own, picture())
    client.put(f"/api/aircraft/{own}/panel/spots", json={"spots": [{"control": "master", "x": 0.5, "y": 0.5}]})
    assert client.get(f"/api/aircraft/{own}/panel/touch?control=master&x={x}&y={y}").json == {"found": found}
    assert client.get(f"/api/aircraft/{own}/panel/touch?control=mixture&x={x}&y={y}").status_code == 404


def test_a_draft_is_written_for_a_profile_of_five_thousand_items(client, own):
    def change(body):
        phase = copy.deepcopy(body["phases"][1])
        first = phase["lists"][0]["items"][0]
        for number in range(5):
            lists = [
                {
                    "id": f"l{number}_{k}",
                    "title": f"List {number} {k}",
                    "items": [{**first, "id": f"i{number}_{k}_{n}"} for n in range(50)],
                }
                for k in range(20)
            ]
            body["phases"].append({**phase, "id": f"p{number}", "begins": phase["begins"], "lists": lists})

    assert edited(client, own, change)["wrong"] == []


def test_a_loading_is_worked_out_or_refused_by_its_station(client):
    page = client.get("/api/aircraft/a-trainer/balance").json
    assert [row["id"] for row in page["balance"]["stations"]] == ["front", "fuel", "bags"]
    inside = client.post(
        "/api/aircraft/a-trainer/balance",
        json={"loads_kg": {"front": 150.0, "fuel": 80.0, "bags": 10.0}, "burned_kg": 50.0},
    ).json
    assert [row["title"] for row in inside["states"]] == ["Take-off", "Landing", "Without fuel"]
    assert all(row["against"] == [] for row in inside["states"])
    refused = client.post("/api/aircraft/a-trainer/balance", json={"loads_kg": {"nose": 1.0}})
    assert (refused.status_code, refused.json["where"]) == (400, "nose")
    assert client.post("/api/aircraft/d-twin/balance", json={"loads_kg": {}}).status_code == 404


def test_the_altitude_of_today_goes_before_the_usual_one(client):
    begun = {"id": "f1", "aircraft": "a-trainer", "registration": "ZZ-WRN", "pilot": "Ana", "source": "manual"}
    client.post("/api/flights", json=begun)

    def tell(value):
        body = {"id": f"c{value}", "kind": "fact", "body": {"name": "cruise_ft", "value": value}}
        return client.post("/api/flights/f1/events", json=body)

    assert tell(5_500.0).status_code in (200, 201)
    assert client.get("/api/live").json["frame"]["facts"]["cruise_ft"] == 5_500.0
    assert tell(60_000.0).status_code == 422
