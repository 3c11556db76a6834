import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("assessment", "0001_pieces_and_marks_taken_over"),
        ("bench", "0012_marks_leave_the_bench"),
        ("briefs", "0012_exemplar_of_assessment"),
        ("intake", "0009_pieces_to_assessment_tables"),
        ("returns", "0004_sheets_of_assessment"),
    ]

    operations = [
        # The tables referred to are the same ones, under another name.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    "arrival",
                    "photograph",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="arrivals",
                        to="assessment.photograph",
                    ),
                ),
                migrations.AlterField(
                    "arrival",
                    "piece",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="arrivals",
                        to="assessment.piece",
                    ),
                ),
                migrations.DeleteModel("Photograph"),
                migrations.DeleteModel("Piece"),
            ]
        ),
    ]
