"""The demo's school, its term of work, and the simulated camera's page."""
