"""Background work of intake."""

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from heath.intake.adding import see_photograph
from heath.intake.models import Photograph


@app.task(name="intake.measure_photograph", retry=RetryStrategy(max_attempts=3, wait=2))
def measure_photograph(photograph_id: int):
    """Measure one photograph; one that was removed meanwhile is no fault."""
    photograph = Photograph.objects.filter(pk=photograph_id).first()
    if photograph is not None:
        see_photograph(photograph)
