"""What the workers do for briefs: the handlers of its jobs are known to them through this."""

from heath.briefs import palette, releasing

__all__ = ["palette", "releasing"]
