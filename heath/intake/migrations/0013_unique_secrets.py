from django.contrib.postgres.functions import RandomUUID
from django.db import migrations, models
from django.db.models.functions import Cast

import heath.intake.models


class Migration(migrations.Migration):
    # By itself: PostgreSQL alters no table that has changes waiting in the same transaction.
    dependencies = [("intake", "0012_secrets_of_links")]

    operations = [
        migrations.AlterField(
            "studentlink",
            "secret",
            models.CharField(
                db_default=Cast(RandomUUID(), models.CharField()),
                default=heath.intake.models.new_secret,
                max_length=80,
                unique=True,
            ),
        ),
    ]
