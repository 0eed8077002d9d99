"""An objective that fails on purpose: the first argument says how. Which points fail is decided by the points."""

import json
import os
import signal
import subprocess
import sys
import time
import zlib

mode = sys.argv[1]

if mode == "ends-at-once":
    sys.exit("the burner does not light")
if mode == "never-reads":
    time.sleep(1000)
if mode == "leaves-a-child":
    subprocess.Popen(["sleep", "1000"])

count = 0
for line in sys.stdin:
    request = json.loads(line)
    count += 1
    value = sum(x * x for x in request["point"])
    what = zlib.crc32(repr(request["point"]).encode()) % 100
    fails = what < 20
    if mode == "killed" and fails:
        os.kill(os.getpid(), signal.SIGKILL)
    if mode == "exits" and fails:
        print("out of gas", file=sys.stderr)
        sys.exit(3)
    if mode == "hangs" and fails:
        time.sleep(1000)
    if mode == "garbage" and fails:
        print(["", "{", "boom", '{"id": 1}', "[1, 2]", '{"id": "a", "value": 3}', "\x00\x7f"][what % 7], flush=True)
        continue
    if mode == "endless" and fails:
        sys.stdout.write("x" * 3_000_000)
        sys.stdout.flush()
    if mode == "nan" and fails:
        value = float("nan")
    if mode == "error" and fails:
        print(json.dumps({"id": request["id"], "error": "the shelf fell"}), flush=True)
        continue
    if mode == "late":
        print(json.dumps({"id": request["id"] - 1, "value": -1e9}), flush=True)
    if mode == "chatty":
        print("x" * 200_000, file=sys.stderr, flush=True)
    if mode == "mixed":
        if what < 5:
            os.kill(os.getpid(), signal.SIGKILL)
        if what < 10:
            time.sleep(1000)
        if what < 20:
            print("???", flush=True)
            continue
    print(json.dumps({"id": request["id"], "value": value}), flush=True)
