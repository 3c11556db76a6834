"""Planning a piece from its container and the rules that will mark it."""

from juniper.planning.stems import PlannedStem, Pot, StemPlan, plan_stems

__all__ = ["PlannedStem", "Pot", "StemPlan", "plan_stems"]
