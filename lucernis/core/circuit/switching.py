"""What is closed and what is live in an operating state: switches, keyed feeds, relays that follow their coils."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lucernis.core.circuit.giving import Giver, givers
from lucernis.core.circuit.terminals import has_positive, part_id_of, point, positive_point
from lucernis.core.circuit.topology import Topology, is_spare
from lucernis.errors import UnknownRow
from lucernis.plan.model import Part, Plan, State

Contact = tuple[str, str]
SWITCHING = ("switch", "keyed_feed", "relay", "isolator", "diode")


@dataclass(frozen=True, slots=True)
class Switched:
    """One state: contacts that are closed, runs that are open, positive points that hang on a battery, points that
    have volts from any source, and the sources that give with the points they give at.

    What is not `alive` is dead; what is alive and not `live` is held by a charger or panels alone.
    """

    closed: frozenset[Contact]
    open_runs: frozenset[str]
    live: frozenset[str]
    alive: frozenset[str] = frozenset()
    sources: frozenset[tuple[str, tuple[str, ...]]] = frozenset()


def _is_diode_isolator(part: Part) -> bool:
    return part.kind == "isolator" and part.form == "diode"


class SwitchingPlan:
    """The positive side of a plan as a graph of runs and contacts, made ready once and asked for every state.

    A contact is its part and its name: `main` joins the way in and the way out, `b` the second way out of a
    three-position switch; a reversing switch has `main` straight and `b` crossed.
    """

    def __init__(self, plan: Plan) -> None:
        parts = {part.id: part for part in plan.parts}
        self.plan = plan
        self.switches = [part for part in plan.parts if part.kind in SWITCHING]
        self.reversing = {part.id for part in self.switches if part.kind == "switch" and part.form == "reversing"}
        self.diodes = {part.id for part in self.switches if part.kind == "diode" or _is_diode_isolator(part)}
        self.roots = [part.id for part in plan.parts if part.kind == "battery"]
        # For each positive point the runs that touch it, with the point at their other end.
        self.touching: dict[str, list[tuple[str, str]]] = {}
        for run in plan.runs:
            if has_positive(run) and not is_spare(run, parts):
                start = positive_point(parts[run.start.part], run.start, "start")
                finish = positive_point(parts[run.finish.part], run.finish, "finish")
                self.touching.setdefault(start, []).append((run.id, finish))
                self.touching.setdefault(finish, []).append((run.id, start))
        self.contacts: dict[Contact, tuple[str, str]] = {}
        for part in self.switches:
            self.contacts[(part.id, "main")] = (part.id, point(part.id, "out"))
            if part.kind == "switch" and part.form == "three_position":
                self.contacts[(part.id, "b")] = (part.id, point(part.id, "out_b"))
            elif part.kind == "switch" and part.form == "reversing":
                self.contacts[(part.id, "b")] = (part.id, point(part.id, "out"))
        self.all_closed = Switched(
            frozenset(self.contacts), frozenset(), self.reach(frozenset(self.contacts), frozenset())
        )

        # Every contact in its usual position: the second ways of switches are another state of the same contact.
        usual = frozenset(contact for contact in self.contacts if contact[1] == "main")
        self.ordinary = Switched(usual, frozenset(), self.reach(usual, frozenset()))

    def reach(
        self, closed: Iterable[Contact], open_runs: frozenset[str], *, roots: Sequence[str] | None = None
    ) -> frozenset[str]:
        """Positive points joined to a battery, or to other points asked for, through closed contacts and whole runs."""
        across: dict[str, list[str]] = {}
        for contact in closed:
            one, other = self.contacts[contact]
            across.setdefault(one, []).append(other)
            if contact[0] not in self.diodes:
                across.setdefault(other, []).append(one)
        live = set(self.roots if roots is None else roots)
        queue = deque(live)
        while queue:
            here = queue.popleft()
            beyond = [there for run, there in self.touching.get(here, ()) if run not in open_runs]
            for there in beyond + across.get(here, []):
                if there not in live:
                    live.add(there)
                    queue.append(there)
        return frozenset(live)

    def way_between(self, some: Iterable[str], others: Iterable[str], *, through: str) -> tuple[str, ...]:
        """Runs on the shortest positive way from one of some batteries to one of others through a part's contact.

        Empty where the contact does not join them.
        """
        here, there = set(some), set(others)
        usual = [contact for contact in self.ordinary.closed if contact[0] != through]
        first = self._way_to(through, here | there, usual)
        second = self._way_to(point(through, "out"), here | there, usual)
        if first is None or second is None or (first[1] in here) == (second[1] in here):
            return ()
        return (*first[0], *second[0])

    def _way_to(self, start: str, goals: set[str], closed: Iterable[Contact]) -> tuple[tuple[str, ...], str] | None:
        """Runs from a point to the nearest of some points, and which it is."""
        across: dict[str, list[str]] = {}
        for contact in closed:
            one, other = self.contacts[contact]
            across.setdefault(one, []).append(other)
            across.setdefault(other, []).append(one)
        came: dict[str, tuple[str, str]] = {start: ("", "")}
        queue = deque([start])
        while queue:
            here = queue.popleft()
            if here in goals:
                goal, way = here, []
                while here != start:
                    here, run = came[here]
                    way += [run] if run else []
                return tuple(way), goal
            for run, there in [*self.touching.get(here, ()), *(("", one) for one in across.get(here, ()))]:
                if there not in came:
                    came[there] = (here, run)
                    queue.append(there)
        return None

    def in_state(self, state: State) -> Switched:
        """What a state closes. Relays start at rest and pull in as their coils come alive."""
        follows = {"key": state.key_on, "engine": state.engine_on, "shore": state.shore_on}
        position = {mode.part: mode.position for mode in state.modes}
        closed: set[Contact] = set()
        for part in self.switches:
            follower = part.kind == "keyed_feed" and follows[part.follows]
            joins = part.kind == "isolator" and (state.engine_on or (part.two_way and state.shore_on))
            if follower or joins or part.kind == "diode":
                closed.add((part.id, "main"))
            elif part.kind == "switch" and part.id not in state.open:
                at = position.get(part.id, "a")
                if at == "a" or part.form == "single":
                    closed.add((part.id, "main"))
                elif at == "b":
                    closed.add((part.id, "b"))
                    if part.form == "three_position" and part.position_b == "both":
                        closed.add((part.id, "main"))
        open_runs = frozenset(state.open) & {run.id for run in self.plan.runs}
        rising = Rising(self, closed, open_runs)
        waiting = givers(self.plan, state)
        gave: list[Giver] = []
        # What a source wakes may be what another one needs.
        while ready := [one for one in waiting if not one.needs or any(need in rising.live for need in one.needs)]:
            waiting = [one for one in waiting if one not in ready]
            gave += ready
            for one in ready:
                rising.wake(one.points)
        shut = frozenset(rising.closed)
        return Switched(
            shut,
            open_runs,
            self.reach(shut, open_runs),
            frozenset(rising.live),
            frozenset((one.part, one.points) for one in gave),
        )

    def live_from(self, switched: Switched) -> dict[str, tuple[str, ...]]:
        """Each point that is alive in a state with every source that reaches it.

        Parameters
        ----------
        switched : Switched
            A state of this plan.

        Returns
        -------
        dict
            Point to ids of sources in the order of the plan; dead points are left out.
        """
        found: dict[str, list[str]] = {}
        rank = {part.id: at for at, part in enumerate(self.plan.parts)}
        for part, points in sorted(switched.sources, key=lambda one: rank.get(one[0], len(rank))):
            for name in self.reach(switched.closed, switched.open_runs, roots=points):
                found.setdefault(name, []).append(part)
        return {name: tuple(some) for name, some in found.items()}

    def swapped(self, state: State, topology: Topology) -> frozenset[str]:
        """Consumers whose terminals reversing switches have exchanged: behind an odd number of them in position b."""
        turned = {mode.part for mode in state.modes if mode.position == "b"} & self.reversing
        if not turned:
            return frozenset()
        found: set[str] = set()
        for run_id in topology.order:
            if part_id_of(topology.start_of[run_id]) in turned:
                found ^= set(topology.behind[run_id])
        return frozenset(found)

    def cut(self, points: Iterable[str], *, opened: Iterable[Contact] = (), runs: frozenset[str] = frozenset()) -> bool:
        """Whether some of these points lose every battery with contacts opened and runs out, all else closed."""
        live = self.reach(set(self.contacts) - set(opened), runs)
        return any(one not in live for one in points)


class Rising:
    """What is live from the batteries as runs are joined and contacts closed one after another; relays follow their
    coils. Each step looks only at what it wakes.

    Parameters
    ----------
    switching : SwitchingPlan
        The plan's.
    closed : iterable of Contact
        Contacts that are closed at the beginning.
    open_runs : iterable of str
        Runs that are not joined yet: their fuses are out.
    """

    def __init__(self, switching: SwitchingPlan, closed: Iterable[Contact], open_runs: Iterable[str]) -> None:
        self.switching, self.closed, self.open_runs = switching, set(closed), set(open_runs)
        self.live: set[str] = set()
        self._across: dict[str, list[Contact]] = {}
        for contact, ends in switching.contacts.items():
            for end in ends:
                self._across.setdefault(end, []).append(contact)
        self._ends: dict[str, tuple[str, str]] = {}
        for here, some in switching.touching.items():
            for run, there in some:
                self._ends.setdefault(run, (here, there))
        self.wake(switching.roots)

    def wake(self, points: Iterable[str]) -> None:
        """A source gives at some points."""
        for name in points:
            self._wake(name)

    def join(self, run_id: str) -> None:
        """Join a run: the last of its fuses is in."""
        self.open_runs.discard(run_id)
        here, there = self._ends.get(run_id, ("", ""))
        for one, other in ((here, there), (there, here)):
            if one in self.live and other:
                self._wake(other)

    def close(self, contact: Contact) -> None:
        """Close a contact."""
        self.closed.add(contact)
        one, other = self.switching.contacts[contact]
        if one in self.live:
            self._wake(other)
        elif other in self.live and contact[0] not in self.switching.diodes:
            self._wake(one)

    def _wake(self, name: str) -> None:
        queue = deque([name])
        while queue:
            here = queue.popleft()
            if here in self.live:
                continue
            self.live.add(here)
            queue.extend(there for run, there in self.switching.touching.get(here, ()) if run not in self.open_runs)
            relay = here.removesuffix(":coil")
            if relay != here and (relay, "main") in self.switching.contacts:
                self.closed.add((relay, "main"))
                one, other = self.switching.contacts[relay, "main"]
                queue.extend(there for here, there in ((one, other), (other, one)) if here in self.live)
            for contact in self._across.get(here, ()):
                one, other = self.switching.contacts[contact]
                if contact in self.closed and (here == one or contact[0] not in self.switching.diodes):
                    queue.append(other if here == one else one)


def find_state(plan: Plan, state_id: str | None) -> State | None:
    """A state by its id; None for the worst of all.

    Raises
    ------
    UnknownRow
        If there is none of that id.
    """
    if state_id is None:
        return None
    for state in plan.states:
        if state.id == state_id:
            return state
    known = ", ".join(one.id for one in plan.states)
    raise UnknownRow(f"no state {state_id!r}", field="state", value=state_id, allowed=known)
