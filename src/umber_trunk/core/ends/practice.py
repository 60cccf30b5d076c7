"""Where good builders disagree: both schools of each matter, with their reasons, and which one a project keeps."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class School:
    """One way of doing it: the setting's value, what it says, why."""

    value: str
    says: str
    why: str


@dataclass(frozen=True)
class Matter:
    """One matter, the field of `Practice` that decides it, and its schools, the usual one first."""

    field: str
    name: str
    schools: tuple[School, ...]


MATTERS = (
    Matter("solder", "Solder after the crimp", (
        School("crimp", "crimp only", "Solder wicks and makes a hard spot that cracks where it shakes; heat hurts the insulation."),
        School("flow", "crimp, then flow solder", "Sealed against creep and lower in resistance; the plan adds support past the wick and a heat step."),
    )),
    Matter("instead", "Solder in place of a crimp", (
        School("never", "never", "A joint held by solder alone lets go when it gets hot."),
        School("sleeved", "small currents, sleeved", "Good enough for signals under a sleeve; not offered above the project’s current for it."),
    )),
    Matter("lug_tool", "Large lugs", (
        School("hex", "hydraulic hex", "Repeatable, better on large sizes; its height can be measured."),
        School("indent", "hammer or indent", "Cheap and sure on the bench; its depth can be looked at."),
    )),
    Matter("twist", "Twist strands first", (
        School("clamps", "for clamps, not for crimps", "Straight strands fill a barrel; twisted ones stay together under a screw."),
        School("always", "always", "Keeps every strand in."),
        School("never", "never", "Leaves the strands as they lie."),
    )),
    Matter("wings", "Insulation wings on a thick jacket", (
        School("contact", "the right contact", "Wings that close hold the wire; without them the crimp carries the pull."),
        School("remove", "take the wings off, recorded", "Goes with any contact; a deviation on every paper."),
    )),
    Matter("thin", "A thin wire in a big barrel", (
        School("contact", "the right contact", "A barrel that isn’t full lets go."),
        School("fold", "fold it double, recorded", "Fills the barrel with what is at hand; a deviation on every paper."),
    )),
    Matter("batch", "Order of the work", (
        School("operation", "batch each operation", "One tool at a time: fewer changes, steadier crimps."),
        School("wire", "finish each wire", "Nothing lies about half done."),
    )),
    Matter("looks", "Looks at what was crimped", (
        School("lamp", "a handful under the lamp", "Twenty side by side show the one that is otherwise; the hands aren’t stopped twenty times."),
        School("each", "each by itself", "None is passed over: the record has a look of its own for every crimp."),
    )),
    Matter("drain", "Centre and drain", (
        School("reach", "by reach", "What can’t be got at later goes in first."),
        School("first", "first", "Easiest while nothing is in the way."),
        School("last", "last, by the sheet", "As the sheet has it."),
    )),
    Matter("split", "Join for a split", (
        School("barrel", "crimp barrel", "Holds without heat; solder and shrink may follow."),
        School("solder", "solder and shrink", "Slim; wants support where it shakes."),
    )),
    Matter("sharing", "Two wires in one contact", (
        School("fits", "where both fit", "Only if the areas together fill the barrel and both outsides fit wings and seal."),
        School("never", "never", "Use a splice and bring one wire."),
    )),
    Matter("tinned", "Tinned wire on boats", (
        School("sealed", "preferred, bare with sealed ends", "A sealed end keeps the damp out of bare copper too."),
        School("always", "always", "Damp finds every end in the end."),
    )),
    Matter("ferrules", "Ferrules under clamps", (
        School("fine", "on fine strands", "Fine strands spread and shear under a screw."),
        School("always", "always", "Clean, and can be undone many times."),
        School("never", "bare", "One joint fewer."),
    )),
    Matter("sleeve_end", "End of a sleeve", (
        School("shrink", "shrink over it", "Can’t fray or slide."),
        School("melted", "melted, no shrink seen", "Slim and plain; a little longer to melt back."),
    )),
)  # fmt: skip
"""Every matter of the house practice, in the order of the work."""

WEIGHTS = (
    Matter("least_parts", "What another kind of part costs", (School("1", "usual 1", "Fewer kinds on the shelf; 0 where that is no matter."),)),
    Matter("least_tools", "What another tool or die costs", (School("3", "usual 3", "Fewer tools out and set up; beside the cost of another kind of part."),)),
    Matter("solder_most_a", "Solder in place of a crimp up to, A", (School("5", "usual 5", "Above this current a soldered joint is not offered."),)),
)  # fmt: skip
"""What proposals weigh, as figures."""
