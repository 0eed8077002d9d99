#!/usr/bin/env bash
# Fails where a room includes one below it, or something that its row of the design does not allow.
set -euo pipefail
cd "$(dirname "$0")/.."

rooms=(base numeric expression problem testbed search methods analysis external files campaign figure cli)
core_rooms=8 # the first ones: no I/O, no threads, no interface code
wrong=0

for ((i = 0; i < ${#rooms[@]}; ++i)); do
  room=${rooms[i]}
  for ((j = i + 1; j < ${#rooms[@]}; ++j)); do
    if grep -rn "#include [<\"]tanzen/${rooms[j]}/" "include/tanzen/$room" "src/$room"; then
      echo "  the room $room may not include the room ${rooms[j]}, which is below it" >&2
      wrong=1
    fi
  done
  if ((i < core_rooms)) && grep -rnE '#include <(nlohmann|CLI|sqlite|spdlog|toml|iostream|fstream|cstdio|thread|filesystem)' "include/tanzen/$room" "src/$room"; then
    echo "  the room $room belongs to the core and may not include that" >&2
    wrong=1
  fi
done
exit $wrong
