from django.db import migrations


class Migration(migrations.Migration):
    """The tables of pieces and photographs become those of the app `assessment`."""

    # All that refers to these tables by their old names comes before.
    dependencies = [
        ("bench", "0010_standing_becomes_piece_snapshot"),
        ("briefs", "0011_rule_set_and_shelf_container_named"),
        ("intake", "0008_given_marks"),
        ('returns', '0003_addresses_of_students'),
    ]

    operations = [
        migrations.RenameIndex(
            "piece", old_name="intake_piec_brief_i_6ae31d_idx", new_name="pieces_by_brief_and_state"
        ),
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.AlterModelTable("piece", "assessment_piece"),
                migrations.AlterModelTable("photograph", "assessment_photograph"),
            ]
        ),
    ]
