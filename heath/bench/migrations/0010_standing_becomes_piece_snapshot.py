import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bench", "0009_given_marks"), ("intake", "0008_given_marks")]

    operations = [
        migrations.RenameModel("Standing", "PieceSnapshot"),
        migrations.AlterField(
            "piecesnapshot",
            "piece",
            models.OneToOneField(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="snapshot",
                to="intake.piece",
            ),
        ),
    ]
