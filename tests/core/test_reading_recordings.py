"""Recordings of any common kind are read; what is no recording is refused with a place."""

import gzip
import random
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from dianoia.errors import RefusedInput
from dianoia.signals import keep
from dianoia.signals.columns import is_time, match
from dianoia.signals.hashing import hash_of
from dianoia.signals.load import load
from dianoia.signals.propose import check_chosen
from dianoia.signals.readers.open_source import open_source
from dianoia.signals.readers.source import Chosen
from dianoia.signals.recording import Recording, Trace
from tests.damaged_files import came_of, damaged, wholes

#: Heading -> what it says: signal, sensor, unit.
HEADINGS = {
    "O2S11 [V]": ("sensor_voltage", "B1S1", "V"), "O2 Sensor 1 Bank 2 (V)": ("sensor_voltage", "B2S1", "V"),
    "Bank 1 Sensor 2 O2 voltage (mV)": ("sensor_voltage", "B1S2", "mV"), "HO2S21": ("sensor_voltage", "B2S1", ""),
    "O2_B2_S1_V": ("sensor_voltage", "B2S1", "v"), "STFT1 (%)": ("short_trim", "B1S1", "%"),
    "Long term fuel trim bank 2": ("long_trim", "B2S1", ""), "Engine RPM": ("engine_speed", None, "rpm"),
    "ECT [°F]": ("coolant", None, "°F"), "AFS B1S1 current (mA)": ("cell_current", "B1S1", "mA"),
    "O2S B1S1 [mA]": ("cell_current", "B1S1", "mA"), "equivalence ratio B1S1": ("lambda", "B1S1", ""),
    "O2 heater duty B1S1": ("heater_command", "B1S1", ""), "Heater current B1S2 [A]": ("heater_current", "B1S2", "A"),
    "Control module voltage (V)": ("battery_voltage", None, "V"), "NOx before cat [ppm]": ("nox", "B1S1", "ppm"),
    "NOx outlet status": ("nox_status", "B1S2", ""), "B1S1 o2 [%]": ("o2", "B1S1", "%"), "CH1 (V)": ("volts", None, "V"),
    "harness.heater_control to battery.negative [V]": ("volts", "harness.heater_control", "V"),
    "Fuel system status": ("loop", None, ""), "Vehicle speed": (None, None, ""), "GPS latitude": (None, None, ""),
    "Driver name": (None, None, ""), "VIN": (None, None, ""), "MAF (g/s)": (None, None, ""), "Throttle position": (None, None, ""),
}  # fmt: skip
#: Each a log of the same three samples: 0, 1, 2 s; 0.1, 0.45, 0.8 V.
SAME = {
    "comma": "time [s],O2S11 [V]\n0,0.1\n1,0.45\n2,0.8\n",
    "semicolon, decimal comma": "Zeit [s];O2S11 [V]\n0,0;0,1\n1,0;0,45\n2,0;0,8\n",
    "tab": "time\tO2S11\n0\t0.1\n1\t0.45\n2\t0.8\n",
    "quoted decimal comma": 'time,"O2S11 [V]"\n"0,0","0,1"\n"1,0","0,45"\n"2,0","0,8"\n',
    "row of units": "time,O2S11,MAF\ns,mV,g/s\n0,100,1\n1,450,1\n2,800,1\n",
    "milliseconds": "time [ms],O2S11 [mV]\n5000,100\n6000,450\n7000,800\n",
    "clock": "time,O2S11\n23:59:59.0,0.1\n00:00:00.0,0.45\n00:00:01.0,0.8\n",
    "date": "Date time,O2S11\n2026-12-02 10:00:00,0.1\n2026-12-02 10:00:01,0.45\n2026-12-02 10:00:02,0.8\n",
    "words before": "Log of a tool\nmade today\n\ntime,O2S11 [V],x\n0,0.1,\n1,0.45,\n2,0.8,\n",
    "windows lines": "time,O2S11\r\n0,0.1\r\n1,0.45\r\n2,0.8\r\n",
    "old lines": "time,O2S11\r0,0.1\r1,0.45\r2,0.8\r",
    "mark of utf-8": "\ufefftime,O2S11\n0,0.1\n1,0.45\n2,0.8\n",
    "gaps and repeated rows": "time,O2S11,RPM\n0,0.1,\n0,0.1,\n0.5,,700\n1,0.45,\n2,0.8,\n2,0.8,\n",
    "a stray word": "time,O2S11\n0,0.1\n1,0.45\n1.5,n/a\n2,0.8\n",
    "a time a signal": "time RPM,RPM,time O2S11,O2S11\n0,700,5,0.1\n1,701,6,0.45\n2,702,7,0.8\n",
    "a signal a row": "time,name,value,unit\n0,O2S11,100,mV\n0.5,RPM,700,rpm\n1,O2S11,450,mV\n2,O2S11,800,mV\n",
    "no heading of time": "count,O2S11\n0,0.1\n1,0.45\n2,0.8\n",
}  # fmt: skip
#: What is no recording -> what is said of it.
REFUSED = {
    "empty": (b"", "an empty file"), "blank": (b"\n\n\n", "blank lines"), "headings only": (b"time,O2S11\n", "headings only"),
    "one column": (b"O2S11\n0.1\n0.2\n", "one column"), "prose": (b"the sensor is dead\nand the heater too\n", "one column"),
    "backwards": (b"time,O2S11\n0,0.1\n5,0.2\n3,0.3\n", "time, line 4: expected times that rise; found 3 s after 5 s"),
    "infinite": (b"time,O2S11\n0,0.1\n1,inf\n2,0.3\n", "O2S11, line 3"), "text": (b"time,O2S11\n0,a\n1,b\n2,c\n", "O2S11, line 2"),
    "no number at all": (b"time,O2S11\n0,nan\n1,nan\n", "O2S11, line 2"),
    "other unit": (b"time,Heater current B1S1 [V]\n0,1\n1,2\n", "known signal"),
    "nothing known": (b"time,Vehicle speed\n0,1\n1,2\n", "known signal"), "no times": (b"O2S11,RPM\n0.5,700\n0.4,701\n", "a column of times"),
    "wide": (b",".join(b"c%d" % place for place in range(10_000)) + b"\n" + b",".join([b"1"] * 10_000), "at most 2,000 columns"),
    "one endless line": (b"1," * 200_000, "262,144 bytes"), "packed": (gzip.compress(b"time,O2S11\n0,0.1\n"), "a gzip file"),
    "zip": (b"PK\x03\x04" + bytes(40), "a zip file"), "machine code": (b"\x7fELF\x02\x01\x01\x00\x00", "byte 0 at byte 8"),
    "cut measurement file": (b"MDF     4.10    " + bytes(20), "measurement file"),
    "cut kept file": (b"PAR1" + bytes(30) + b"PAR1", "Dianoia kept"),
}  # fmt: skip


