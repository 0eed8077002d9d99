#!/usr/bin/env bash
# Draws the pictures of docs/screenshots anew, with the program of the release build.
set -euo pipefail
cd "$(dirname "$0")/.."

tanzen() { build/release/tanzen "$@" >/dev/null || [ $? -eq 1 ]; } # a run that does not converge has its picture too
shots=docs/screenshots

tanzen solve --formula "sin(3*x) + 0.1*x^2" --region -5:5 --with gradient-descent:step=0.02 --from 4.7 --figure $shots/solve-one-variable.png
tanzen solve rosenbrock --with gradient-descent:rule=backtracking --iterations 200 --figure $shots/solve-two-variables.png
tanzen figure landscape eggholder --output $shots/landscape.png
tanzen figure paths rosenbrock --with bfgs --with nelder-mead --from -1.8,2.2 --surface --output $shots/surface.png
tanzen sweep --formula "2*(draft - 1)^2 + draft*gas + 0.7*(gas + 2)^2" --with gradient-descent --from 6,-9 --vary step=0.467,0.46,0.37,0.01 --iterations 40 --figure $shots/sweep-step.png
tanzen sweep rosenbrock --with nadam --vary step=1e-3..1e0:25 --vary first=0.5..0.99:25 --evaluations 2000 --figure $shots/sweep-map.png
tanzen sweep himmelblau --with newton --vary start=grid:300x200 --figure $shots/basins.png
tanzen figure paths rosenbrock --with gradient-descent:rule=exact --with nadam:step=0.05 --with bfgs --with newton --from -1.2,1 --evaluations 300 --output $shots/paths.png
tanzen solve examples/glaze-firing.toml --evaluations 4000 --figure $shots/front.png
tanzen figure boxes goldstein-price --output $shots/boxes.png
tanzen solve examples/round-kiln.toml --with sequential-quadratic --from 1.3,0.6 --quiet --figure $shots/constraints.png
tanzen stationary examples/rim.toml --figure $shots/stationary.png
tanzen fit examples/cooling.csv --model "celsius = room + (peak - room)*exp(-rate*minutes)" --from room=20,peak=1000,rate=0.01 --figure $shots/fit.png
tanzen figure population rastrigin --with differential-evolution --at 1,5,15,30,45,60 --output $shots/population.png
tanzen figure ends eggholder --with nelder-mead --with quadratic-model --with cma-es --with differential-evolution --with basin-hopping --evaluations 5000 --output $shots/ends.png

# Finished runs: the campaign of the demo.
demo=$(mktemp -d)
trap 'rm -rf "$demo"' EXIT
tanzen demo --folder "$demo"
families=$demo/5-families.results.sqlite
tanzen figure bands "$families" --only multimodal --output $shots/bands.png
tanzen figure runtimes "$families" --output $shots/runtimes.png
tanzen figure ranks "$families" --only multimodal --output $shots/ranks.png
node scripts/page_shot.mjs "$demo/5-families.report.html" $shots/report.png "The figures"
