"""Clips of drawn scenes, to try rules on: pictures of a stretch of a day, written as a file."""

from fractions import Fraction

import av
import numpy as np

from eager_lens.core.motion.lens import HIGH, WIDE
from eager_lens.core.motion.source import FPS

SCALE = 2


def write_scene(path, scene, begins_s, lasts_s, pan_px_per_s=0.0, crop_px=WIDE):
    """Write a stretch of a scene at 320 by 180; with a pan, as a camera that turns would see it; cropped to a width."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("libx264", rate=Fraction(round(FPS)))
        stream.width, stream.height, stream.pix_fmt = crop_px * SCALE, HIGH * SCALE, "yuv420p"
        stream.options = {"crf": "18", "preset": "veryfast"}
        for at in range(round(lasts_s * FPS)):
            picture = np.roll(scene.picture(begins_s + at / FPS), round(pan_px_per_s * at / FPS), axis=1)
            large = np.kron(picture[:, :crop_px], np.ones((SCALE, SCALE))).astype(np.uint8)
            frame = av.VideoFrame.from_ndarray(large, format="gray").reformat(format="yuv420p")
            container.mux(stream.encode(frame))
        container.mux(stream.encode())
    return path
