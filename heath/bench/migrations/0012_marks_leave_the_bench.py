import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("assessment", "0001_pieces_and_marks_taken_over"),
        ("bench", "0011_marks_to_assessment_tables"),
    ]

    operations = [
        # The tables referred to are the same ones, under another name.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    "presence",
                    "piece",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="presences",
                        to="assessment.piece",
                    ),
                ),
                migrations.DeleteModel("Answer"),
                migrations.DeleteModel("Cap"),
                migrations.DeleteModel("Correction"),
                migrations.DeleteModel("Mark"),
                migrations.DeleteModel("MarkChange"),
                migrations.DeleteModel("Override"),
                migrations.DeleteModel("PieceSnapshot"),
                migrations.DeleteModel("Remark"),
            ]
        ),
    ]
