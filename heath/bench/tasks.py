"""What the workers do for the bench: the handlers of its jobs are known to them through this."""

from heath.bench import placing

__all__ = ["placing"]
