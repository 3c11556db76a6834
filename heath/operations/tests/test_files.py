"""The stored files as a tree on this machine, from a folder and from a bucket."""

import tempfile
from pathlib import Path

import boto3
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.test import SimpleTestCase, override_settings
from moto import mock_aws

from heath.operations import checks
from heath.operations.files import empty, gathered, names, on_disk, put_back

FILES = {"photographs/a.jpg": b"one", "photographs/b.jpg": b"two", "rasters/c.png": b"three"}


class Files:
    """What holds of a folder and of a bucket alike."""

    def setUp(self):
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)
        own = override_settings(
            DATA=self.folder, MEDIA_ROOT=self.folder / "media", STORAGES=self.storages()
        )
        own.enable()
        self.addCleanup(own.disable)

    def kept(self):
        for name, data in FILES.items():
            default_storage.save(name, ContentFile(data))

    def tree(self, folder):
        return {
            p.relative_to(folder).as_posix(): p.read_bytes()
            for p in folder.rglob("*")
            if p.is_file()
        }

    def test_gathered_and_put_back(self):
        self.assertTrue(empty())
        self.kept()
        self.assertFalse(empty())
        self.assertEqual(set(names()), set(FILES))
        gathered(self.folder / "tree")
        self.assertEqual(self.tree(self.folder / "tree"), FILES)
        for name in FILES:
            default_storage.delete(name)
        if on_disk():  # an empty folder, as after an installation
            for p in sorted((self.folder / "media").rglob("*"), reverse=True):
                p.rmdir()
        put_back(self.folder / "tree")
        for name, data in FILES.items():
            with default_storage.open(name) as file:
                self.assertEqual(file.read(), data)

    def test_what_was_gathered_stays_when_it_is_removed_meanwhile(self):
        self.kept()
        gathered(self.folder / "tree")
        default_storage.delete("photographs/a.jpg")
        default_storage.save("photographs/d.jpg", ContentFile(b"four"))
        gathered(self.folder / "tree")
        self.assertEqual(self.tree(self.folder / "tree"), FILES | {"photographs/d.jpg": b"four"})

    def test_the_doctor_keeps_reads_and_removes_a_file(self):
        self.assertTrue(checks.storage().well)
        self.assertEqual(list(names()), [])


class InAFolder(Files, SimpleTestCase):
    def storages(self):
        return {"default": {"BACKEND": "django.core.files.storage.FileSystemStorage"}}


class InABucket(Files, SimpleTestCase):
    def setUp(self):
        aws = mock_aws()
        aws.start()
        self.addCleanup(aws.stop)
        super().setUp()

    def storages(self):
        boto3.client("s3", "us-east-1", **KEYS).create_bucket(Bucket="heath")
        return bucket("heath")

    def test_only_what_is_new_is_fetched_the_next_time(self):
        self.kept()
        gathered(self.folder / "first")
        mirror = self.folder / "storage-mirror"
        (mirror / "photographs" / "a.jpg").write_bytes(b"as it was fetched")
        default_storage.delete("photographs/b.jpg")
        gathered(self.folder / "second")
        found = self.tree(self.folder / "second")
        self.assertEqual(found["photographs/a.jpg"], b"as it was fetched")
        self.assertNotIn("photographs/b.jpg", found)

    def test_a_bucket_that_is_not_there_is_named(self):
        with override_settings(
            STORAGES=bucket("no-such"), GIVEN=type("Given", (), {"storage": "no-such"})
        ):
            self.assertIn("the bucket no-such", checks.storage().fault)


KEYS = {"aws_access_key_id": "x", "aws_secret_access_key": "x"}


def bucket(name):
    """The storages setting of a bucket, as heath.config.settings has it."""
    options = {
        "bucket_name": name,
        "access_key": "x",
        "secret_key": "x",
        "region_name": "us-east-1",
        "file_overwrite": False,
        "default_acl": None,
    }
    return {"default": {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}}
