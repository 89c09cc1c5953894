"""Frames cut into RTP payloads: H.264 (RFC 6184), H.265 (RFC 7798), JPEG (RFC 2435); sender reports (RFC 3550)."""

from __future__ import annotations

import base64
import struct
from typing import NamedTuple

from eager_lens.core.errors import RefusedInput
from eager_lens.onsite.stand_ins.loops import Loop, unit_type

MOST_PAYLOAD = 1400
CLOCK_HZ = 90_000
PAYLOAD_TYPE = {"h264": 96, "h265": 97, "mjpeg": 26}
JPEG_MOST_PX = 2040
"""RFC 2435 counts a picture's sides in eighths of pixels in one byte."""


class Cut(NamedTuple):
    """A loop cut into payloads: by frame, what goes into its packets; the last of each frame is marked."""

    loop: Loop
    frames: tuple[tuple[bytes, ...], ...]
    frame_bytes: tuple[int, ...]
    payload_type: int


def cut(loop: Loop) -> Cut:
    """Cut a loop into payloads; parameter sets go before each key frame.

    Raises:
        RefusedInput: for a JPEG picture too large for RTP, or one that is not baseline 4:2:0.
    """
    frames = []
    for frame, key in zip(loop.frames, loop.keys, strict=True):
        if loop.codec == "mjpeg":
            frames.append(tuple(_jpeg(frame[0])))
            continue
        have = {unit_type(loop.codec, unit) for unit in frame}
        sets = [unit for unit in loop.parameter_sets if key and unit_type(loop.codec, unit) not in have]
        frames.append(tuple(payload for unit in (*sets, *frame) for payload in _unit(loop, unit)))
    sizes = tuple(sum(len(payload) for payload in frame) for frame in frames)
    return Cut(loop, tuple(frames), sizes, PAYLOAD_TYPE[loop.codec])


def _unit(loop: Loop, unit: bytes) -> list[bytes]:
    if len(unit) <= MOST_PAYLOAD:
        return [unit]
    if loop.codec == "h264":
        head, body = bytes(((unit[0] & 0xE0) | 28,)), unit[1:]
    else:
        head, body = bytes(((unit[0] & 0x81) | 49 << 1, unit[1])), unit[2:]
    kind, room = unit_type(loop.codec, unit), MOST_PAYLOAD - len(head) - 1
    parts = [body[at : at + room] for at in range(0, len(body), room)]
    last = len(parts) - 1
    return [head + bytes(((at == 0) << 7 | (at == last) << 6 | kind,)) + part for at, part in enumerate(parts)]


def _jpeg(picture: bytes) -> list[bytes]:
    tables: dict[int, bytes] = {}
    at, size = 2, (0, 0)
    while picture[at + 1] != 0xDA:
        marker, length = picture[at + 1], struct.unpack_from(">H", picture, at + 2)[0]
        if marker == 0xDB:
            part = picture[at + 4 : at + 2 + length]
            while part:
                tables[part[0] & 0xF], part = part[1:65], part[65:]
        elif marker == 0xC0:
            high, wide = struct.unpack_from(">HH", picture, at + 5)
            size = (wide, high)
            if picture[at + 11] != 0x22:
                raise RefusedInput("stream", "only JPEG with 4:2:0 sampling is sent")
        at += 2 + length
    if not all(size) or max(size) > JPEG_MOST_PX:
        raise RefusedInput("stream", f"a JPEG picture of {size[0]} x {size[1]} px does not go into RTP (RFC 2435)")
    at += 2 + struct.unpack_from(">H", picture, at + 2)[0]
    end = len(picture) - 2 if picture.endswith(b"\xff\xd9") else len(picture)
    scan = picture[at:end]
    # A receiver takes one table for light and one for colour, also where they are the same.
    quantisers = tables[0] + tables.get(1, tables[0])
    payloads, done = [], 0
    while done < len(scan):
        head = struct.pack(">B3sBBBB", 0, done.to_bytes(3, "big"), 1, 255, (size[0] + 7) // 8, (size[1] + 7) // 8)
        if done == 0:
            head += struct.pack(">BBH", 0, 0, len(quantisers)) + quantisers
        part = scan[done : done + MOST_PAYLOAD - len(head)]
        payloads.append(head + part)
        done += len(part)
    return payloads


def description(made: Cut, address: str, name: str, path: str) -> str:
    """The stream's session description (SDP, RFC 8866)."""
    loop, number = made.loop, made.payload_type
    lines = [
        "v=0",
        f"o=- 1 1 IN IP4 {address}",
        f"s={name}",
        f"c=IN IP4 {address}",
        "t=0 0",
        "a=control:*",
        "a=range:npt=now-",
        f"m=video 0 RTP/AVP {number}",
        f"a=framerate:{loop.fps:g}",
    ]
    sets = [base64.b64encode(unit).decode() for unit in loop.parameter_sets]
    if loop.codec == "h264":
        profile = loop.parameter_sets[0][1:4].hex()
        lines += [
            f"a=rtpmap:{number} H264/{CLOCK_HZ}",
            f"a=fmtp:{number} packetization-mode=1;profile-level-id={profile};sprop-parameter-sets={','.join(sets)}",
        ]
    elif loop.codec == "h265":
        named = ";".join(f"sprop-{what}={unit}" for what, unit in zip(("vps", "sps", "pps"), sets, strict=False))
        lines += [f"a=rtpmap:{number} H265/{CLOCK_HZ}", f"a=fmtp:{number} {named}"]
    else:
        lines.append(f"a=rtpmap:{number} JPEG/{CLOCK_HZ}")
    lines.append(f"a=control:{path}/track1")
    return "\r\n".join(lines) + "\r\n"


def sender_report(ssrc: int, ntp: tuple[int, int], stamp: int, packets: int, octets: int) -> bytes:
    """A sender report with the source's name behind it (RFC 3550, 6.4.1 and 6.5)."""
    report = struct.pack(
        ">BBHIIIIII", 0x80, 200, 6, ssrc, *ntp, stamp & 0xFFFFFFFF, packets & 0xFFFFFFFF, octets & 0xFFFFFFFF
    )
    name = b"stand-in"
    items = struct.pack(">IBB", ssrc, 1, len(name)) + name + b"\x00"
    items += b"\x00" * (-len(items) % 4)
    return report + struct.pack(">BBH", 0x81, 202, len(items) // 4) + items
