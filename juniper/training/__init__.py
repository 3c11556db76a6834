"""How the networks are taught: scenes with known truth, lessons cut from them, the networks, and
their export.

Needs the development extras of bin/teach (a path tracer, a ray caster, a denoiser, torch); the site
needs none of it.
"""
