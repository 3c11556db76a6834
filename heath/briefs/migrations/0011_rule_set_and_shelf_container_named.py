from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("briefs", "0010_vessel_material_and_rings")]

    operations = [
        migrations.RenameField("brief", "school", "rule_set"),
        migrations.RenameField("brief", "stands", "shelf_container"),
    ]
