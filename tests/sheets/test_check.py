"""Own timing sheets: what is wrong with one is told with its line, all of it."""

from pivet.errors import InputError
from pivet.person.own_sheets import bring_sheet, copy_text
from pivet.sheets import check
from pivet.sheets.check import checked_sheet, sheet_problems
from pivet.sheets.inside import inside
from pivet.sheets.load import sheet_text, shipped_sheets, use_own
from tests.base import PivetTest

CHANGES = (
    ("min_us = 48", "minus = 48", "'minus'", "write min_us"),
    ("typ_us = 50", "typ_us = 60", "max_us of bit_low is below typ_us", "make it the most"),
    ("min_us = 800", "min_us = 1200", "min_us of ask is above typ_us", "make it the least"),
    ('key = "ask"', 'key = "aks"', "'aks' is no window", "write ask"),
    ('key = "release"', 'key = "ask"', "a second window 'ask'", "remove one"),
    ('driver = "host"', "driver = 3", "driver of the window 'ask'", "host, sensor, both"),
    ("max_us = 55", "max_us = -1", "'-1'", "above 0"),
    ("[[value]]", "[[valu]]", "'valu'", "write value"),
    ('family = "humidity-frame"', 'family = "damp"', "family of the sheet", "humidity-frame"),
    ("range = [0, 100]", "range = [100, 0]", "range of the value", "least, most"),
    ("range = [0, 100]", "range = [0, 100]\npossible = [10, 90]", "possible for humidity", "widen"),
    ('quantity = "humidity"', 'quantity = "temperature"', "values are not those", "humidity"),
    ("first = 0", "first = 7", "first of the value", "0, 1 or 2"),
    ('form = "tenths"', 'form = "sevenths"', "form of the value", "tenths"),
    ('label = "ask, low"\n', "", "the window 'ask' lacks label", "add it"),
    ("common_us = [8, 200]", "common_us = [30, 200]", "common_us of release", "around"),
    ('idle = "high"', 'idle = "up"', "idle of [wiring]", "high, low"),
    ("range = [0, 100]", "range = [0, 50, 100]", "range of the value", "two numbers"),
    ("range = [0, 100]", "range = [0, 100]\npossible = [0, 90]", "possible for humidity", "widen"),
    ("range = [0, 100]", "range = [0, 100]\npossible = [5, 100]", "possible for humidity", "widen"),
    ("typ_us = 1000", "typ_us = [0, 1000]", "typ_us of the window 'ask'", "above 0"),
    ("least_s = 2.0", "least_s = nan", "least_s of [interval]", "from 0 on"),
    ("parts = [", "echo = {}\nparts = [", "[echo] lacks lines", "1 or 2"),
    ('name = "own', 'name "own', "this is no TOML", "mend it there"),
)

NAN = float("nan")
FITS = (
    (check.BYTE, (0, 1, 2), (-1, 3, True, 1.0, "1")),
    (check.NUMBER, (0, -1.5, 10**9), (True, NAN, float("inf"), "1")),
    (check.ABOVE_ZERO, (1, 0.1), (0, -1, "1", NAN)),
    (check.NOT_BELOW, (0, 0.1), (-0.1, "1", True)),
    (check.PAIR, ([1, 1], [0, 2], [-2, -1]), ([2, 1], [1], [1, 2, 3], [1, "2"], (1, 2), 3)),
    (check.LENGTH, (3, [1, 1], [1, 2]), (0, [0, 1], [2, 1], [1], "3")),
    (check.TEXTS, ([], ["a"]), (["a", 1], "a")),
    (check.FLAG, (True, False), (0, 1, "true")),
    (check.TABLES, ([], [{}]), ([{}, 1], {})),
    (check.TOP["id"], ("a", "0.b-c_d", "a" * 40), (3, "", "-a", "A", "a" * 41)),
    (check.TOP["family"], ("humidity-frame",), ("damp", 3)),
    (check.ECHO["lines"], (1, 2), (0, 3, True, 1.0)),
)
"""An entry, what can stand there, and what cannot."""

EDGES = (
    ("min_us = 48", "min_us = 50", True),
    ("max_us = 55", "max_us = 50", True),
    ("min_us = 48", "min_us = 50.1", False),
    ("max_us = 55", "max_us = 49.9", False),
    ("common_us = [8, 200]", "common_us = [20, 200]", True),
    ("common_us = [8, 200]", "common_us = [20.1, 200]", False),
    ("common_us = [8, 200]", "common_us = [0, 200]", False),
    ("common_us = [8, 200]", "common_us = [0.5, 200]", True),
    ("range = [0, 100]", "range = [0, 100]\npossible = [0, 100]", True),
)
"""A limit that is as wide as it must be, and one that is not."""


