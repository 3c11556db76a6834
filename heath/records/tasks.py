"""Background work of the records: what is kept no longer goes once a day."""

from procrastinate.contrib.django import app

from heath.records.retention import let_photographs_go, let_records_go


@app.periodic(cron="41 3 * * *")
@app.task(name="records.let_old_go", queueing_lock="let-old-go")
def let_old_go(timestamp: int):
    """Remove photographs and records whose time is over by their school's settings."""
    let_photographs_go()
    let_records_go()
