"""IES and EULUMDAT files: every kind of symmetry, lines named in errors, nothing a file holds brings the reader
down.
"""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from canopy.errors import PhotometricError
from canopy.light.intensity import IntensityTable
from canopy.light.photometric_file import read_photometric

V = [0, 30, 60, 90]


def ies(
    horizontal,
    table,
    *,
    vertical=None,
    head=("IESNA:LM-63-2002", "[LUMINAIRE] Test bar"),
    tilt="TILT=NONE",
    lumens=1000,
    multiplier=1,
    units=2,
    face=(0.1, 1.2, 0),
    kind=1,
):
    """Write an IES file the way the standard lays it out."""
    vertical = V if vertical is None else vertical
    lines = [
        *head,
        tilt,
        f"1 {lumens} {multiplier} {len(vertical)} {len(horizontal)} {kind} {units} {face[0]} {face[1]} {face[2]}",
        "1 1 36",
        " ".join(map(str, vertical)),
        " ".join(map(str, horizontal)),
    ]
    return ("\r\n".join([*lines, *(" ".join(map(str, row)) for row in table)]) + "\r\n").encode()


def ldt(symmetry, planes, table, *, gamma=None, flux=1000):
    """Write an EULUMDAT file line by line."""
    gamma = V if gamma is None else gamma
    lines = ["", "1", str(symmetry), str(len(planes)), "0", str(len(gamma)), "0", "", "Test luminaire", "", "", ""]
    lines += ["1200", "100", "50", "1200", "100", "0", "0", "0", "0", "100", "100", "1", "0", "1"]
    lines += ["1", "tube", str(flux), "4000", "80", "36", *["0.5"] * 10]
    lines += [str(a) for a in planes] + [str(a) for a in gamma] + [str(v) for row in table for v in row]
    return "\n".join(lines).encode("latin-1")


def lobe(horizontal_deg, along=300.0, across=100.0):
    """Intensities of a lamp that is brighter along its length than across, alike on all four sides."""
    c = np.cos(np.radians(horizontal_deg)) ** 2
    return [round(float((along * c + across * (1 - c)) * np.cos(np.radians(v))), 6) for v in V]


def table_of(raw):
    return IntensityTable.of(read_photometric(raw).photometry)


EVERY = {
    "to 90": [0, 45, 90],
    "to 180": [0, 45, 90, 135, 180],
    "to 360": [0, 45, 90, 135, 180, 225, 270, 315, 360],
    "90 to 270": [90, 135, 180, 225, 270],
    "open to 315": [0, 45, 90, 135, 180, 225, 270, 315],
}


@pytest.mark.parametrize("case", EVERY)
def test_every_symmetry_of_an_ies_file_says_the_same(case):
    whole = table_of(ies(EVERY["to 360"], [lobe(h) for h in EVERY["to 360"]]))
    part = table_of(ies(EVERY[case], [lobe(h) for h in EVERY[case]]))
    turn, down = np.meshgrid(np.linspace(0, 360, 49), np.linspace(0, 90, 10))
    assert part.at(turn, down) == pytest.approx(whole.at(turn, down), abs=1e-9)
    assert part.at(np.array([0.0]), np.array([30.0])) > 2 * part.at(np.array([90.0]), np.array([30.0]))


def test_an_ies_file_alike_all_round_has_one_plane():
    found = read_photometric(ies([0], [[100, 87, 50, 0]]))
    table = IntensityTable.of(found.photometry)
    assert np.ptp(table.at(np.linspace(0, 360, 13), np.full(13, 40.0))) < 1e-12


def test_a_lopsided_lamp_keeps_its_side():
    # Alike on both sides of its length (0..180): more to the end at 0 than to the end at 180.
    table = table_of(ies([0, 90, 180], [[100, 90, 60, 0], [50, 40, 20, 0], [10, 8, 4, 0]]))
    at = table.at(np.array([0.0, 180.0, 90.0, 270.0]), np.full(4, 30.0))
    assert at[0] > 10 * at[1]
    assert at[2] == pytest.approx(at[3])
    # And from 90 to 270 the ends are alike, the sides are not.
    table = table_of(ies([90, 180, 270], [[100, 90, 60, 0], [50, 40, 20, 0], [10, 8, 4, 0]]))
    at = table.at(np.array([0.0, 180.0, 90.0, 270.0]), np.full(4, 30.0))
    assert at[0] == pytest.approx(at[1])
    assert at[2] > 10 * at[3]


