// The key: a switch for each series; a second click soon after shows that one alone, and once more all again.
// What a series looks like: a line in its dashes, or its mark.
function sampleOf(color, dash, marker) {
  const sample = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  sample.setAttribute("class", "sample");
  sample.setAttribute("viewBox", "0 0 24 12");
  const ink = color === "#ffffff" ? themes.light.axis : inkOn(color, false);
  const shapes = {
    dot: `<circle cx="12" cy="6" r="4" fill="${ink}"/>`,
    ring: `<circle cx="12" cy="6" r="4" fill="none" stroke="${ink}" stroke-width="2"/>`,
    diamond: `<path d="M12 0l6 6-6 6-6-6z" fill="${ink}"/>`,
    cross: `<path d="M8 2l8 8M8 10l8-8" stroke="${ink}" stroke-width="2"/>`,
  };
  const pattern = ["", "7 4", "2 4", "7 3 2 3", "11 5", "11 3 2 3"][((dash ?? 1) - 1) % 6];
  sample.innerHTML = shapes[marker] ?? `<path d="M0 6h24" stroke="${ink}" stroke-width="2.5" stroke-dasharray="${pattern}"/>`;
  return sample;
}

class Key {
  constructor(series, change) {
    this.hidden = new Set();
    this.change = change;
    this.element = document.createElement("div");
    this.element.className = "key";
    this.element.setAttribute("role", "group");
    this.element.setAttribute("aria-label", "shown");
    this.switches = series.map(({ name, color, dash, marker }) => {
      const made = document.createElement("button");
      made.type = "button";
      made.setAttribute("aria-pressed", "true");
      made.append(sampleOf(color, dash, marker), name);
      made.title = `${name}: click to switch it off or on, double click to see it alone`;
      made.addEventListener("click", () => this.flip(name));
      made.addEventListener("dblclick", () => this.isolate(name));
      this.element.append(made);
      return { name, made };
    });
  }

  flip(name) {
    if (!this.hidden.delete(name)) this.hidden.add(name);
    this.tell();
  }

  isolate(name) {
    const others = this.switches.map((each) => each.name).filter((each) => each !== name);
    const isAlone = this.alone === name;
    this.alone = isAlone ? undefined : name;
    this.hidden = new Set(isAlone ? [] : others);
    this.tell();
  }

  tell() {
    for (const { name, made } of this.switches) made.setAttribute("aria-pressed", String(!this.hidden.has(name)));
    this.change(new Set(this.hidden));
  }
}
