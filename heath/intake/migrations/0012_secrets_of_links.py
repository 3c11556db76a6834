from django.contrib.postgres.functions import RandomUUID
from django.core import signing
from django.db import migrations, models
from django.db.models.functions import Cast

import heath.intake.models


def kept(apps, schema_editor):
    """Links that are printed already keep the address that they were printed with."""
    signer = signing.Signer(salt="student-link")
    for link in apps.get_model("intake", "StudentLink").objects.only("pk").iterator():
        link.secret = signer.sign(link.pk)
        link.save(update_fields=["secret"])


class Migration(migrations.Migration):
    dependencies = [("intake", "0011_views")]

    operations = [
        migrations.AddField(
            "studentlink",
            "secret",
            models.CharField(
                db_default=Cast(RandomUUID(), models.CharField()),
                default=heath.intake.models.new_secret,
                max_length=80,
            ),
        ),
        migrations.RunPython(kept, migrations.RunPython.noop),
    ]
