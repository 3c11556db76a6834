import os
import tempfile
from pathlib import Path
from unittest import TestCase, mock

from heath.config.given import ROOT, Wrong, read, table

KEY = "k" * 60


class Reading(TestCase):
    def setUp(self):
        held = tempfile.TemporaryDirectory()
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)

    def read(self, text="", credentials=None, **environment):
        """The settings by a file of this text and these variables alone."""
        kept = {k: v for k, v in os.environ.items() if not k.startswith("HEATH_")}
        if text:
            file = self.folder / "settings.toml"
            file.write_text(text)
            environment["HEATH_CONFIG"] = str(file)
        if credentials:
            for name, value in credentials.items():
                (self.folder / name).write_text(value)
            environment["CREDENTIALS_DIRECTORY"] = str(self.folder)
        with mock.patch.dict(os.environ, kept | environment, clear=True):
            return read()

    def wrong(self, *lines, **environment):
        with self.assertRaises(Wrong) as caught:
            self.read("\n".join(lines), **environment)
        return str(caught.exception).splitlines()

    def test_environment_before_file_before_credentials(self):
        text = f'secret_key = "{KEY}"\nhosts = ["a.example.org"]\nport = 81'
        found = self.read(text, HEATH_PORT="82", HEATH_HOSTS="b.example.org, c.example.org")
        self.assertEqual(found.port, 82)
        self.assertEqual(found.hosts, ("b.example.org", "c.example.org"))
        self.assertEqual(self.read(text).hosts, ("a.example.org",))
        found = self.read(credentials={"heath_secret_key": "from-a-file\n"})
        self.assertEqual(found.secret_key, "from-a-file")

    def test_what_is_given_empty_is_not_given(self):
        self.assertFalse(self.read(HEATH_SECRET_KEY=KEY, HEATH_STANDINS="").standins)

    def test_each_fault_is_a_sentence_that_says_what_to_write(self):
        for line, words in (
            ("hostss = 1", "There is no setting hostss. Is hosts meant?"),
            ('port = "8o"', "port (HEATH_PORT) is '8o': write a whole number."),
            ("port = 70000", "port (HEATH_PORT) is 70000: write 65535 or less."),
            ("workers = -1", "workers (HEATH_WORKERS) is -1: write 0 or more."),
            ('https = "perhaps"', "https (HEATH_HTTPS) is 'perhaps': write true or false."),
            ('log = "loud"', "log (HEATH_LOG) is 'loud': write plain or json."),
            ('time_zone = "Moon"', "write a time zone such as Europe/London"),
        ):
            with self.subTest(line):
                self.assertIn(words, "\n".join(self.wrong(f'secret_key = "{KEY}"', line)))

    def test_a_standby_beside_the_database(self):
        text = f'secret_key = "{KEY}"\ndb_host = "a"\ndb_port = 5433\n'
        self.assertEqual(self.read(text).db_hosts, ("a", "5433"))
        two = self.read(text + 'db_standby = "b:5434, c:5435"')
        self.assertEqual(two.db_hosts, ("a,b,c", "5433,5434,5435"))
        self.assertIn("write host:port", self.wrong(text, 'db_standby = "b"')[0])

    def test_all_faults_are_told_at_once(self):
        said = self.wrong("hostss = 1", 'port = "x"', HEATH_PORTT="1")
        self.assertEqual(len(said), 4)  # the missing key as well
        self.assertIn("There is no setting HEATH_PORTT. Is port meant?", said)
        self.assertIn("secret_key (HEATH_SECRET_KEY) is missing", "\n".join(said))

    def test_a_file_that_is_not_there_or_no_toml(self):
        self.assertIn("which is not there", self.wrong(HEATH_CONFIG="/nowhere.toml")[0])
        self.assertIn("cannot be read as TOML", self.wrong("port = [")[0])

    def test_every_setting_stands_in_the_documents(self):
        text = (ROOT / "docs" / "operating.md").read_text()
        within = text.split("<!-- settings -->\n")[1].split("\n<!-- /settings -->")[0]
        self.assertEqual(within, table())  # else: python -m heath.config.given --table
