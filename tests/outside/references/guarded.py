"""Which ends of which wires a battery feeds with no fuse on the way, by a search of the graph alone.

Written from the rule and not from the program: a conductor is protected at every end from which stored energy reaches
it (ABYC E-11, ISO 13297; from memory), and a source that limits its own current needs no fuse at its own end. It knows
the plan's parts and runs and nothing of what the program makes of them.
"""

from __future__ import annotations

from lucernis.plan.model import Plan

# What a current passes from one wire to the next, with every contact closed.
PASSES = frozenset({"busbar", "switch", "relay", "fuse_block", "shunt", "keyed_feed", "junction"})
End = tuple[str, str]


def unguarded(plan: Plan) -> frozenset[End]:
    """Runs by tag with the end, "start" or "finish", at which a battery feeds their positive through no fuse."""
    kinds = {one.id: one.kind for one in plan.parts}
    wires = [one for one in plan.runs if one.legs in ("both", "positive")]

    def fed(part: str, without: str) -> bool:
        seen, ahead = {part}, [part]
        while ahead:
            here = ahead.pop()
            if kinds[here] == "battery":
                return True
            if kinds[here] not in PASSES:
                continue
            for one in wires:
                if one.id == without or one.fuse_at_start is not None or one.fuse_at_finish is not None:
                    continue
                for a, b in ((one.start.part, one.finish.part), (one.finish.part, one.start.part)):
                    if a == here and b not in seen:
                        seen.add(b)
                        ahead.append(b)
        return False

    return frozenset(
        (one.tag, name)
        for one in wires
        for name, end, fuse in (("start", one.start, one.fuse_at_start), ("finish", one.finish, one.fuse_at_finish))
        if fuse is None and fed(end.part, one.id)
    )
