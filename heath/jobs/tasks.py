"""Background work: what people have asked for."""

from procrastinate.contrib.django import app

from heath.jobs import printing
from heath.jobs.work import RUN, clear_old, run

__all__ = ["clear", "printing", "run_job"]  # printing: its handler is known to the worker


@app.task(name=RUN)
def run_job(job_id: int):
    """Do one job."""
    run(job_id)


@app.periodic(cron="41 * * * *")
@app.task(name="jobs.clear_old", queueing_lock="jobs-clear-old")
def clear(timestamp: int):
    """Remove, once an hour, what was made more than a day ago."""
    clear_old()
