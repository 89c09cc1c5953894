"""A virtual camera that others wrote, as a process: ``python foreign_camera.py ADDRESS USER PASSWORD``."""

import os
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(sys.prefix, "foreign")))
os.chdir(tempfile.mkdtemp())
import numpy as np  # noqa: E402
from ipycam import CameraConfig, IPCamera  # noqa: E402

FPS, HIGH, WIDE = 15, 720, 1280
config = CameraConfig(
    main_width=WIDE,
    main_height=HIGH,
    main_fps=FPS,
    main_bitrate="4M",
    sub_width=640,
    sub_height=360,
    sub_fps=FPS,
    sub_bitrate="512K",
)
config.local_ip, config.username, config.password = sys.argv[1:4]
camera = IPCamera(config=config)
camera.start()
still = np.random.default_rng(1).integers(0, 255, (HIGH, WIDE, 3), dtype=np.uint8)
for at in range(10**9):
    picture = still.copy()
    picture[:, at * 7 % 1200 : at * 7 % 1200 + 80] = 0
    camera.stream(picture)
    time.sleep(1 / FPS)
