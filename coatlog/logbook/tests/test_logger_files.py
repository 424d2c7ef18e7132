"""Loggers' files as a shop gets them: invented readings, the manners of writing are common practice."""

from __future__ import annotations

import datetime as dt
import unittest

from coatlog.errors import Refused
from coatlog.logbook.weather_files import read_weather
from coatlog.logbook.weather_rows import HourRow, Manner, WeatherFile

WINTER = Manner(lay="history", hours_from_utc=1)


def read(text: str, manner: Manner = WINTER) -> WeatherFile:
    return read_weather(text.encode(), "logger.csv", year=2026, manner=manner)


def at(text: str) -> int:
    return int(dt.datetime.fromisoformat(text).timestamp())


class LoggerFileTest(unittest.TestCase):
    def test_every_manner_of_writing_comes_to_the_same_reading(self) -> None:
        want = HourRow(at=at("2026-03-14T08:10:00+00:00"), air_degc=18.5, rh_frac=0.61, surface_degc=17.9)
        for name, text in {
            "semicolons, comma decimals, day and hour apart, lines before": (
                "Logger 7\nStart;14.03.2026\n\nDatum;Zeit;Temperatur [°C];Feuchte [% rF];Oberfläche [°C]\n"
                "14.03.2026;09:10:00;18,5;61,0;17,9\n"
            ),
            "twelve hours, the month first": (
                "Date Time,Temp (°C),RH (%),Surface (°C)\n03/14/2026 9:10 AM,18.5,61,17.9\n"
            ),
            "tabs, a number before, a dew point beside": (
                "#\tTimestamp\tCelsius(°C)\tHumidity(%rh)\tDew Point(°C)\tSteel °C\n"
                "1\t2026-03-14 09:10:00\t18.5\t61.0\t10.9\t17.9\n"
            ),
            "fahrenheit": ("time,air °F,rel. humidity %,surface °F\n2026-03-14 09:10,65.3,61,64.22\n"),
            "a zone of its own": ("time,temperature,rh,surface\n2026-03-14T08:10:00Z,18.5,0.61,17.9\n"),
        }.items():
            with self.subTest(name):
                (row,) = read(text).rows
                self.assertEqual(row, want)

    def test_ten_minutes_apart_a_clock_set_back_and_a_gap(self) -> None:
        lines = ["time;temp °C;rh %"]
        lines += [f"2026-03-14 {9 + m // 60:02}:{m % 60:02};18,{m % 10};60" for m in range(0, 120, 10)]
        lines += [lines[-1], "2026-03-14 16:50;17;62"]
        told = read("\n".join(lines))
        self.assertEqual((told.format, len(told.rows)), ("logger", 13))
        self.assertIn("a reading every 10 min", told.notes[0])
        self.assertEqual(told.notes[1:], ("1 gaps, the longest 6 h; left empty.",))

    def test_what_cannot_be_known_is_asked_and_what_cannot_be_is_refused(self) -> None:
        head = "date,temp °C,rh %\n"
        for text, says in {
            head + "03/04/2026 09:00,18,60\n": "may be day and month or month and day",
            head + "2026-03-04 09:00,18,160\n": "line 2, column rh %: '160' stands there",
            head + "2026-03-04 09:00,65,95\n": "no such air was ever measured",
            head + "2026-03-04 09:00,18,60\n2026-03-04 08:00,18,60\n": "a time after the line before",
            head + "yesterday,18,60\n": "a date and a time",
            head: "no readings",
        }.items():
            with self.subTest(says), self.assertRaises(Refused) as refused:
                read(text)
            self.assertIn(says, str(refused.exception.detail))
        with self.assertRaises(Refused) as refused:
            read(head + "2026-03-04 09:00,18,60\n", Manner(lay="history"))
        self.assertIn("hours its standard time is from UTC", str(refused.exception.detail))

    def test_dates_that_go_on_from_day_to_day_say_which_is_the_day(self) -> None:
        head = "date,temp °C,rh %\n"
        days = [f"0{d}/04/2026 09:00,18,60" for d in (3, 4, 5)]
        self.assertEqual(read(head + "\n".join(days)).rows[0].at, at("2026-04-03T08:00:00+00:00"))
