"""The catalogue of consumers over HTTP."""

from __future__ import annotations

from fastapi.testclient import TestClient

from lucernis.plan.catalogue import HEAD


def test_the_catalogue_over_http(client: TestClient) -> None:
    shipped_names = [one["name"] for one in client.get("/api/consumers").json()]
    assert "Water pump" in shipped_names
    found = client.get("/api/consumers/match", params={"typed": ["water pump", "nothing like it"]}).json()
    assert (found[0][0]["consumer"]["name"], found[0][0]["sure"]) == ("Water pump", True)
    assert not any(one["sure"] for one in found[1])
    own = "name,usual_w,hours\nWater pump,60,0.5\n"
    answer = client.post("/api/consumers/import", content=own, headers={"content-type": "text/csv"})
    assert answer.status_code == 200
    first = client.get("/api/consumers/match", params={"typed": "water pump"}).json()[0][0]
    assert (first["consumer"]["own"], first["values"]["power_w"]) == (True, 60.0)
    assert client.get("/api/consumers/export").text.lstrip("\ufeff").splitlines()[0] == ",".join(HEAD)
    wrong = client.post("/api/consumers/import", content="name,watts\nx,1\n", headers={"content-type": "text/csv"})
    assert wrong.status_code == 422
    # What was there before a refused list is there still.
    assert client.get("/api/consumers").json()[0]["own"]
