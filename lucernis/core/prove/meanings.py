"""What a reading of the proving list says: where it lies in its band, too low, too high, the other way round, open.

Common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

_TURNED = "The other way round. Leads of the meter first, then the wires."


@dataclass(frozen=True, slots=True)
class Meaning:
    """In words, with what to do next. Only `good` may say that all is well."""

    good: str
    low: str
    high: str
    turned: str = _TURNED
    open: str = "Open: probes on bare metal, then each joint on the way, halving it."


BOND = Meaning(
    "No more than with the probes held together: the bond is good.",
    "Less than the probes alone: hold them together again, then the bond.",
    "Resistance in the bond: clean bare metal, serrated washers, tighten, then read again.",
    open="The bond is open: a lug off, paint or rust under it. No fuse goes in before it is closed.",
)
APART = Meaning(
    "Apart: no short before the first fuse goes in.",
    "Joined: something bridges positive and negative, as a device left plugged in, a tool, a crushed wire. No fuse "
    "goes in; unplug half of what hangs there and read again.",
    "Apart.",
)
FROM_BODY = Meaning(
    "Apart from the body.",
    "Joined to the body: a positive rubbed through or screwed down somewhere. No fuse goes in; take off half of the "
    "runs and read again.",
    "Apart from the body.",
)
RETURN = Meaning(
    "Its negative comes home; leads' own ohms taken off.",
    "Less than the wire can have: hold the probes together again and take off what they read.",
    "Resistance on its way home: a loose negative or a bad crimp. Halve the way.",
    open="Its negative does not come home: landed elsewhere, or not at all.",
)
REST = Meaning(
    "Its rest by chemistry, half to full; the right way round.",
    "Below its rest: discharged, a dead cell, or something draws. Charge it, leave it an hour, read again.",
    "Above its rest: something still charges it, or did within the hour. Shore lead out, panels covered, engine off; "
    "read again in an hour.",
    "The wrong way round. Leads of the meter first; if they were right, nothing is connected before the posts are.",
)
SWITCHED_ON = Meaning(
    "Polarity right; volts as before it.",
    "Less than before it: something on the way does not carry. Both sides of the fuse first, then each joint.",
    "More than its battery has at rest: a charger gives. Find which before going on.",
    "The other way round: plus and minus are exchanged, or the meter's leads. Fuse out at once, then this run's wires.",
)
DEAD = Meaning(
    "Dead.",
    "Live the other way round. Find what feeds it before a hand goes in.",
    "Not dead. A charger, panels or a wire past the switch keep it live: find it before a hand goes in.",
    "Live the other way round. Find what feeds it before a hand goes in.",
)
STAYS = Meaning(
    "Stays live: what is meant to, and nothing else.",
    "Not live, or barely: it hangs behind the main switch, or its own fuse is out.",
    "More than its battery has at rest: a charger gives besides.",
)
HELD = Meaning(
    "Live with the main switch off, as it must be said on its plate: never worked on like this.",
    "Lower than such a source holds without a battery, or dead now. It may come back at any time: take its fuse out "
    "too.",
    "More than it may hold: what hangs there can be harmed. Source off, then its settings.",
)
KEY_OFF = Meaning(
    "Dead with the key off.",
    "Live the other way round with the key off: wires exchanged.",
    "Live with the key off: it hangs on the wrong feed, or the relay's contact sticks.",
)
KEY_ON = Meaning(
    "Live with the key on. Does it stay while the engine is cranked?",
    "No volts with the key on: the coil of its relay first, its fuse, then the contact.",
    "More than its battery has at rest: a charger gives.",
)
LOADED = Meaning(
    "Enough is left for it while it runs.",
    "Too little while it runs: read millivolts along its way, the half that loses more first.",
    "More than reckoned: it draws less than its plate, or something charges. Its amperes say which.",
    "The other way round: plus and minus are exchanged at its terminals, or the meter's leads. Off at once.",
)
DRAWN = Meaning(
    "Close to its plate.",
    "Less than its plate: turned down, half of it off, or starved of volts.",
    "More than its plate: the wrong device, a stiff one, or another behind the same fuse.",
)
WIRE_DROP = Meaning(
    "Wire, joints and fuse together lose what they should.",
    "Less than reckoned: is all of it on? Amperes first.",
    "More than reckoned at this current: a joint, fuse or crimp on it. Halve the way; what is warm is near.",
    "Current flows the other way here: something charges or a link is crossed.",
)
FUSE_DROP = Meaning(
    "Fuse and its contacts lose what they should.",
    "Less than reckoned: is all of it on? Amperes first.",
    "More than reckoned: contacts burnt or loose, or a fuse of another rating. Off, cool, clean, tighten.",
    "Current flows the other way here.",
)
CONTACT_DROP = Meaning(
    "Its contact loses what it should.",
    "Less than reckoned: is all of it on? Amperes first.",
    "More than reckoned: the contact burns or does not close fully.",
    "Current flows the other way here.",
    open="It does not close.",
)
SHUNT_DROP = Meaning(
    "The monitor reads this.",
    "Less than what flows: something on the battery's side goes past the shunt.",
    "More than reckoned: its bolts, or more flows than is known.",
    "Current flows the other way: it is charged, or the shunt is turned round.",
)
CHARGED = Meaning(
    "Above its rest: it is charged.",
    "No more than its rest: the charger gives nothing, or its way is open. Volts at its output, then its fuse.",
    "More than its chemistry takes: stop charging. Settings of the charger, then its sense wire.",
)
ALTERNATOR = Meaning(
    "What the alternator holds.",
    "Not charging: belt, its own lead, its field. A computer may hold it low on purpose: rev once and read again.",
    "More than any battery is to have: engine off, regulator first.",
)
GIVEN = Meaning(
    "Its rating, as long as the battery takes it; less near full.",
    "Less than its rating: the battery is near full, it is starved of volts at its input, or turned down.",
    "More than its rating: the wrong scale, or two chargers in one lead.",
)
CLOSED_RELAY = Meaning(
    "Closed: both posts stand near each other.",
    "The far side stands higher: something charges there.",
    "Open, or its contact loses much: it does not join the two.",
    "The far side stands higher: something charges there.",
)
PANEL = Meaning(
    "As its sheet says, for this sky.",
    "Less than this sky gives: shade, a connector, a bypassed third of a panel. Panel by panel.",
    "More than this sky gives: the sky is brighter than said, or strings are joined otherwise than planned.",
    "The other way round: plus and minus are exchanged, or the meter's leads. Never plugged in like this.",
)
STANDING = Meaning(
    "No more than what is left on day and night.",
    "Something charges: shore lead out, panels covered, engine off.",
    "Something draws with everything off: one fuse out after another until it falls.",
    "Something charges: shore lead out, panels covered, engine off.",
)
WARM_JOINT = Meaning(
    "By a thermometer, or a hand near it, not on it: no warmer than its wire.",
    "Colder than the air: the thermometer.",
    "Warmer than its wire: a bad joint. Off, cool, made anew.",
)
BRANCH_DROP = Meaning(
    "This leg loses what it should.",
    "Less than reckoned: does it draw what its plate says? Amperes first.",
    "More than reckoned: a bad joint in this leg. Halve it: block to the middle, middle to the device.",
    "Current flows the other way here: plus and minus are exchanged somewhere.",
)
RELAY_OPENED = Meaning(
    "It has opened: the meter shows how far the two batteries stand apart.",
    "The far side stands higher by more than two batteries at rest do: something charges there.",
    "More than two batteries at rest stand apart: one of them is flat, or something charges.",
    "The far side stands higher: something charges there.",
)
CLOSES_AT = Meaning(
    "It closes once the starter battery is up.",
    "It closes too early: the starter battery is not charged yet, and both are drained while parked.",
    "It closes too late, or never: its sense wire, its earth, its setting.",
)
OPENS_AT = Meaning(
    "It opens before the starter battery is drained.",
    "It holds on too long: both batteries go flat together. Its setting, or its contact sticks.",
    "It opens too early and will chatter: volts are lost on the way to its sense.",
)
CRANKING = Meaning(
    "Enough is left while it cranks.",
    "It falls too far while it cranks: a weak battery, or a joint in the starter's lead. Does a monitor start anew?",
    "Hardly falls: was it cranked while the meter kept the lowest?",
)
STARTING = Meaning(
    "Enough is left for it as it starts; a meter that keeps the lowest volts shows it.",
    "It falls too far as it starts: millivolts along its way while it starts, the half that loses more first.",
    "Hardly falls: did it start while the meter kept the lowest?",
)
