"""A 24 V vehicle of two 12 V batteries in series: every paper says of a battery what a meter on its posts reads.

Facts of the trade, no source: a full lead battery of six cells stands near 12.7 to 12.9 V at rest, two in series at
twice that; nothing on its plate or in the customer's hand says 25 V of one of them.
"""

from __future__ import annotations

import json
import re
from pathlib import Path

from fastapi.testclient import TestClient

from lucernis.core.build.labels import plates
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Battery
from tests.api.conftest import client
from tests.api.test_proofs_api import pdf_words

__all__ = ["client"]
MINIBUS = json.loads((Path(__file__).parent / "data" / "vans" / "minibus.json").read_text(encoding="utf-8"))


def test_plates_and_the_customers_pack_tell_the_volts_of_one_battery(client: TestClient) -> None:
    plan = parse_plan(MINIBUS)
    batteries = [part for part in plan.parts if isinstance(part, Battery) and part.rated_v == 12]
    assert len(batteries) >= 2
    assert plan.nominal_v == 24
    titles = {one.title: one.lines[0] for one in plates(plan)}
    assert all(titles[one.name].startswith("12 V, ") for one in batteries)
    made = client.post("/api/plans/import", json=MINIBUS).json()["plan_id"]
    pack = " ".join(pdf_words(client.get(f"/api/plans/{made}/handover.pdf").content).split())
    for one in batteries:
        told = re.search(
            re.escape(f"{one.name}: {one.capacity_ah:g} Ah, ") + r"([\d.]+) V full at rest, ([\d.]+) V", pack
        )
        assert told is not None, pack[:2000]
        full_v, low_v = (float(volts) for volts in told.groups())
        assert 12.5 <= full_v <= 13.6
        assert 11.5 <= low_v < full_v
