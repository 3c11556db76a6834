"""Planning a piece from its container and the rules that will mark it."""

from juniper.planning.cautions import NEAR, cautions_for, clashes
from juniper.planning.groups import GroupPlan, PlannedVessel, counts_of_group, plan_group
from juniper.planning.held import Held, Shortage, held_by, shortage
from juniper.planning.holding import Holding, choose_holding, kinds_of_stem
from juniper.planning.moving import moved, within
from juniper.planning.placing import Step, order_of_placing
from juniper.planning.stems import MAIN, ContainerSize, PlannedStem, StemPlan, plan_stems

__all__ = [
    "MAIN",
    "NEAR",
    "ContainerSize",
    "GroupPlan",
    "Held",
    "Holding",
    "PlannedStem",
    "PlannedVessel",
    "Shortage",
    "StemPlan",
    "Step",
    "cautions_for",
    "choose_holding",
    "clashes",
    "counts_of_group",
    "held_by",
    "kinds_of_stem",
    "moved",
    "order_of_placing",
    "plan_group",
    "plan_stems",
    "shortage",
    "within",
]
