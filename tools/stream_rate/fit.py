"""Fit the bit-rate model to measured encodes, and measure its error on scenes left out. Prints, and writes its results.

    python tools/stream_rate/fit.py            # fits, checks, prints; about two minutes
    python tools/stream_rate/fit.py --write    # and writes src/eager_lens/core/reference/stream_rate.json

The error that counts is that on scenes which the fit has never seen: one scene is left out at a time, the model is fitted
to the others, and the scene's encodes are predicted. The interval comes from those errors too.
"""

from __future__ import annotations

import argparse
import csv
import json
import sys
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

HERE = Path(__file__).parent
ROOT = HERE.parent.parent
sys.path.insert(0, str(ROOT / "src"))

from eager_lens.core.sizing.stream_model import Picture, frame_bits, mjpeg_quantiser  # noqa: E402

Array = NDArray[np.float64]
TARGET = ROOT / "src/eager_lens/core/reference/stream_rate.json"
PLOT = ROOT / "docs/bit-rate-error.svg"
POINTS = ROOT / "src/eager_lens/core/reference/stream_points.json"

START: dict[str, float] = {
    "detail_gain": 2.5,
    "detail_scale": 1.0,
    "detail_sharpness": 1.3,
    "flat_gradient": 0.37,
    "key_noise_gain": 1.0,
    "key_noise_scale": 3.4,
    "key_noise_sharpness": 5.0,
    "key_floor": 0.025,
    "motion_gain": 0.8,
    "motion_scale": 0.6,
    "motion_sharpness": 2.3,
    "motion_own": 1.0,
    "motion_noise": 4.0,
    "noise_gain": 1.2,
    "noise_scale": 3.5,
    "noise_sharpness": 8.0,
    "moving_takes": 0.5,
    "other_floor": 0.001,
    "key_offset": 2.7,
    "adaptive": 0.85,
    "texture": 1.5,
    "flat_energy": 0.2,
    "first_after_key": 0.1,
    "level_energy": 1.2,
    "level_growth": 0.3,
    "fading_level": 4.5,
}
"""Where the search begins, and whereto it is drawn back: a coefficient leaves this only as far as the data ask for."""

DRAWN_BACK = 0.15
MOST_SHARP = 14.0
"""Beyond this the onset of a term is a corner, and more says nothing."""

KEY_ONLY = {name for name in START if name.startswith(("detail", "flat", "key_noise", "key_floor"))}
"""What matters where every frame is a key frame and nothing is adapted."""

PROPERTIES = ("detail_log", "flat_share", "noise_sigma", "noise_corr", "moving_share", "motion_mad", "moving_share_1s")


class Table:
    """The sheet's rows with a fixed quantiser, as arrays."""

    def __init__(self) -> None:
        with (HERE / "encode-measurements.csv").open(newline="", encoding="utf-8") as file:
            self.rows = [row for row in csv.DictReader(file) if row["rate_control"] == "fixed"]
        self.codec = np.array([row["codec"] for row in self.rows])
        self.scene = np.array([row["scene_id"] for row in self.rows])
        self.pixels = self.column("width_px") * self.column("height_px")
        self.fps, self.key_frame_s = self.column("fps"), self.column("gop_s")
        self.others = np.maximum(np.round(self.key_frame_s * self.fps) - 1, 0)
        scale = self.column("quality")
        self.quality = np.where(self.codec == "mjpeg", mjpeg_quantiser(np.maximum(scale, 1), np), scale)
        self.mean_kbps = self.column("mean_kbps")
        self.key_bpp = 8 * self.column("key_bytes") / self.pixels
        self.other_bpp = 8 * self.column("other_bytes") / self.pixels

    def column(self, name: str) -> Array:
        """A column as numbers; what is empty is not a number."""
        return np.array([float(row[name]) if row[name] else np.nan for row in self.rows])

    def picture(self, prefix: str = "") -> dict[str, Array]:
        """The properties as given, or as estimated from the noisy frames (``est_``)."""
        return {name: np.maximum(self.column(prefix + name), 0.0) for name in PROPERTIES}


def predicted(
    table: Table, properties: dict[str, Array], rows: NDArray[np.int64], p: dict[str, float]
) -> tuple[Array, Array, Array]:
    """Bits per pixel of key and other frames, and the mean rate in kbit/s, of some rows."""
    picture = Picture(**{name: values[rows] for name, values in properties.items()})
    others = table.others[rows]
    key, other = frame_bits(picture, table.fps[rows], table.quality[rows], others, p, np)
    bits = table.pixels[rows] * (key + others * other)
    return key, other, bits * table.fps[rows] / (others + 1) / 1000


