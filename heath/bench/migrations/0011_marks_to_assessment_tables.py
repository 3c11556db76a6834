from django.db import migrations

MOVED = (
    "answer",
    "cap",
    "correction",
    "mark",
    "markchange",
    "override",
    "piecesnapshot",
    "remark",
)


class Migration(migrations.Migration):
    """The tables of what markers say become those of the app `assessment`."""

    dependencies = [
        ("bench", "0010_standing_becomes_piece_snapshot"),
        ("intake", "0009_pieces_to_assessment_tables"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.AlterModelTable(name, f"assessment_{name}") for name in MOVED
            ]
        ),
    ]
