import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("assessment", "0001_pieces_and_marks_taken_over"),
        ('returns', '0003_addresses_of_students'),
    ]

    operations = [
        # The tables referred to are the same ones, under another name.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    "returnsheet",
                    "piece",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="sheets",
                        to="assessment.piece",
                    ),
                ),
            ]
        ),
    ]
