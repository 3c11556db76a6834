"""Documents of strangers: what is refused before it is parsed, and what is not."""

import json
import time
import tomllib
import unittest

from hypothesis import given
from hypothesis import strategies as st

from juniper.documents import DEEPEST, DIGITS, HostileDocument, read_json, read_toml
from juniper.rules.document import SCHOOLS, FaultyRuleSet, read_rule_set

FAR = 10  # seconds: one pass takes well under one, work that grows by the square minutes


class Refused(unittest.TestCase):
    def test_what_costs_more_than_it_weighs(self):
        # From memory: what is known to cost parsers dearly, each of some 60 kB to 1 MB.
        hostile = {
            "dotted": "a." * 30_000 + "a = 1",
            "dotted table": "[" + "a." * 30_000 + "a]",
            "quoted dotted": '"a".' * 15_000 + "a = 1",
            "literal dotted": "'a'." * 15_000 + "a = 1",
            "spaced dotted": "a . " * 15_000 + "a = 1",
            "arrays": "a = " + "[" * 30_000,
            "tables": "a = " + "{a=" * 20_000,
            "digits": "a = " + "9" * 5_000,
            "digits apart": "a = " + "9_" * 5_000 + "9",
            "after a long string": 'x = """\\""" "\n' + '"""\n' + "a." * 30_000 + "a = 1",
            "large": "#" * 1_000_001,
        }
        for name, text in hostile.items():
            with self.subTest(name):
                began = time.process_time()
                with self.assertRaises(HostileDocument):
                    read_toml(text)
                self.assertLess(time.process_time() - began, FAR)
        for text in ("[" * 100_000, '{"a":' * 50_000, "9" * 5_000, "-" + "9" * 5_000):
            with self.subTest(text[:8]), self.assertRaises(HostileDocument):
                read_json(text)

    def test_unclosed_strings_take_no_longer(self):
        for text in (
            'a = """' + '\\"""' * 100_000,
            "a = '" * 100_000,
            '"' * 300_000,
            'a = "\\' + '\\"' * 200_000,
        ):
            began = time.process_time()
            with self.subTest(text[:12]), self.assertRaises(ValueError):
                read_toml(text)
            self.assertLess(time.process_time() - began, FAR)

    def test_the_line_is_named(self):
        with self.assertRaisesRegex(HostileDocument, "line 3"):
            read_toml("a = 1\nb = 2\nc = " + "[" * 20)

    def test_a_rule_set_of_a_stranger(self):
        with self.assertRaisesRegex(FaultyRuleSet, "nested more than"):
            read_rule_set("a." * 30_000 + "a = 1")


class Taken(unittest.TestCase):
    def test_brackets_and_dots_in_strings_and_comments_count_for_nothing(self):
        text = (
            f"a = \"{'[' * 99}\" # {'{' * 99} {'a.' * 99}\nb = '''{'a.' * 99}\n{'[' * 99}'''\nc"
            ' = """x""""'
        )
        self.assertEqual(read_toml(text), tomllib.loads(text))

    def test_as_deep_and_as_long_as_may_be(self):
        self.assertEqual(
            read_json("[" * DEEPEST + "]" * DEEPEST), json.loads("[" * DEEPEST + "]" * DEEPEST)
        )
        self.assertEqual(read_toml("a = " + "9" * DIGITS), {"a": int("9" * DIGITS)})
        self.assertEqual(len(read_toml("\n".join(f"a{i}.b.c = {i}" for i in range(2000)))), 2000)

    def test_the_schools_that_ship(self):
        for path in SCHOOLS.glob("*.toml"):
            self.assertEqual(read_toml(path.read_text()), tomllib.loads(path.read_text()))

    @given(
        st.recursive(
            st.none() | st.booleans() | st.integers(-(10**20), 10**20) | st.text(),
            lambda x: st.lists(x) | st.dictionaries(st.text(), x),
            max_leaves=20,
        )
    )
    def test_what_json_writes_is_read(self, value):
        text = json.dumps(value)
        try:
            self.assertEqual(read_json(text), value)
        except HostileDocument:
            self.assertGreater(text.count("[") + text.count("{"), DEEPEST)


if __name__ == "__main__":
    unittest.main()
