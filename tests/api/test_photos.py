"""Photos of a job: made fit to keep, kept with it, carried with it, refused in words."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from lucernis.exports.photos import LONGEST_PX, MOST_PX, fit_to_keep
from lucernis.store import photos as store_of_photos

HERE = {"content-type": "image/jpeg"}


def picture(width: int = 64, height: int = 48, kind: str = "JPEG", **more: Any) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), (200, 90, 40)).save(out, kind, **more)
    return out.getvalue()


def with_place_and_turn() -> bytes:
    """A picture that says where it was taken, and that it lies on its side."""
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x010F] = "somebody's camera"
    exif.get_ifd(0x8825)[2] = (52.0, 30.0, 0.0)
    return picture(80, 40, exif=exif)


def keep(client: TestClient, plan: str, body: bytes, subject: str = "c9", note: str = "", kind: str = "channel") -> Any:
    return client.post(
        f"/api/plans/{plan}/photos", params={"subject": subject, "note": note, "kind": kind}, content=body, headers=HERE
    )


def test_a_photo_is_kept_upright_small_and_without_where_it_was_taken() -> None:
    data = with_place_and_turn()
    assert b"somebody" in data
    kept = fit_to_keep(data)
    with Image.open(io.BytesIO(kept)) as found:
        assert (found.width, found.height) == (40, 80)
        assert not found.getexif()
    assert b"somebody" not in kept
    with Image.open(io.BytesIO(fit_to_keep(picture(4000, 1000)))) as found:
        assert (found.width, found.height) == (LONGEST_PX, LONGEST_PX // 4)
    with Image.open(io.BytesIO(fit_to_keep(picture(kind="PNG")))) as found:
        assert found.format == "JPEG"


@pytest.mark.parametrize("body", [b"", b"not a picture", picture()[:200], picture(kind="GIF"), b"<svg/>"])
def test_what_is_no_picture_is_refused_in_words(client: TestClient, heron: str, body: bytes) -> None:
    answer = keep(client, heron, body)
    assert answer.status_code == 422
    assert "not a picture" in answer.json()["detail"]
    assert client.get(f"/api/plans/{heron}/photos").json() == []


def test_a_picture_that_would_unpack_to_too_much_is_refused_by_its_head(client: TestClient, heron: str) -> None:
    side = int(MOST_PX**0.5) + 100
    head = picture(kind="PNG")
    # The head of a PNG tells its size: 8 bytes of mark, 8 of the first chunk, then width and height.
    import zlib

    chunk = b"IHDR" + side.to_bytes(4, "big") * 2 + head[24:29]
    claims = head[:12] + chunk + zlib.crc32(chunk).to_bytes(4, "big") + head[33:]
    answer = keep(client, heron, claims)
    assert answer.status_code == 413
    assert "too many pixels" in answer.json()["detail"]


def test_forty_megabytes_are_refused_at_the_door(client: TestClient, heron: str) -> None:
    answer = keep(client, heron, b"\xff\xd8\xff" + bytes(40_000_000))
    assert answer.status_code == 413


def test_photos_are_listed_shown_taken_away_and_brought_back(client: TestClient, heron: str) -> None:
    first = keep(client, heron, picture(), note="behind the panel").json()
    keep(client, heron, picture(30, 30), subject="galley", kind="place")
    listed = client.get(f"/api/plans/{heron}/photos").json()
    assert [(one["subject"], one["kind"], one["note"]) for one in listed] == [
        ("c9", "channel", "behind the panel"),
        ("galley", "place", ""),
    ]
    address = f"/api/plans/{heron}/photos/{first['photo_id']}"
    assert client.get(address).headers["content-type"] == "image/jpeg"
    assert client.delete(address).status_code == 204
    assert client.get(address).status_code == client.delete(address).status_code == 404
    assert len(client.get(f"/api/plans/{heron}/photos").json()) == 1
    assert client.post(f"{address}/back").status_code == 204
    assert len(client.get(f"/api/plans/{heron}/photos").json()) == 2
    assert keep(client, heron, picture(), subject="nowhere").status_code == 404
    assert keep(client, heron, picture(), subject="c9", kind="place").status_code == 404
    assert keep(client, "0" * 12, picture()).status_code == 404


def test_a_job_has_room_for_so_many(client: TestClient, heron: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(store_of_photos, "MOST_PHOTOS", 1)
    assert keep(client, heron, picture()).status_code == 200
    answer = keep(client, heron, picture())
    assert answer.status_code == 422
    assert "1 in all" in str(answer.json())


def test_photos_travel_with_their_job(client: TestClient, heron: str) -> None:
    made = keep(client, heron, picture(50, 20), note="frame rail").json()
    body = client.get(f"/api/plans/{heron}/job").content
    with zipfile.ZipFile(io.BytesIO(body)) as file:
        assert f"photos/{made['photo_id']}.jpg" in file.namelist()
    other = client.post("/api/jobs", content=body, headers={"content-type": "application/octet-stream"}).json()[
        "plan_id"
    ]
    (found,) = client.get(f"/api/plans/{other}/photos").json()
    assert (found["subject"], found["kind"], found["note"], found["made_at"]) == (
        "c9",
        "channel",
        "frame rail",
        made["made_at"],
    )
    with Image.open(io.BytesIO(client.get(f"/api/plans/{other}/photos/{found['photo_id']}").content)) as shown:
        assert (shown.width, shown.height) == (50, 20)


def test_a_place_and_a_channel_of_one_id_have_their_own_photos(client: TestClient, heron: str) -> None:
    doc = client.get(f"/api/plans/{heron}").json()["plan"]
    place, channel = doc["places"][0]["id"], doc["channels"][0]["id"]
    keep(client, heron, picture(), subject=place, kind="place")
    keep(client, heron, picture(), subject=channel, kind="channel")
    body = client.get(f"/api/plans/{heron}/job").content
    other = client.post("/api/jobs", content=body, headers={"content-type": "application/octet-stream"}).json()
    for plan in (heron, other["plan_id"]):
        listed = client.get(f"/api/plans/{plan}/photos").json()
        assert [(one["kind"], one["subject"]) for one in listed] == [("place", place), ("channel", channel)]


def test_a_photo_from_before_says_no_kind(client: TestClient, heron: str) -> None:
    """A zip packed when photos did not say what they show: they come in and show with anything of their id."""
    keep(client, heron, picture())
    old, new = io.BytesIO(client.get(f"/api/plans/{heron}/job").content), io.BytesIO()
    with zipfile.ZipFile(old) as packed, zipfile.ZipFile(new, "w") as again:
        for name in packed.namelist():
            data = packed.read(name)
            again.writestr(name, data.replace(b'"kind": "channel", ', b"") if name == "photos.ndjson" else data)
    answer = client.post("/api/jobs", content=new.getvalue(), headers={"content-type": "application/octet-stream"})
    (found,) = client.get(f"/api/plans/{answer.json()['plan_id']}/photos").json()
    assert (found["subject"], found["kind"]) == ("c9", "")
