"""What can hurt, said once and plainly where the work calls for it; never medical advice (handbook section 6, common practice)."""

from __future__ import annotations

from juniper.planning.holding import Holding
from juniper.planning.stems import Pot, StemPlan

DEFER = "Follow your school's and local rules; ask a qualified person where you are not sure."
WORDS = {
    "knives": "Knives and cutters: cut away from the hand, on a slant, and lay them where nobody reaches blindly.",
    "pins": "A pin holder's pins go into hands as well as stems: lift it by its edge.",
    "mesh": "Ends of mesh and wire are sharp: turn them in, and wear gloves while folding.",
    "glass": "Glass breaks under mesh or pebbles that are pressed: ease them in, and lift the vessel from below.",
    "foam": "Foam: wet it before you cut it, breathe none of its dust, and let none of it go down the drain.",
    "tipping": "So tall a piece can tip: put weight low in the vessel, and stand it where nobody brushes past.",
}
TIPS = 2.0  # times the container's larger side: a plant that stands so high over a narrow foot wants weight below


def cautions_for(pot: Pot, plan: StemPlan, holding: Holding, clear: bool = False) -> tuple[str, ...]:
    """The cautions that a plan calls for, each once, and whom to ask."""
    codes = ["knives", *holding.cautions]
    if clear and "mesh" in holding.cautions:
        codes.append("glass")
    if plan.height >= TIPS * pot.width and plan.height >= 30:
        codes.append("tipping")
    return (*(WORDS[code] for code in dict.fromkeys(codes)), DEFER)
