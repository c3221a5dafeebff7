"""Situations a meter is held to: what is switched on, by name, so that another hand can make the same again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from lucernis.core.circuit.giving import becomes_dead
from lucernis.core.circuit.switching import Switched
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.demand import consumers_on
from lucernis.errors import UnknownRow
from lucernis.plan.model import Charger, KeyedFeed, Load, Plan, State, Switch


@dataclass(frozen=True, slots=True)
class Situation:
    """A state made for a reading. `to_make` says in words what to do for it; `on` are consumers that draw or give.

    `dead`: every fuse out and the negative off, for a meter on ohms.
    """

    id: str
    name: str
    to_make: str
    state: State
    switched: Switched
    on: frozenset[str]
    swapped: frozenset[str]
    dead: bool = False
    caution: str = ""


def _made(
    plan: Plan, sized: Sized, state: State, id_: str, name: str, to_make: str, *, dead: bool = False, caution: str = ""
) -> Situation:
    switching = sized.switching
    switched = switching.in_state(state)
    on = consumers_on(plan, sized.topology, state, switched, switching.all_closed, sized.demand.supplies)
    return Situation(
        id_, name, to_make, state, switched, frozenset() if dead else on, switching.swapped(state, sized.topology),
        dead, caution,
    )  # fmt: skip


def _template(plan: Plan, sized: Sized, load: str) -> State | None:
    """A state of the plan in which a load is on: the one in which least else is there."""
    some = [state for state in plan.states if load in sized.demand.on[state.id]]
    quiet = sorted(some, key=lambda one: (one.engine_on, one.shore_on, one.sun))
    return quiet[0] if quiet else None


def situations(plan: Plan, sized: Sized) -> list[Situation]:
    """What is worth making, from nothing live to everything at work.

    Parameters
    ----------
    plan : Plan
        Laid out.
    sized : Sized
        Its sizes.

    Returns
    -------
    list of Situation
        Dead; at rest; main switches off; keyed feeds; each load by itself; the plan's own states; engine, shore and
        sun with every load off. Those that a plan has nothing for are left out.
    """
    loads = tuple(part.id for part in plan.parts if isinstance(part, Load))
    switches = tuple(part.id for part in plan.parts if isinstance(part, Switch))
    mains = tuple(part.id for part in plan.parts if isinstance(part, Switch) and part.use == "isolator")
    chargers = [part for part in plan.parts if isinstance(part, Charger)]
    away = becomes_dead(plan)
    also = f"; {away}" if away else ""
    quiet = State(id="rest", name="At rest", key_on=False, off=loads)
    found = [
        _made(plan, sized, quiet.model_copy(update={"open": switches}), "dead", "Nothing live",
              f"Negatives off the batteries, every fuse out, switches off, devices unplugged{also}", dead=True,
              caution="Wait until nothing holds a charge; ohms are never read on a live circuit."),
        _made(plan, sized, quiet, "rest", "At rest", "Fuses in, switches on, key off, every device off"),
    ]  # fmt: skip
    if mains:
        off = quiet.model_copy(update={"open": mains})
        found.append(_made(plan, sized, off, "isolated", "Main switch off", f"Main switch off, fuses in{also}"))
    if any(isinstance(part, KeyedFeed) and part.follows == "key" for part in plan.parts):
        key = quiet.model_copy(update={"key_on": True})
        found.append(_made(plan, sized, key, "key", "Key on", "Key on, engine off, every device off"))
    for load in loads:
        state = _template(plan, sized, load)
        if state is None:
            continue
        bare = {"off": tuple(one for one in loads if one != load), "shore_on": False, "sun": False, "duty": ()}
        # The least that still keeps it on: key and engine off, then the key, then as the state has it.
        tries = ({"key_on": False, "engine_on": False}, {"engine_on": False}, {"shore_on": state.shore_on})
        every = (_made(plan, sized, state.model_copy(update=bare | more), f"load:{load}", "", "") for more in tries)
        made = next((one for one in every if load in one.on), None) or _made(plan, sized, state, f"load:{load}", "", "")
        name, alone = sized.topology.parts[load].name, made.state
        key_words = (
            "key on, " if alone.key_on and not alone.engine_on else "engine running, " if alone.engine_on else ""
        )
        there = sized.topology.parts[load]
        on_ac = [one.name for one in there.ac] if isinstance(there, Load) else []
        with_ac = f" with {', '.join(on_ac)} running on it" if on_ac else ""
        words = f"{name} on{with_ac}, {key_words}every other device off"
        found.append(replace(made, name=f"{name} alone", to_make=words))
    for state in plan.states:
        found.append(_made(plan, sized, state, f"state:{state.id}", state.name, f"As in “{state.name}”: all of it on"))
    if any(part.kind == "alternator" for part in plan.parts):
        running = quiet.model_copy(update={"key_on": True, "engine_on": True})
        found.append(
            _made(plan, sized, running, "engine", "Engine running",
                  "Engine running fast, some 1,500 turns a minute, headlamps on, every other device off",
                  caution="Clear of belts and fan; no exhaust into a closed place.")
        )  # fmt: skip
    if any(one.form == "shore" for one in chargers):
        shore = quiet.model_copy(update={"shore_on": True})
        found.append(
            _made(plan, sized, shore, "shore", "On shore power", "Shore power plugged in, every device off",
                  caution="The mains side is for licensed people.")
        )  # fmt: skip
    if any(part.kind == "panel" for part in plan.parts):
        sun = quiet.model_copy(update={"sun": True})
        found.append(
            _made(plan, sized, sun, "sun", "In the sun", "Panels in the light, every device off",
                  caution="Panels are live as long as there is light.")
        )  # fmt: skip
    return found


def find_situation(some: Sequence[Situation], id_: str) -> Situation:
    """A situation by its id.

    Raises
    ------
    UnknownRow
        If there is none of that id.
    """
    for one in some:
        if one.id == id_:
            return one
    raise UnknownRow(f"no situation {id_!r}", field="situation", value=id_, allowed=", ".join(one.id for one in some))