def fitted(
    table: Table, properties: dict[str, Array], rows: NDArray[np.int64], begin: dict[str, float], mjpeg: bool
) -> dict[str, float]:
    """Coefficients for some rows: squares of logarithms, large errors counted less, drawn back to where it begins."""
    names = sorted(KEY_ONLY) if mjpeg else list(START)
    fixed = {"adaptive": 0.0, "key_offset": 0.0} if mjpeg else {}
    home = np.log([START[name] for name in names])
    top = [np.log(MOST_SHARP) if name.endswith("sharpness") else home[at] + 4 for at, name in enumerate(names)]

    def coefficients(logs: Array) -> dict[str, float]:
        return {**START, **fixed, **dict(zip(names, np.exp(logs).tolist(), strict=True))}

    def residuals(logs: Array) -> Array:
        key, other, mean = predicted(table, properties, rows, coefficients(logs))
        parts = [
            0.7 * np.log(key / table.key_bpp[rows]),
            np.log(mean / table.mean_kbps[rows]),
            DRAWN_BACK * (logs - home),
        ]
        if not mjpeg:
            parts.append(0.5 * np.log(other / table.other_bpp[rows]))
        return np.concatenate(parts)

    start = np.log([begin[name] for name in names])
    found = least_squares(residuals, start, bounds=(home - 4, top), loss="soft_l1", f_scale=0.3)
    return coefficients(found.x)


def left_out(
    table: Table, codec: str, whole: dict[str, float], given: dict[str, Array], tested: dict[str, Array]
) -> Array:
    """Log of predicted over measured for each row of a codec, its scene left out of the fit."""
    errors = np.full(len(table.rows), np.nan)
    for scene in sorted(set(table.scene)):
        test = np.flatnonzero((table.codec == codec) & (table.scene == scene))
        train = np.flatnonzero((table.codec == codec) & (table.scene != scene))
        p = fitted(table, given, train, whole, codec == "mjpeg")
        errors[test] = np.log(predicted(table, tested, test, p)[2] / table.mean_kbps[test])
    return errors


def table_errors(table: Table) -> Array:
    """The same for a table of bits per pixel: codec by quality, from the other scenes."""
    errors = np.full(len(table.rows), np.nan)
    bpp = table.mean_kbps * 1000 / table.pixels / table.fps
    for at in range(len(table.rows)):
        alike = (table.codec == table.codec[at]) & (table.quality == table.quality[at])
        alike &= table.scene != table.scene[at]
        errors[at] = np.log(np.exp(np.mean(np.log(bpp[alike]))) / bpp[at])
    return errors


def score(errors: Array) -> dict[str, float]:
    """Median and 90th percentile of the absolute error, and the median's bias, in per cent."""
    known = errors[np.isfinite(errors)]
    apart = 100 * np.abs(np.exp(known) - 1)
    return {
        "cases": int(known.size),
        "median_abs_pct": round(float(np.median(apart)), 1),
        "within_90_pct": round(float(np.quantile(apart, 0.9)), 1),
        "bias_pct": round(float(100 * (np.exp(np.median(known)) - 1)), 1),
    }


def missing_properties(table: Table, given: dict[str, Array]) -> dict[str, Any]:
    """How a property that nobody measured follows from those that everybody gives: straight lines, fitted here."""
    detail = table.column("detail")
    log_detail = np.log2(1 + detail)
    slope, _ = np.polyfit(log_detail, given["detail_log"], 1)
    offset = float(np.mean(given["detail_log"] - slope * log_detail))
    flat = np.polyfit(given["detail_log"], given["flat_share"], 1)
    moves = given["moving_share"] > 0.005
    level = float(np.median(given["motion_mad"][moves] / given["moving_share"][moves]))
    later = float(np.median(given["moving_share_1s"][moves] / given["moving_share"][moves]))
    return {
        "detail_log": [round(float(slope), 4), round(offset, 4)],
        "flat_share": [round(float(flat[0]), 4), round(float(flat[1]), 4)],
        "noise_corr": round(float(np.median(given["noise_corr"])), 3),
        "motion_level": round(level, 2),
        "moving_share_1s": round(later, 3),
    }


def points(table: Table, given: dict[str, Array]) -> dict[str, dict[str, list[float]]]:
    """The measured properties of every scene by picture width: where the program's kinds of view come from."""
    found: dict[str, dict[str, list[float]]] = {}
    widths = table.column("width_px")
    for scene in sorted(set(table.scene)):
        for width in sorted(set(widths[table.scene == scene])):
            rows = (table.scene == scene) & (widths == width)
            values = [float(f"{given[name][rows].mean():.4g}") for name in PROPERTIES]
            found.setdefault(str(scene), {})[str(int(width))] = values
    return found


