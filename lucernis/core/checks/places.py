"""Checks of where things stand: engine spaces, spray and heat that a part is not made for."""

from __future__ import annotations

from lucernis.core.checks import demands
from lucernis.core.checks.bank import stands_vented
from lucernis.core.checks.fixes import fed_end, set_part
from lucernis.core.checks.raising import Raised
from lucernis.core.report import Fix
from lucernis.core.sizing.places import zone_of_places
from lucernis.plan.model import Battery, Charger, FuseBlock, Load, Part, Switch, Zone
from lucernis.practice.tables import load_table


def fit_kind(part: Part) -> str | None:
    """Row of place_fit.csv for a part; None where place hardly matters."""
    if isinstance(part, Battery):
        return part.chemistry
    if isinstance(part, Load):
        return "inverter" if part.device == "inverter" else None
    if isinstance(part, Switch):
        return "isolator_switch" if part.use == "isolator" else "circuit_switch"
    return part.kind if isinstance(part, FuseBlock) else None


def check_places(raised: Raised) -> None:
    """Raise parts and breakers that stand where they are not made for. Chargers say so by a code of their own."""
    zones = zone_of_places(raised.plan)
    # A vented box lets the gas out; in one that is noted as closed it stays.
    gassing: dict[str | None, Battery] = {
        part.place: part
        for part in raised.plan.parts
        if isinstance(part, Battery)
        and load_table("battery_chemistry").find(part.chemistry)["vents_gas"] == "yes"
        and stands_vented(raised.plan, part) is False
    }
    for part in raised.plan.parts:
        kind, zone = fit_kind(part), zones.get(f"place {part.place}")
        if zone is not None and part.kind in _SPARKS:
            _sparks(raised, part, zone, gassing)
        if kind is not None and zone is not None and not isinstance(part, Charger):
            _part(raised, part, kind, zone)
    for run in raised.plan.runs:
        fuse = raised.sized.fuses.get(run.id)
        if fuse is None or fuse.fuse is None or not fuse.fuse.family.startswith("breaker"):
            continue
        end = run.start if fed_end(raised, run) == "start" else run.finish
        zone = zones.get(f"place {raised.sized.topology.parts[end.part].place}")
        row = load_table("place_fit").find(fuse.fuse.family)
        wrong = _wrong(zone, row, None, None) if zone is not None else []
        if wrong:
            raised.on_run(
                "part-place",
                run,
                what=f"{fuse.fuse.label} in {run.tag}: {', '.join(wrong)}, not made for it as is usual",
                mend="A sealed breaker, a fuse in a sealed holder, or another place.",
                asked=demands.fuse_pin(run),
            )


# What opens a contact in use, or gets hot enough.
_SPARKS = ("charger", "switch", "relay", "isolator")


def _sparks(raised: Raised, part: Part, zone: Zone, gassing: dict[str | None, Battery]) -> None:
    """A contact or a charger where petrol, gas or what a battery gives off gathers."""
    battery = gassing.get(part.place)
    if not zone.vapour and battery is None:
        return
    where = zone.name if zone.vapour else f"the closed box of {battery.name}" if battery is not None else ""
    raised.on_part(
        "spark-in-vapour",
        part,
        what=f"{part.name} stands in {where}, where vapour can gather",
        mend="Another place, or one made with ignition protection, by its maker's sheet.",
        asked=f"{part.name} in {where}",
    )


def _wrong(zone: Zone, row: dict[str, str], engine: bool | None, splash: bool | None) -> list[str]:
    made_engine = row["engine_space"] == "yes" if engine is None else engine
    made_wet = row["wet"] == "yes" if splash is None else splash
    wrong = []
    if zone.engine_space and not made_engine:
        wrong.append("in an engine space")
    if zone.wet and not made_wet:
        wrong.append("where it gets wet")
    return wrong


def _part(raised: Raised, part: Part, kind: str, zone: Zone) -> None:
    row = load_table("place_fit").find(kind)
    wrong = _wrong(zone, row, part.engine_space, part.splash)
    named_c = part.hottest_c if isinstance(part, Battery) else None
    hottest_c = named_c if named_c is not None else float(row["hottest_c"]) if row["hottest_c"] else None
    starter = isinstance(part, Battery) and part.use == "starter"
    if named_c is None and not starter and hottest_c is not None and zone.ambient_c > hottest_c:
        wrong.append(f"in {zone.ambient_c:g} °C, usually made for {hottest_c:g} °C")
    if named_c is not None and zone.ambient_c > named_c:
        raised.on_part(
            "battery-hot",
            part,
            what=f"{zone.name} reaches {zone.ambient_c:g} °C; {part.name} is made for {named_c:g} °C",
            mend="Another place, away from engine and sun.",
            asked=f"{part.name} in {zone.name}",
            ambient_c=zone.ambient_c,
            limit_c=named_c,
        )
    if wrong:
        fields = {"engine_space": True} if zone.engine_space else {}
        fields |= {"splash": True} if zone.wet else {}
        fixes: list[Fix] = [set_part(part, "Note that it is made for this place", **fields)] if fields else []
        raised.on_part(
            "part-place",
            part,
            what=f"{part.name} stands {', '.join(wrong)}; a {row['label'].lower()} is not made for that, as is usual",
            mend="A cool dry place, or one that is made for this one.",
            fixes=fixes,
            asked=f"{part.name} in {zone.name}",
        )
