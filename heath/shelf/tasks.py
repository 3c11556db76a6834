"""What the workers do for the shelf: the handlers of its jobs are known to them through this."""

from heath.shelf import adding

__all__ = ["adding"]
