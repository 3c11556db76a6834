import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("assessment", "0001_pieces_and_marks_taken_over"),
        ("briefs", "0011_rule_set_and_shelf_container_named"),
    ]

    operations = [
        # The tables referred to are the same ones, under another name.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    "brief",
                    "exemplar",
                    models.ForeignKey(
                        blank=True,
                        editable=False,
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to="assessment.piece",
                    ),
                ),
            ]
        ),
    ]
