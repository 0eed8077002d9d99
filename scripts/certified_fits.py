#!/usr/bin/env python3
"""Certifies the fits of the testbed in long arithmetic, and writes src/testbed/certified_fits.cpp.

Reads every problem file in data/fits with its table (scripts/fits.sh writes them), goes by Gauss and Newton's method from
the start to the least sum of squares, damped where steps do not fall, in arithmetic of 60 digits in the end, and prints sums, residual
standard deviations, parameters and standard errors to 17 digits. Models are read by Python itself and slopes are central
differences with a step of a third of the digits: nothing here is shared with what it certifies. Needs python3-mpmath.
"""

import csv
import pathlib
import re
import tomllib

import mpmath

DIGITS = 60
mpmath.mp.dps = DIGITS
FUNCTIONS = {name: getattr(mpmath, name) for name in ("exp", "log", "sqrt", "sin", "cos", "tanh", "atan")}
ROOT = pathlib.Path(__file__).resolve().parent.parent


class Fit:
    def __init__(self, path):
        problem = tomllib.loads(path.read_text(encoding="utf-8"))
        self.name = problem["problem"]["name"]
        self.parameters = list(problem["variables"])
        self.start = [mpmath.mpf(str(each["start"])) for each in problem["variables"].values()]
        left, right = problem["fit"]["model"].split("=")
        self.observed = left.strip()
        self.model = compile(right.strip().replace("^", "**"), self.name, "eval")
        with open(path.parent / problem["fit"]["data"], newline="", encoding="utf-8") as file:
            self.rows = [{key: mpmath.mpf(cell) for key, cell in row.items()} for row in csv.DictReader(file)]

    def residuals(self, point):
        names = dict(FUNCTIONS, **dict(zip(self.parameters, point)))
        found = []
        for row in self.rows:
            value = eval(self.model, {"__builtins__": {}}, {**names, **row})
            if isinstance(value, mpmath.mpc):
                raise ValueError("outside the domain")
            found.append(row[self.observed] - value)
        return mpmath.matrix(found)

    def jacobian(self, point):
        columns = []
        for k, value in enumerate(point):
            step = mpmath.mpf(10) ** (-mpmath.mp.dps // 3) * (abs(value) if value != 0 else 1)
            up, down = list(point), list(point)
            up[k] += step
            down[k] -= step
            columns.append((self.residuals(up) - self.residuals(down)) / (2 * step))
        return mpmath.matrix([[column[i] for column in columns] for i in range(len(self.rows))])

    def sum_at(self, point):
        try:
            return sum(r * r for r in self.residuals(point))
        except (ValueError, ZeroDivisionError, OverflowError):
            return mpmath.inf

    def refined(self, point, digits, settled):
        """Damped steps of Gauss and Newton in so many digits until they are shorter than `settled`."""
        mpmath.mp.dps = digits
        lowest, damping = self.sum_at(point), mpmath.mpf("1e-3")
        for _ in range(1000):
            slopes, residuals = self.jacobian(point), self.residuals(point)
            square, slope = slopes.T * slopes, -(slopes.T * residuals)
            while True:
                damped = square.copy()
                for k in range(len(point)):
                    damped[k, k] *= 1 + damping
                step = mpmath.lu_solve(damped, slope)
                trial = [point[k] + step[k] for k in range(len(point))]
                size = max(abs(step[k]) / (abs(point[k]) + mpmath.mpf(10) ** -30) for k in range(len(point)))
                value = self.sum_at(trial)
                if value < lowest or size < settled:
                    break
                damping *= 10
            point, lowest, damping = trial, min(value, lowest), damping / 10
            if size < settled:
                return point
        raise ArithmeticError(f"{self.name} does not settle")

    def least(self):
        """The least point: first in few digits, from the start, then in all."""
        rough = self.refined(list(self.start), 30, mpmath.mpf("1e-12"))
        point = self.refined(rough, DIGITS, mpmath.mpf("1e-22"))
        return point, self.sum_at(point)


def written(number):
    return mpmath.nstr(number, 17, strip_zeros=True)


def certified(fit):
    point, lowest = fit.least()
    degrees = len(fit.rows) - len(point)
    slopes = fit.jacobian(point)
    covariance = (slopes.T * slopes) ** -1 * (lowest / degrees)
    errors = [mpmath.sqrt(covariance[k, k]) for k in range(len(point))]
    lists = ["Vector{{" + ", ".join(map(written, each)) + "}}" for each in (point, errors)]
    return f'      {{"{fit.name}", {written(lowest)}, {written(mpmath.sqrt(lowest / degrees))}, {lists[0]},\n       {lists[1]}}},\n'


def main():
    target = ROOT / "src/testbed/certified_fits.cpp"
    rows = []
    for path in sorted((ROOT / "data/fits").glob("*.toml")):
        rows.append(certified(Fit(path)))
        print(path.stem, flush=True)
    table = "fits = {\n" + "".join(rows) + "  };\n  return fits;"
    text = re.sub(r"fits = \{.*?\};\n  return fits;", lambda _: table, target.read_text(encoding="utf-8"), flags=re.S)
    target.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
