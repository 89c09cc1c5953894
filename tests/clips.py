"""Clips of drawn scenes, to try rules on: pictures of a stretch of a day, written as a file."""

from fractions import Fraction

import av
import numpy as np

from eager_lens.core.motion.small import FPS, HIGH, WIDE

SCALE = 2


def write_scene(path, scene, begins_s, lasts_s, pan_px_per_s=0.0, crop_px=WIDE, codec="libx264", rate=None):
    """Write a stretch of a scene at 320 by 180, at the detector's rate or another; with a pan, as a camera that turns would see
    it; cropped to a width."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=Fraction(rate or round(FPS)))
        stream.width, stream.height, stream.pix_fmt = crop_px * SCALE, HIGH * SCALE, "yuv420p"
        stream.options = {"crf": "18", "preset": "ultrafast"} if codec == "libx264" else {"qscale": "2"}
        fps = rate or FPS
        for at in range(round(lasts_s * fps)):
            picture = np.roll(scene.picture(begins_s + at / fps), round(pan_px_per_s * at / fps), axis=1)
            large = picture[:, :crop_px].astype(np.uint8).repeat(SCALE, 0).repeat(SCALE, 1)
            frame = av.VideoFrame.from_ndarray(large, format="gray").reformat(format="yuv420p")
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path