class Checks(PivetTest):
    """``sheet_problems`` on a copy of each sheet, and on copies with one thing wrong."""

    def test_copies_are_whole(self) -> None:
        """Every sheet of Pivet can be begun with; it then differs in name and id alone."""
        for key, sheet in shipped_sheets().items():
            path = self.folder / f"My {key}.toml"
            path.write_text(copy_text(key, path.stem), encoding="utf-8")
            self.assertEqual([], sheet_problems(path.read_text(encoding="utf-8")), key)
            own = bring_sheet(path)
            self.addCleanup(use_own, ())
            self.assertEqual((f"my-{key}", True), (own.id, own.by_choice))
            for field in ("family", "windows", "values", "echo", "wiring", "interval_s", "parts"):
                self.assertEqual(getattr(sheet, field), getattr(own, field), key)

    def test_each_fault_is_told_with_its_line(self) -> None:
        """And nothing else is told beside it, where nothing follows from it."""
        text = copy_text("dht22", "own")
        for old, new, what, todo in CHANGES:
            broken = text.replace(old, new, 1)
            with self.subTest(new):
                self.assertNotEqual(text, broken)
                problems = sheet_problems(broken)
                told = next(problem for problem in problems if what in problem.says)
                self.assertIn(todo, told.todo)
                lines = broken.splitlines()
                assert told.line is not None
                table = text[: text.index(old)].count("\n") + 1
                self.assertLess(abs(told.line - table), 4, lines[told.line - 1])

    def test_entries(self) -> None:
        """What can stand at a place, up to its ends, and what cannot."""
        for entry, fits, others in FITS:
            with self.subTest(entry.kind):
                self.assertEqual([], [value for value in fits if not entry.is_fit(value)])
                self.assertEqual([], [value for value in others if entry.is_fit(value)])

    def test_limits_that_meet(self) -> None:
        """Limits may be equal to what they enclose, and no more."""
        text = copy_text("dht22", "own")
        for old, new, fit in EDGES:
            with self.subTest(new):
                self.assertIn(old, text)
                self.assertEqual(fit, not sheet_problems(text.replace(old, new, 1)))
        self.assertEqual(
            [False, True, True, True, False], [inside(v, 1, 3) for v in (0, 1, 2, 3, 4)]
        )

    def test_long_values(self) -> None:
        """What stands in the way is told, and not by the page."""
        text = copy_text("dht22", "own").replace("first = 0", f'first = "{"x" * 60}"', 1)
        told = next(one.what for one in sheet_problems(text) if "first" in one.what)
        self.assertTrue(told.endswith(f"is '{'x' * 40}'"), told)

    def test_all_of_them(self) -> None:
        """Three faults are three problems, in the order of the file."""
        text = copy_text("hc-sr04", "own").replace("lines = 2", "lines = 3")
        text = text.replace("nearest_m = ", "nearest_cm = ").replace(
            'label = "trigger', 'lable = "t'
        )
        problems = sheet_problems(text)
        self.assertEqual(5, len(problems))
        self.assertEqual(
            {"lines", "nearest_cm", "lable"},
            {
                word
                for word in ("lines", "nearest_cm", "lable")
                for one in problems
                if word in one.says
            },
        )

    def test_what_belongs_to_a_family(self) -> None:
        """Windows that are missing, an echo without its range, a range turned round."""
        text = copy_text("ping3", "own")
        cut = text[: text.index("[[window]]")] + text[text.index('key = "wait"') - 11 :]
        self.assertIn("the window trigger is missing", sheet_problems(cut)[0].says)
        turned = text.replace("nearest_m = 0.02", "nearest_m = 20")
        self.assertIn("nearest_m is not below", sheet_problems(turned)[0].says)
        frame = copy_text("dht22", "own") + "\n[echo]\nlines = 1\ntimeout_us = 9\n"
        frame += "nearest_m = 1\nfarthest_m = 2\n"
        self.assertIn("has no [echo]", sheet_problems(frame)[0].says)

    def test_not_ours(self) -> None:
        """The id of a sheet of Pivet stays its own."""
        problems = sheet_problems(sheet_text("dht11"))
        self.assertEqual(
            ["line 2: dht11 is a sheet of Pivet: give yours an id of its own."],
            [problem.says for problem in problems],
        )

    def test_the_first_and_how_many_more(self) -> None:
        """One sentence where a sheet is to be used: its first fault, and whether there are more."""
        text = copy_text("dht22", "own")
        for faults, tail in ((1, "least."), (2, "least; pivet sheet check tells 1 more.")):
            broken = text.replace("min_us = 800", "min_us = 1200", 1)
            if faults == 2:
                broken = broken.replace("min_us = 48", "min_us = 51", 1)
            with self.assertRaises(InputError) as caught:
                checked_sheet(broken, "x.toml")
            self.assertTrue(str(caught.exception).endswith(tail), str(caught.exception))
            self.assertIn("x.toml, line ", str(caught.exception))
        self.assertEqual("own", checked_sheet(text, "x.toml").id)

    def test_nested(self) -> None:
        """A file that is nothing but brackets is one sentence."""
        self.assertEqual(1, len(sheet_problems("a = " + "[" * 100_000)))
