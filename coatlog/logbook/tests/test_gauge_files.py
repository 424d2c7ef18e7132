"""Readings out of the files gauges write: layouts of our own making, in two units."""

from __future__ import annotations

from unittest import TestCase

from coatlog.errors import Refused
from coatlog.logbook.gauge_files import GaugeFile, read_gauge_file


def read(text: str, unit: str = "um") -> GaugeFile:
    return read_gauge_file(text.encode(), "film.csv", unit=unit)


class GaugeFileTest(TestCase):
    def test_three_layouts_say_the_same(self) -> None:
        for text in (
            "No,Part,Thickness (\u00b5m)\n1,Gate,120\n2,Gate,130.5\n",
            "Gauge 4,,\nBatch;No;Reading um\nGate;1;120\nGate;2;130,5\n",
            "location\tdft mils\nGate\t4.7244\nGate\t5.1378\n",
            "part,film\n,um\nGate,120\nGate,130.5\n",
        ):
            (group,) = read(text).groups
            self.assertEqual((group.name, [round(x, 1) for x in group.um]), ("Gate", [120.0, 130.5]), text)

    def test_bare_numbers_are_read_as_the_reader_says(self) -> None:
        plain = read("120\n130\n")
        self.assertEqual((plain.unit_said, plain.groups[0].um), (False, (120.0, 130.0)))
        self.assertEqual(read("5\n", "mil").groups[0].um, (127.0,), "25.4 µm a mil")
        self.assertEqual(read("120 µm\n").groups[0].um, (120.0,))
        two = read("part,dft um\nLeft,90\nRight,95\nLeft,92\n").groups
        self.assertEqual([(g.name, g.um) for g in two], [("Left", (90.0, 92.0)), ("Right", (95.0,))])

    def test_what_cannot_be_is_refused_with_its_line(self) -> None:
        for text, said in (
            ("dft um\n120\nhigh\n", "line 3"),
            ("dft um\n120\n99999\n", "line 3"),
            ("", "empty"),
            ("part,dft um\n", "0 readings"),
            ("1\n" * 2001, "2001 readings"),
        ):
            with self.assertRaises(Refused) as refused:
                read(text)
            self.assertIn(said, refused.exception.detail, text[:20])
