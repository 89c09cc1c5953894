"""Another client that others wrote, one without the schemas: reads devices and prints what they told."""

import json
import sys

from onveef import OnvifClient

user, password, *hosts = sys.argv[1:]
found = {}
for host in hosts:
    with OnvifClient(host, 80, user, password) as camera:
        profiles = camera.get_profiles()
        events = camera.events_get_event_properties()
        found[host] = {
            "information": camera.get_device_information(),
            "profiles": profiles,
            "uri": camera.get_stream_uri(profile_token=profiles[0]["token"]),
            "users": camera.get_users(),
            "rules": camera.analytics_get_rules(configuration_token="analytics"),
            "events": str(events)[:200],
        }
print(json.dumps(found, default=str))
