"""Runs unittest with Django out of reach: an import of it fails."""

import sys
import unittest

from hypothesis import HealthCheck, settings

sys.modules["django"] = None
# A machine that is busy with other things is no fault of a test: how long hypothesis takes to think
# of an input is not judged.
settings.register_profile("calm", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("calm")
unittest.main(module=None, argv=sys.argv)
