"""A client of the open protocol that others wrote, as a process: reads devices as ``HOST:PORT`` and prints what they told."""

import asyncio
import json
import logging
import resource
import sys
import time

logging.disable(logging.CRITICAL)
begun_s = time.monotonic()
from onvif import ONVIFCamera  # noqa: E402


async def read(place: str, user: str, password: str) -> dict[str, object]:
    host, port = place.split(":")
    camera = ONVIFCamera(host, int(port), user, password)
    try:
        await camera.update_xaddrs()
        device = await camera.create_devicemgmt_service()
        information = await device.GetDeviceInformation()
        moment = (await device.GetSystemDateAndTime()).UTCDateTime
        found = {
            "make": information.Manufacturer,
            "serial": information.SerialNumber,
            "firmware": information.FirmwareVersion,
            "hour": moment.Time.Hour,
            "mac": [one.Info.HwAddress for one in await device.GetNetworkInterfaces()],
            "profiles": [],
        }
        if "http://www.onvif.org/ver10/media/wsdl" in camera.xaddrs:
            media = await camera.create_media_service()
            for profile in await media.GetProfiles():
                encoder = profile.VideoEncoderConfiguration
                setup = {"Stream": "RTP-Unicast", "Transport": {"Protocol": "RTSP"}}
                uri = await media.GetStreamUri({"StreamSetup": setup, "ProfileToken": profile.token})
                found["profiles"].append(
                    {
                        "width": encoder.Resolution.Width,
                        "height": encoder.Resolution.Height,
                        "fps": encoder.RateControl.FrameRateLimit,
                        "kbps": encoder.RateControl.BitrateLimit,
                        "uri": uri.Uri,
                    }
                )
        if "http://www.onvif.org/ver10/recording/wsdl" in camera.xaddrs:
            recording = await camera.create_recording_service()
            found["recordings"] = [one.Configuration.Source.Name for one in await recording.GetRecordings()]
        return found
    finally:
        await camera.close()


async def main() -> None:
    user, password, *places = sys.argv[1:]
    turns = asyncio.Semaphore(40)

    async def one(place: str) -> tuple[str, object]:
        async with turns:
            try:
                return place, await read(place, user, password)
            except Exception as error:  # noqa: BLE001  (what went wrong is what the test wants to see)
                return place, f"{type(error).__name__}: {error}"

    found = dict(await asyncio.gather(*map(one, places)))
    memory_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
    print(json.dumps({"found": found, "seconds": time.monotonic() - begun_s, "memory_mb": memory_mb}))


asyncio.run(main())
