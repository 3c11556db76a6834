"""Planning a piece from its container and the rules that will mark it."""

from juniper.planning.cautions import cautions_for
from juniper.planning.holding import Holding, choose_holding
from juniper.planning.placing import Step, order_of_placing
from juniper.planning.stems import PlannedStem, Pot, StemPlan, plan_stems

__all__ = [
    "Holding",
    "PlannedStem",
    "Pot",
    "StemPlan",
    "Step",
    "cautions_for",
    "choose_holding",
    "order_of_placing",
    "plan_stems",
]