@pytest.mark.parametrize(
    ("symmetry", "planes"),
    [(0, range(0, 360, 45)), (2, range(0, 360, 45)), (3, range(0, 360, 45)), (4, range(0, 360, 45))],
)
def test_every_symmetry_of_a_eulumdat_file_says_the_same(symmetry, planes):
    # C0 lies across the length there, so the lobe along the length stands at C90.
    planes = list(planes)
    given_planes = {0: planes, 2: planes[:5], 3: planes[2:7], 4: planes[:3]}[symmetry]
    table = table_of(ldt(symmetry, planes, [lobe(c + 90) for c in given_planes]))
    whole = table_of(ies(EVERY["to 360"], [lobe(h) for h in EVERY["to 360"]]))
    turn, down = np.meshgrid(np.linspace(0, 360, 49), np.linspace(0, 90, 10))
    assert table.at(turn, down) == pytest.approx(whole.at(turn, down), abs=1e-9)


def test_a_round_eulumdat_file_has_one_plane():
    table = table_of(ldt(1, [0], [[100, 87, 50, 0]]))
    assert table.at(np.array([10.0, 200.0]), np.array([30.0, 30.0])) == pytest.approx(
        table.at(np.zeros(2), np.full(2, 30.0))
    )


def test_a_lopsided_eulumdat_lamp_turns_by_a_quarter():
    # Symmetry to C0-C180: brighter at C0 (across) than at C180, so 90° is bright and 270° dim, counted from the length.
    rows = [[100, 90, 60, 0], [60, 50, 30, 0], [50, 40, 20, 0], [20, 16, 8, 0], [10, 8, 4, 0]]
    at = table_of(ldt(2, list(range(0, 360, 45)), rows)).at(np.array([90.0, 270.0, 0.0, 180.0]), np.full(4, 30.0))
    assert at[0] > 10 * at[1]
    assert at[2] == pytest.approx(at[3])


def test_measures_lumens_and_watts_come_along():
    metric = read_photometric(ies([0], [[100, 87, 50, 0]], lumens=1500))
    assert (metric.length_m, metric.width_m, metric.flux_lm, metric.power_w) == (1.2, 0.1, 1500, 36)
    feet = read_photometric(ies([0], [[100, 87, 50, 0]], units=1, face=(0.5, 4, 0)))
    assert feet.length_m == pytest.approx(1.2192)
    disc = read_photometric(ies([0], [[100, 87, 50, 0]], face=(-0.3, 0, 0)))
    assert disc.round
    assert disc.width_m == pytest.approx(0.3)
    other = read_photometric(ldt(1, [0], [[100, 87, 50, 0]], flux=1800))
    assert (other.length_m, other.width_m, other.flux_lm, other.power_w) == (1.2, 0.1, 1800, 36)
    assert other.name == "Test luminaire"


def test_absolute_photometry_gives_its_lumens_by_its_intensities():
    # A cosine of 100 cd straight down is π × 100 lm; the table's straight steps lose a little.
    angles = list(range(0, 91, 2))
    cosine = [100 * float(np.cos(np.radians(a))) for a in angles]
    assert read_photometric(ies([0], [cosine], vertical=angles, lumens=-1)).flux_lm == pytest.approx(314.16, rel=0.001)


def test_a_luminaire_gives_less_than_its_lamps_are_rated_at():
    angles = list(range(0, 91, 2))
    cosine = [100 * float(np.cos(np.radians(a))) for a in angles]
    # Four fifths of what is rated leaves the luminaire: what its intensities sum up to counts.
    assert read_photometric(ies([0], [cosine], vertical=angles, lumens=393)).flux_lm == pytest.approx(314.2, rel=0.001)
    in_klm = [value / 0.393 for value in cosine]
    given = read_photometric(ldt(1, [0], [in_klm], flux=393, gamma=angles)).flux_lm
    assert given == pytest.approx(314.2, rel=0.001)
    # Intensities that are no candela at all, but a hundredth: the rating counts.
    assert read_photometric(ies([0], [[100, 87, 50, 0]], lumens=90_000)).flux_lm == 90_000


@pytest.mark.parametrize(
    "head", [(), ("IESNA91", "[TEST] 1"), ("IESNA:LM-63-1995", "[TEST] 1"), ("IES:LM-63-2019", "[TEST] 1")]
)
def test_every_edition_is_read(head):
    assert read_photometric(ies([0], [[100, 87, 50, 0]], head=head), "Fallback").name == "Fallback"


def test_numbers_may_stand_in_any_lines_and_a_tilt_table_is_read_past():
    raw = ies([0], [[100, 87, 50, 0]]).decode().split("\r\n")
    raw[3:] = " ".join(raw[3:]).split()
    plain = read_photometric("\n".join(raw).encode())
    with_table = ies([0], [[100, 87, 50, 0]], tilt="TILT=INCLUDE\r\n1\r\n2\r\n0 90\r\n1 0.9")
    assert read_photometric(with_table).photometry == plain.photometry