def plot(table: Table, errors: Array) -> str:
    """Predicted over measured of every encode, its scene left out of the fit, as SVG; a dot an encode."""
    side, margin, low, high = 460, 48, -2.0, 2.0  # powers of ten of Mb/s
    colors = {"h264": "#2B5C6B", "h265": "#B58A2B", "mjpeg": "#6D4A72"}

    def at(log10_mbps: float) -> float:
        return margin + (log10_mbps - low) / (high - low) * (side - 2 * margin)

    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{side}" height="{side}" font-family="sans-serif" font-size="12">',
        f'<rect width="{side}" height="{side}" fill="#FBFAF6"/>',
    ]
    for factor, dash in ((0.6, "4 3"), (1.0, ""), (1.4, "4 3")):
        shift = float(np.log10(factor))
        ends = f'x1="{at(low):.1f}" y1="{side - at(low + shift):.1f}" x2="{at(high):.1f}" y2="{side - at(high + shift):.1f}"'
        parts.append(f'<line {ends} stroke="#57636B" stroke-dasharray="{dash}"/>')
    for power in range(-2, 3):
        parts.append(
            f'<text x="{at(power):.1f}" y="{side - 24}" text-anchor="middle" fill="#1E2A2F">{10.0**power:g}</text>'
        )
        parts.append(
            f'<text x="{margin - 8}" y="{side - at(power) + 4:.1f}" text-anchor="end" fill="#1E2A2F">{10.0**power:g}</text>'
        )
    parts.append(f'<text x="{side / 2}" y="{side - 6}" text-anchor="middle" fill="#57636B">measured, Mb/s</text>')
    parts.append('<text x="8" y="16" fill="#57636B">predicted, Mb/s; dashed: 40 % off</text>')
    for number, (codec, color) in enumerate(colors.items()):
        parts.append(
            f'<text x="{side - margin}" y="{side - 120 + 18 * number}" text-anchor="end" fill="{color}">{codec}</text>'
        )
    for codec, kbps, error in zip(table.codec, table.mean_kbps, errors, strict=True):
        x = float(np.log10(kbps / 1000))
        y = x + float(error) / float(np.log(10))
        parts.append(
            f'<circle cx="{at(x):.1f}" cy="{side - at(y):.1f}" r="2" fill="{colors[str(codec)]}" fill-opacity="0.6"/>'
        )
    return "\n".join([*parts, "</svg>"]) + "\n"


def main() -> int:
    """Fit, check, print, and write if asked."""
    options = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    options.add_argument("--write", action="store_true", help="write the coefficients into the program")
    write = options.parse_args().write
    table = Table()
    given, estimated = table.picture(), table.picture("est_")
    codecs: dict[str, Any] = {}
    all_errors, from_clip, errors_of = np.full(len(table.rows), np.nan), np.full(len(table.rows), np.nan), {}
    for codec in ("h264", "h265", "mjpeg"):
        rows = np.flatnonzero(table.codec == codec)
        whole = fitted(table, given, rows, START, codec == "mjpeg")
        errors = left_out(table, codec, whole, given, given)
        est_errors = left_out(table, codec, whole, given, estimated)
        all_errors[rows], from_clip[rows], errors_of[codec] = errors[rows], est_errors[rows], errors[rows]
        low, high = np.exp(-np.quantile(errors[rows], [0.9, 0.1]))
        codecs[codec] = {
            "low": round(float(low), 4),
            "high": round(float(high), 4),
            "left_out": score(errors[rows]),
            "left_out_estimated": score(est_errors[rows]),
            "coefficients": {name: float(f"{value:.5g}") for name, value in whole.items()},
        }
        print(codec, codecs[codec]["left_out"], "estimated from the clip:", codecs[codec]["left_out_estimated"])
    bare = table_errors(table)
    covered = np.concatenate(
        [
            (np.exp(errors_of[codec]) * codecs[codec]["low"] <= 1)
            & (np.exp(errors_of[codec]) * codecs[codec]["high"] >= 1)
            for codec in codecs
        ]
    )
    summary = {
        "left_out": score(all_errors),
        "left_out_estimated": score(from_clip),
        "bits_per_pixel_table": score(bare),
        "interval_covers_pct": round(float(100 * covered.mean()), 1),
    }
    for name, value in summary.items():
        print(f"{name:24}", value)
    for scene in sorted(set(table.scene)):
        print(f"  {scene:18}", score(all_errors[table.scene == scene]))
    result = {
        "source": "Fitted to real encodes of drawn fixed-camera scenes by tools/stream_rate/fit.py; errors are on scenes "
        "that the fit had not seen. Real pictures have other texture, and cameras filter noise in time.",
        "all": summary,
        "ranges": {
            **{name: [float(f"{np.nanmin(v):.4g}"), float(f"{np.nanmax(v):.4g}")] for name, v in given.items()},
            "detail": [float(f"{f(table.column('detail')):.4g}") for f in (np.min, np.max)],
            "fps": [3, 30],
        },
        "missing": missing_properties(table, given),
        "codecs": codecs,
    }
    if write:
        TARGET.write_text(json.dumps(result, indent=1) + "\n", "utf-8")
        data = {"properties": PROPERTIES, "points": points(table, given)}
        lines = json.dumps(data).replace('}, "', '},\n  "').replace('"points": {', '"points": {\n  ')
        POINTS.write_text(lines + "\n", "utf-8")
        PLOT.write_text(plot(table, all_errors), "utf-8")
        print(f"written: {TARGET.relative_to(ROOT)}, {POINTS.relative_to(ROOT)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
