#!/usr/bin/env python3
"""A firing of the studio's kiln, simulated: an objective that Tanzen asks by lines of JSON.

Each request is one line, {"id": 7, "point": [ramp, soak]}, each answer one line, {"id": 7, "value": cost}.
The ramp is in degrees a minute, the soak in minutes at the top.
"""

import json
import math
import sys

ROOM, TOP = 20.0, 1240.0  # degrees
STEP = 1.0  # minutes


def cost_of_firing(ramp, soak):
    """Energy of the firing, and what the glaze loses by too little heat work or too quick a rise; None if it cracks."""
    if ramp <= 0 or soak < 0:
        return None
    if ramp > 9:
        return None  # the pots crack: there is no glaze to judge
    temperature, minutes, energy, heat_work = ROOM, 0.0, 0.0, 0.0
    end = (TOP - ROOM) / ramp + soak
    while minutes < end:
        temperature = min(TOP, ROOM + ramp * minutes)
        energy += STEP * (0.4 * ramp * (temperature < TOP) + 0.002 * (temperature - ROOM))
        heat_work += STEP * math.exp((temperature - TOP) / 60.0)
        minutes += STEP
    return 0.02 * energy + 0.02 * (heat_work - 45.0) ** 2 + 0.3 * max(0.0, ramp - 4.0) ** 2


def main():
    for line in sys.stdin:
        request = json.loads(line)
        try:
            answer = {"id": request["id"], "value": cost_of_firing(*request["point"])}
        except Exception as error:  # told, not fatal: the run counts it and goes on
            answer = {"id": request["id"], "error": str(error)}
        print(json.dumps(answer), flush=True)


if __name__ == "__main__":
    main()