@pytest.mark.parametrize("horizontal", [[0], [0, 90], [0, 45, 90, 135, 180]])
def test_a_table_sums_to_one_photon(horizontal):
    table = table_of(ies(horizontal, [lobe(h) for h in horizontal], multiplier=7))
    assert table.total() == pytest.approx(1)
    # By brute force over the hemisphere, too.
    down = np.radians(np.linspace(0, 90, 721))
    turn = np.linspace(0, 360, 181)
    grid = table.at(*np.meshgrid(turn, np.degrees(down), indexing="ij")) * np.sin(down)
    assert np.trapezoid(np.trapezoid(grid, down, axis=1), np.radians(turn)) == pytest.approx(1, rel=2e-3)


def test_a_lambertian_table_is_a_cosine():
    fine = list(range(0, 91))
    table = table_of(ies([0], [[round(1000 * float(np.cos(np.radians(v))), 4) for v in fine]], vertical=fine))
    at = np.array([0.0, 25.0, 60.0])
    assert table.at(np.zeros(3), at) == pytest.approx(np.cos(np.radians(at)) / np.pi, rel=1e-3)


BAD = {
    "too few": (ies([0], [[100, 87, 50]]), "ends early"),
    "too many": (ies([0], [[100, 87, 50, 0, 9]]), "line 8: more numbers than"),
    "negative": (ies([0], [[100, -87, 50, 0]]), "line 8"),
    "words": (ies([0], [[100, "bright", 50, 0]]), "line 8"),
    "count": (ies([0], [[100, 87, 50, 0]]).replace(b" 4 1 1 2 ", b" 4.5 1 1 2 "), "line 4"),
    "huge count": (ies([0], [[100, 87, 50, 0]]).replace(b" 4 1 1 2 ", b" 99999999 1 1 2 "), "line 4"),
    "type B": (ies([0], [[100, 87, 50, 0]], kind=2), "only type C"),
    "order": (ies([0], [[100, 87, 50, 0]], vertical=[0, 60, 30, 90]), "line 6"),
    "beyond": (ies([0], [[100, 87, 50, 0]], vertical=[0, 60, 90, 200]), "180"),
    "range": (ies([0, 70], [[100, 87, 50, 0]] * 2), "70"),
    "dark": (ies([0], [[0, 0, 0, 0]]), "all intensities are zero"),
    "giant": (ies([0], [[100, 87, 50, 0]], face=(0.1, 900, 0)), "luminous length"),
    "tilt file": (ies([0], [[100, 87, 50, 0]], tilt="TILT=lamp.tlt"), "another file"),
    "neither": (b"a,b\n1,2\n", "neither an IES file"),
    "empty": (b"", "empty|neither"),
    "binary": (bytes(range(256)) * 40, "text|neither"),
    "large": (b"TILT=NONE\n" + b"1 " * 5_000_000, "MB"),
    "ldt early": (ldt(1, [0], [[100, 87, 50]]), "ends early"),
    "ldt late": (ldt(1, [0], [[100, 87, 50, 0, 9]]), "more lines than"),
    "ldt negative": (ldt(1, [0], [[100, -87, 50, 0]]), "line "),
    "ldt word": (ldt(1, [0], [[100, "x", 50, 0]]), "line "),
}


@pytest.mark.parametrize("case", BAD)
def test_a_bad_file_is_refused_in_words_and_by_line(case):
    raw, words = BAD[case]
    with pytest.raises(PhotometricError, match=words):
        read_photometric(raw)


def test_a_comma_for_a_point_and_utf16_are_read():
    plain = read_photometric(ldt(1, [0], [[100, 87.5, 50, 0]]))
    comma = read_photometric(ldt(1, [0], [[100, "87,5", 50, 0]]))
    assert comma.photometry == plain.photometry


@settings(max_examples=150, deadline=None)
@given(st.binary(max_size=600))
def test_no_bytes_bring_the_reader_down(raw):
    with pytest.raises(PhotometricError):
        read_photometric(b"TILT=NONE\n" + raw if raw[:1] == b"1" else raw)


@settings(max_examples=200, deadline=None)
@given(st.data())
def test_a_damaged_file_is_read_or_refused(data):
    good = data.draw(st.sampled_from([ies([0, 45, 90], [lobe(h) for h in (0, 45, 90)]), ldt(1, [0], [[9, 8, 5, 0]])]))
    at = data.draw(st.integers(0, len(good) - 1))
    bad = good[:at] + data.draw(st.binary(max_size=6)) + good[at + data.draw(st.integers(0, 8)) :]
    try:
        found = read_photometric(bad)
    except PhotometricError:
        return
    assert IntensityTable.of(found.photometry).total() == pytest.approx(1)
