// What a report adds: a choice of problems and methods for all tables and figures at once, tables to sort, runs to look at.
function cellNumber(text) {
  const fraction = text.match(/^(\d+)\/(\d+)$/);
  if (fraction) return fraction[1] / fraction[2];
  const number = parseFloat(text);
  return Number.isNaN(number) ? (text === "first" ? -Infinity : NaN) : number;
}

// Numbers before words, words by their letters.
function compareCells(a, b) {
  const x = cellNumber(a), y = cellNumber(b);
  if (Number.isNaN(x) || Number.isNaN(y)) return Number.isNaN(x) - Number.isNaN(y) || a.localeCompare(b);
  return x - y;
}

function makeSortable(table) {
  const headings = [...table.tHead.rows[0].cells];
  headings.forEach((heading, column) => {
    const by = button(heading.textContent, `sort by ${heading.textContent}`, () => {
      const rising = heading.getAttribute("aria-sort") !== "ascending";
      headings.forEach((each) => each.removeAttribute("aria-sort"));
      heading.setAttribute("aria-sort", rising ? "ascending" : "descending");
      const rows = [...table.tBodies[0].rows];
      rows.sort((a, b) => (rising ? 1 : -1) * compareCells(a.cells[column].textContent, b.cells[column].textContent));
      table.tBodies[0].append(...rows);
    });
    heading.replaceChildren(by);
  });
}

class Choice {
  constructor({ methods, groups, runs }) {
    this.groups = groups;
    this.hidden = new Set();
    const bar = document.getElementById("choice");
    if (groups.length > 1) {
      this.group = document.createElement("select");
      this.group.id = "group";
      for (const { name } of groups) this.group.append(new Option(name, name));
      this.problem = document.createElement("select");
      this.problem.id = "problem";
      this.problem.append(new Option("each of them", ""), ...groups[0].problems.map((label) => new Option(label, label)));
      this.group.addEventListener("change", () => this.choose());
      this.problem.addEventListener("change", () => this.choose());
      bar.append(labelled("problems", this.group), labelled("table rows of", this.problem));
    }
    if (methods.length > 1) {
      this.key = new Key(methods, (hidden) => this.hide(hidden));
      bar.append(this.key.element);
    }
    bar.hidden = !bar.childElementCount;
    if (runs.length) this.runs(runs);
  }

  get groupName() {
    return this.group ? this.group.value : this.groups[0]?.name ?? "";
  }

  shows(root) {
    return !root.dataset.group || root.dataset.group === this.groupName;
  }

  choose() {
    for (const root of document.querySelectorAll("[data-figure]")) root.hidden = !this.shows(root);
    this.filter();
    drawAll();
  }

  filter() {
    const problems = new Set(this.groups.find(({ name }) => name === this.groupName)?.problems), one = this.problem?.value;
    for (const row of document.querySelectorAll("tbody tr")) {
      const { problem, method } = row.dataset;
      row.hidden = (problem && this.group && (!problems.has(problem) || (one && problem !== one))) || this.hidden.has(method);
    }
    for (const table of document.querySelectorAll("table"))
      table.closest(".wide").hidden = [...table.tBodies[0].rows].every((row) => row.hidden);
  }

  // All figures switch at once; the library draws them so when the page has time.
  async hide(hidden) {
    this.hidden = hidden;
    this.filter();
    const views = figureViews.filter((view) => view.drawn);
    for (const view of views) view.hideAtOnce(hidden);
    document.documentElement.dataset.switched = [...hidden].join(" ");
    for (const view of views) {
      await new Promise((go) => setTimeout(go));
      if (this.hidden !== hidden) return; // something else was chosen meanwhile
      await view.hide(hidden);
      if (this.hidden === hidden) view.hideAtOnce(hidden);
    }
    document.documentElement.dataset.allSwitched = [...hidden].join(" ");
  }

  // A run on demand: how its gap fell.
  runs(all) {
    const section = document.createElement("section");
    section.innerHTML = "<h2>Single runs</h2>";
    const which = document.createElement("select");
    which.id = "run";
    which.append(new Option("choose a run", ""));
    all.forEach((run, k) => which.append(new Option(`${run.problem}: ${run.about}`, k)));
    const root = document.createElement("section");
    root.className = "figure";
    which.addEventListener("change", () => {
      root.replaceChildren();
      root.hidden = which.value === "";
      const run = all[Number(which.value)];
      if (root.hidden) return;
      const axis = { tics: [], names: [], hidden: false, whole_numbers: false, logarithmic: true };
      const view = place(new FigureView(root, {
        title: `${run.method} on ${run.problem}`, caption: run.about, arrangement: "side by side", columns: 0, last_panel_below: false, frames: [], seconds: 0,
        panels: [{ title: "gap against cost", x: { ...axis, label: "cost" }, y: { ...axis, label: "gap" }, width: 1, end_labels: [], in_space: false,
          layers: [{ kind: "line", x: run.cost, y: run.gap.map((gap) => (gap > 0 ? gap : null)), color: "#1d4f91", width: 2, dash: 1, cased: false, label: "", series: "" }] }],
      }, { sharedKey: true, heading: "h3" }));
      view.draw();
    });
    section.append(labelled("run", which), root);
    document.querySelector("main").lastElementChild.before(section);
  }
}

function labelled(text, control) {
  const label = document.createElement("label");
  label.append(`${text} `, control);
  return label;
}
