#!/bin/sh
# A wire with a laptop at one end and a camera at the other, in network namespaces that end with this script:
# two_ends.sh ADDRESS MAC PORT PYTHON CAMERA-SCRIPT USER PASSWORD -- COMMAND...; the command runs as the laptop.
set -eu
address=$1 mac=$2 port=$3 python=$4 script=$5 user=$6 password=$7
shift 8
ip link set lo up
ip link add lan0 address 02:1a:97:00:00:01 type veth peer name eth0 address "$mac"
unshare --net sleep 300 &
camera=$!
trap 'kill "$camera" 2>/dev/null || true; kill "${serving:-$camera}" 2>/dev/null || true' EXIT
while [ "$(readlink /proc/$camera/ns/net)" = "$(readlink /proc/self/ns/net)" ]; do sleep 0.05; done
ip link set eth0 netns "$camera"
ip addr add 172.22.40.9/24 dev lan0
ip link set lan0 up
ip route add 224.0.0.0/4 dev lan0
nsenter --net --target "$camera" sh -c "ip link set lo up; ip addr add $address/24 dev eth0; ip link set eth0 up; ip route add 224.0.0.0/4 dev eth0; exec '$python' '$script' '$address' '$user' '$password'" >&2 &
serving=$!
for _ in $(seq 300); do
    "$python" -c "import socket; socket.create_connection(('$address', $port), 1)" 2>/dev/null && break
    sleep 0.1
done
"$@"