class Reading(TestCase):
    """Files that are read."""

    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "log.csv"

    def of(self, data: bytes) -> Recording:
        self.path.write_bytes(data)
        return load(self.path)

    def test_headings(self) -> None:
        for heading, expected in HEADINGS.items():
            with self.subTest(heading):
                found = match(heading)
                self.assertEqual((found.signal, found.of, found.unit), expected)
        for heading, expected_time in {
            "time [s]": True,
            "Timestamp": True,
            "Second": True,
            "trim": False,
            "temperature": False,
        }.items():
            self.assertEqual(is_time(heading), expected_time, heading)

    def test_the_same_log_in_every_form(self) -> None:
        for form, text in SAME.items():
            with self.subTest(form):
                trace = self.of(text.encode()).find("sensor_voltage", "B1S1")
                assert trace is not None
                self.assertEqual((trace.at_s - trace.at_s[0]).tolist(), [0.0, 1.0, 2.0])
                np.testing.assert_allclose(trace.values, [0.1, 0.45, 0.8], rtol=1e-12)

    def test_other_encodings(self) -> None:
        text = "time [s],Kühlmittel,O2S11 [V],ECT [°F]\n0,1,0.1,32\n1,1,0.45,212\n2,1,0.8,212\n"
        for encoding in ("latin-1", "utf-16", "utf-8"):
            with self.subTest(encoding):
                coolant = self.of(text.encode(encoding)).find("coolant")
                assert coolant is not None
                np.testing.assert_allclose(coolant.values, [0.0, 100.0, 100.0], atol=1e-9)

    def test_refused(self) -> None:
        for what, (data, said) in REFUSED.items():
            with self.subTest(what), self.assertRaises(RefusedInput) as refused:
                self.of(data)
            self.assertIn(said, str(refused.exception), what)

    def test_words_are_words_of_the_signal(self) -> None:
        trace = self.of(b"time,B1S1 loop\n0,open\n1,Closed loop\n2,CL\n").find("loop", "B1S1")
        assert trace is not None
        self.assertEqual(trace.values.tolist(), [0.0, 1.0, 1.0])

    def test_only_chosen_columns_are_kept(self) -> None:
        found = self.of(b"time,O2S11,Driver name,GPS latitude\n0,0.1,A,46.1\n1,0.2,A,46.1\n")
        self.assertEqual([trace.column for trace in found.traces], ["O2S11"])
        self.assertEqual(found.unknown, ("Driver name", "GPS latitude"))
        keep.write(found, self.path)
        self.assertNotIn(b"46.1", self.path.read_bytes())

    def test_a_column_of_words_is_not_proposed_as_numbers(self) -> None:
        found = self.of(b"time,O2S11,B1S1 heater command\n0,0.1,on\n1,0.2,off\n")
        self.assertEqual([trace.signal for trace in found.traces], ["sensor_voltage"])

    def test_a_choice_that_cannot_be_is_refused(self) -> None:
        self.path.write_bytes(b"time,O2S11,RPM\n0,0.1,1\n1,0.2,1\n")
        columns = open_source(self.path).columns
        wrong = {
            "two": [Chosen(1, "lambda", "B1S1", ""), Chosen(2, "lambda", "B1S1", "")], "a column of the file": [Chosen(9, "lambda", "B1S1", "")],
            "one of": [Chosen(1, "speed", None, "")], "no sensor": [Chosen(2, "engine_speed", "B1S1", "")],
            "as B1S1": [Chosen(1, "lambda", "front", "")], "1 to 60": [],
        }  # fmt: skip
        for said, chosen in wrong.items():
            with self.subTest(said), self.assertRaises(RefusedInput) as refused:
                check_chosen(chosen, columns)
            self.assertIn(said, str(refused.exception))

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=400), st.integers(0, 300))
    def test_damaged_files_are_refused_and_nothing_else(self, noise: bytes, place: int) -> None:
        whole = "".join(f"{row / 10},{row % 7 / 10},{700 + row}\n" for row in range(40)).encode()
        data = b"time,O2S11,RPM\n" + whole[:place] + noise + whole[place + len(noise) // 2 :]
        try:
            found = self.of(data)
        except RefusedInput as refused:
            self.assertTrue(str(refused).strip())
        else:
            self.assertTrue(all(np.isfinite(trace.values).all() for trace in found.traces))


class Keeping(TestCase):
    """A kept recording is what was read."""

    @settings(max_examples=40, deadline=None)
    @given(st.data())
    def test_round_trip(self, data: st.DataObject) -> None:
        traces = []
        numbers = st.floats(-1e6, 1e6, allow_subnormal=False)
        for signal, of in (("sensor_voltage", "B1S1"), ("engine_speed", None), ("nox_status", "B1S2")):
            times = sorted(data.draw(st.sets(st.floats(0, 1e4, allow_subnormal=False), min_size=1, max_size=30)))
            values = st.integers(0, 3).map(float) if signal == "nox_status" else numbers
            found = data.draw(st.lists(values, min_size=len(times), max_size=len(times)))
            traces.append(Trace(f"{signal} column", signal, of, np.array(times), np.array(found), 2))
        before = Recording(tuple(traces), 99)
        with TemporaryDirectory() as folder:
            path = Path(folder) / "kept.parquet"
            digest = keep.write(before, path)
            after = keep.read(path)
            self.assertEqual(digest, hash_of(path))
        self.assertEqual(after.rows, 99)
        for one, other in zip(before.traces, after.traces, strict=True):
            self.assertEqual(
                (one.column, one.signal, one.of, one.bad), (other.column, other.signal, other.of, other.bad)
            )
            np.testing.assert_array_equal(one.at_s, other.at_s)
            np.testing.assert_array_equal(one.values, other.values)


class Damaged(TestCase):
    """Files of every kind, damaged (``scripts/damage_recordings.py`` reads many more)."""

    def test_each_is_read_or_refused_in_words(self) -> None:
        chance = random.Random(20261202)
        with TemporaryDirectory() as folder:
            files = wholes(Path(folder))
            path = Path(folder) / "damaged"
            for place in range(300):
                path.write_bytes(damaged(chance.choice(files), chance))
                self.assertIn(came_of(path), ("read", "refused"), place)
