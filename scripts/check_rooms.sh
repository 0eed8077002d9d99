#!/usr/bin/env bash
# Fails where a room includes one that its line does not allow, or the core something that does I/O.
set -euo pipefail
cd "$(dirname "$0")/.."

# A line a room: the rooms that it may include. Nothing goes in a circle: each names only rooms that stand above it.
allowed='
base:
numeric:     base
statistics:  numeric
expression:  base numeric
interval:    numeric expression
problem:     base numeric expression
testbed:     base numeric statistics expression problem
search:      base numeric statistics problem
methods:     base numeric statistics expression interval problem search
analysis:    base numeric statistics expression interval problem testbed search
external:    base numeric problem
study:       base numeric statistics problem testbed search methods
files:       base numeric problem testbed search analysis external study
results:     base numeric statistics problem search study files
comparison:  base statistics results
figure:      base numeric statistics problem search analysis external study files results comparison
report:      base search analysis files results comparison figure
cli:         base numeric statistics expression problem testbed search methods analysis external study files results comparison figure report
'
core='base numeric statistics expression interval problem testbed search methods analysis'
wrong=0
above=''

while IFS=: read -r room may; do
  [ -n "$room" ] || continue
  for other in $may; do
    [[ " $above " == *" $other "* ]] || { echo "  the line of $room names $other, which does not stand above it" >&2; wrong=1; }
  done
  above+=" $room"
  while IFS= read -r line; do
    other=$(sed -E 's/.*#include [<"]tanzen\/([a-z]+)\/.*/\1/' <<<"$line")
    if [ "$other" != "$room" ] && [[ " $may " != *" $other "* ]]; then
      echo "$line"
      echo "  the room $room may not include the room $other: its line in this script does not allow it" >&2
      wrong=1
    fi
  done < <(grep -rnE '#include [<"]tanzen/[a-z]+/' "include/tanzen/$room" "src/$room" || true)
  if [[ " $core " == *" $room "* ]] && grep -rnE '#include <(nlohmann|CLI|sqlite|spdlog|toml|iostream|fstream|cstdio|thread|filesystem|tbb)' "include/tanzen/$room" "src/$room"; then
    echo "  the room $room belongs to the core and may not include that" >&2
    wrong=1
  fi
done <<<"$allowed"

for folder in include/tanzen/*/ src/*/; do
  room=$(basename "$folder")
  [[ " $above " == *" $room "* ]] || { echo "  the folder $folder is no room of the list" >&2; wrong=1; }
done
# Two types of one name in headers are two definitions of one thing to the linker, which takes either.
twice=$(grep -rhoE '^(class|struct) [A-Za-z]+( final)?( : [^{]*)? \{' include src --include=*.hpp | sed -E 's/^(class|struct) ([A-Za-z]+).*/\2/' | sort | uniq -d)
if [[ -n "$twice" ]]; then
  echo "  defined in two headers: $(echo $twice)" >&2
  wrong=1
fi
exit $wrong
