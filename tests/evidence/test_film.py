"""Pictures of contact: read without knowing how they were made, against the truth that the scanner wrote down."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
from PIL import Image, ImageFile

from ashen_bridge.evidence.film import difference, learnt_scale, read_film
from ashen_bridge.evidence.picture import FilmError, opened, perspective, straightened
from ashen_bridge.evidence.result import FilmReading
from ashen_bridge.simulated.film import Scan, Scanner, scan

W, H = 26.0, 18.0
X, Y = np.meshgrid(((np.arange(60) + 0.5) / 60 - 0.5) * W, ((np.arange(50) + 0.5) / 50 - 0.5) * H)
ROUND = (X / (W / 2)) ** 2 + (Y / (H / 2)) ** 2
CONTACTS = {
    # Pressures at opposite edges differ twofold, in a slanted direction.
    "tilted": 1 + (X * math.cos(0.5) + Y * math.sin(0.5)) / 46,
    "half bare": np.where(X > -5, 1 + 0.02 * X, 0.0),
    "hollow": 0.15 + 0.6 * ROUND,
    "crowned": np.maximum(1 - ROUND, 0.0),
}
LIGHTS = {"even": 0.1, "one lamp": 0.4}


def seen(made: Scan, with_strip: bool = True) -> FilmReading:
    image = opened(made.content)
    scale = learnt_scale(image, made.strip, made.strip_pressures, made.corners, W, H) if with_strip else None
    return read_film(image, made.corners, W, H, scale)


@pytest.mark.long
@pytest.mark.parametrize("light", LIGHTS)
@pytest.mark.parametrize("turned", [-25.0, 6.0, 190.0])
@pytest.mark.parametrize("name", CONTACTS)
def test_truth_is_read_at_any_turn_and_light(name: str, turned: float, light: str) -> None:
    """Covered share within 3 points, centre of pressure within 0.5 mm, direction within 10° where edges differ twofold."""
    made = scan(CONTACTS[name], W, H, Scanner(turned_deg=turned, falls=LIGHTS[light], seed=int(turned) % 7))
    found = seen(made)
    assert found.covered == pytest.approx(made.covered, abs=0.03)
    assert math.hypot(found.centre_x_mm - made.centre_x_mm, found.centre_y_mm - made.centre_y_mm) < 0.5
    if name == "tilted":
        assert found.toward_deg is not None
        assert abs((found.toward_deg - math.degrees(0.5) + 180) % 360 - 180) < 10
    if name in ("hollow", "crowned"):
        assert found.middle == name


@pytest.mark.parametrize("name", CONTACTS)
def test_without_a_strip_the_centre_is_within_its_own_error(name: str) -> None:
    """Nobody says how colour follows pressure: the figure says how little that tells."""
    made = scan(CONTACTS[name], W, H, Scanner(gamma=0.6, saturates=2.5))
    found = seen(made, with_strip=False)
    off = math.hypot(found.centre_x_mm - made.centre_x_mm, found.centre_y_mm - made.centre_y_mm)
    assert off < 2.5 * found.centre_sd_mm
    assert abs(found.covered - made.covered) < max(3 * found.covered_sd, 0.03)


@pytest.mark.long
@pytest.mark.parametrize(("pixels", "suffix", "quality"), [(3500, "jpg", 80), (900, "jpg", 60), (700, "png", 90)])
def test_pixels_and_squeezing_hardly_matter(pixels: int, suffix: str, quality: int) -> None:
    made = scan(CONTACTS["half bare"], W, H, Scanner(pixels=pixels, quality=quality, lean=0.12), suffix)
    found = seen(made)
    assert found.covered == pytest.approx(made.covered, abs=0.03)
    assert found.centre_x_mm == pytest.approx(made.centre_x_mm, abs=0.5)


def test_a_film_stamped_twice_is_told_apart_from_one_only_by_its_width() -> None:
    once, twice = (seen(scan(CONTACTS["crowned"], W, H, Scanner(ghost_mm=ghost))) for ghost in (0.0, 1.2))
    assert 0.0 < twice.covered - once.covered < 0.1


def test_the_model_s_own_map_is_the_same_and_a_mirrored_one_is_not() -> None:
    made = scan(CONTACTS["half bare"], W, H)
    found, x, y = seen(made), X[0], Y[:, 0]
    assert difference(found, CONTACTS["half bare"], x, y) < 0.08
    assert difference(found, CONTACTS["half bare"][:, ::-1], x, y) > 0.2
    assert difference(found, np.full_like(X, np.nan), x, y) == 1.0


def test_four_points_lead_to_four_points() -> None:
    """The eight numbers of a perspective against points carried by a known one (homogeneous matrix, numpy)."""
    matrix = np.array([[1.2, 0.1, 5.0], [-0.2, 0.9, 3.0], [1e-3, -5e-4, 1.0]])
    of = np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 80.0], [0.0, 80.0]])
    carried = np.c_[of, np.ones(4)] @ matrix.T
    numbers = perspective(of, carried[:, :2] / carried[:, 2:])
    assert np.append(numbers, 1.0).reshape(3, 3) == pytest.approx(matrix, rel=1e-9)


def test_corners_in_another_order_turn_what_is_seen() -> None:
    made = scan(CONTACTS["half bare"], W, H, Scanner(turned_deg=0.0))
    image = opened(made.content)
    about = read_film(image, [*made.corners[2:], *made.corners[:2]], W, H)
    assert about.centre_x_mm < 0 < read_film(image, made.corners, W, H).centre_x_mm


def jpeg(width: int, height: int, colour: tuple[int, int, int] = (240, 238, 230)) -> bytes:
    file = io.BytesIO()
    Image.new("RGB", (width, height), colour).save(file, "PNG")
    return file.getvalue()


def test_what_is_no_picture_is_one_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    # As a library that prints pages leaves it behind.
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)
    good = scan(CONTACTS["tilted"], W, H).content
    for content, says in (
        (b"", "only PNG and JPEG"),
        (b"GIF89a" + bytes(50), "only PNG and JPEG"),
        (good[: len(good) // 3], "damaged or cut off"),
        (jpeg(9000, 9000), "million can be read"),
    ):
        with pytest.raises(FilmError, match=says) as error:
            opened(content)
        assert "\n" not in str(error.value)


def test_corners_that_make_no_rectangle_and_films_without_marks_are_one_sentence() -> None:
    bare = opened(jpeg(400, 300))
    good = [(50.0, 250.0), (350.0, 250.0), (350.0, 50.0), (50.0, 50.0)]
    with pytest.raises(FilmError, match="marked"):
        read_film(bare, good, W, H)
    for corners, says in (
        ([good[0], good[2], good[1], good[3]], "cross"),
        ([good[0], good[0], good[2], good[3]], "cross"),
        ([(50.0, 250.0), (900.0, 250.0), *good[2:]], "outside the picture"),
        ([(50.0, 60.0), (60.0, 60.0), (60.0, 50.0), (50.0, 50.0)], "too close"),
        (good[:3], "Four corners"),
    ):
        with pytest.raises(FilmError, match=says):
            straightened(bare, corners, W, H)
    made = scan(CONTACTS["tilted"], W, H)
    with pytest.raises(FilmError, match="larger than the one before"):
        learnt_scale(opened(made.content), made.strip, (3.0, 2.0), made.corners, W, H)
    with pytest.raises(FilmError, match="darker"):
        learnt_scale(opened(made.content), [*made.strip[2:], *made.strip[:2]], made.strip_pressures, made.corners, W, H)


def test_a_turned_photo_is_read_as_it_is_seen() -> None:
    """Telephones write which way is up beside the picture."""
    made = scan(CONTACTS["half bare"], W, H, Scanner(pixels=600), "jpg")
    image = Image.open(io.BytesIO(made.content)).transpose(Image.Transpose.ROTATE_90)
    file, exif = io.BytesIO(), Image.Exif()
    exif[0x0112] = 6
    image.save(file, "JPEG", quality=95, exif=exif)
    assert read_film(opened(file.getvalue()), made.corners, W, H).centre_x_mm == pytest.approx(made.centre_x_mm, abs=0.6)
