// A whole figure: its panels, its key, what moves it, and how it is taken away.
class FigureView {
  constructor(root, figure, { sharedKey = false, heading = "h2" } = {}) {
    this.figure = unpack(figure);
    this.root = root;
    this.panels = figure.panels.map((panel, k) => new PanelView(panel, k));
    const title = document.createElement(heading);
    title.textContent = figure.title;
    this.grid = document.createElement("div");
    this.grid.className = figure.panels.some((panel) => panel.title) ? "panels" : "panels single";
    this.panels.forEach((view) => this.grid.append(view.element));
    const caption = document.createElement("p");
    caption.className = "caption";
    caption.textContent = figure.caption;
    root.append(title);
    this.tools(sharedKey);
    root.append(this.grid, caption);
    if (figure.frames.length > 1) {
      this.player = new Player(figure.frames, figure.seconds, (frame, stays) => this.show(frame, stays));
      this.grid.after(this.player.element);
      this.panels.forEach((view) => (view.frame = this.player.frame));
    }
    this.arrange();
  }

  // What the key names: series, or the labels of layers that belong to none.
  series() {
    const found = new Map();
    for (const { layers, end_labels } of this.figure.panels)
      for (const layer of layers) {
        if (layer.label && !layer.series) layer.series = layer.label;
        if (layer.series && !found.has(layer.series)) found.set(layer.series, layer);
      }
    return [...found].map(([name, { color, dash, marker }]) => ({ name, color: color ?? "#4a433b", dash, marker }));
  }

  tools(sharedKey) {
    const bar = document.createElement("div");
    bar.className = "tools";
    const series = this.series();
    if (!sharedKey && series.length) {
      this.key = new Key(series, (hidden) => this.hide(hidden));
      bar.append(this.key.element);
    }
    const actions = document.createElement("div");
    actions.className = "actions";
    if (this.panels.some(({ panel }) => panel.layers.some((layer) => layer.kind === "surface")))
      actions.append(button("see through", "make the surface see-through or solid", () => this.seeThrough()));
    actions.append(button("show all", "show all of every panel", () => this.panels.forEach((view) => view.drawn && view.reset())),
      button("PNG", "save as PNG", () => this.save("png")), button("SVG", "save as SVG", () => this.save("svg")));
    bar.append(actions);
    this.root.append(bar);
  }

  // As many columns as the figure asks for, where the page is wide enough for them.
  arrange() {
    const { figure } = this, wide = this.root.clientWidth >= 700;
    const below = figure.last_panel_below ? 1 : 0, beside = figure.panels.length - below;
    const columns = !wide || figure.arrangement === "stacked" ? 1 : Math.min(figure.columns || beside, beside);
    const widths = figure.panels.slice(0, columns).map((panel) => `minmax(0, ${panel.width}fr)`);
    this.grid.style.gridTemplateColumns = columns > 1 ? widths.join(" ") : "minmax(0, 1fr)";
    if (below) this.panels.at(-1).element.style.gridColumn = "1 / -1";
    const rows = Math.ceil(beside / columns) + below;
    const height = wide ? Math.max(220, Math.round(600 / rows) - 28) : 300;
    for (const { plot } of this.panels) plot.style.height = `${height}px`;
  }

  async draw() {
    this.drawn = true;
    for (const view of this.panels) await view.draw();
    this.root.dataset.drawn = "yes";
  }

  async redraw() {
    this.arrange();
    for (const view of this.panels) await view.draw();
  }

  // What is hidden before it is drawn.
  take(hidden) {
    if (!hidden || this.hiddenNow === hidden) return;
    this.hiddenNow = hidden;
    for (const view of this.panels) view.hidden = hidden;
  }

  hideAtOnce(hidden) {
    for (const view of this.panels) view.hideAtOnce(hidden);
  }

  hide(hidden) {
    this.hiddenNow = hidden;
    return Promise.all(this.panels.map((view) => view.hide(hidden)));
  }

  show(frame, stays) {
    return Promise.all(this.panels.map((view) => (stays ? view.settle(frame) : view.pass(frame))));
  }

  seeThrough() {
    this.isThin = !this.isThin;
    for (const { plot, traces } of this.panels)
      traces?.forEach((trace, k) => trace.isSurface && Plotly.restyle(plot, { opacity: this.isThin ? 0.45 : 1 }, [k]));
  }

  // All panels as they are now in one picture.
  async save(form) {
    const frame = this.grid.getBoundingClientRect(), colors = theme(), parts = [];
    for (const { plot, element, panel } of this.panels) {
      const at = plot.getBoundingClientRect();
      const source = await Plotly.toImage(plot, { format: "svg", width: plot.clientWidth, height: plot.clientHeight });
      parts.push(`<image x="${at.left - frame.left}" y="${at.top - frame.top + 40}" width="${at.width}" height="${at.height}" href="${source.replaceAll("&", "&amp;").replaceAll('"', "&quot;")}"/>`);
      parts.push(`<text x="${at.left - frame.left + 4}" y="${at.top - frame.top + 34}" font-size="14">${plain(panel.title)}</text>`);
    }
    const width = Math.ceil(frame.width), height = Math.ceil(frame.height + 70);
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" font-family="DejaVu Sans, sans-serif" fill="${colors.text}">` +
      `<rect width="100%" height="100%" fill="${colors.ground}"/><text x="4" y="20" font-size="16">${plain(this.figure.title)}</text>${parts.join("")}` +
      `<text x="4" y="${height - 8}" font-size="10">${plain(this.figure.caption)}</text></svg>`;
    const name = this.figure.title.replace(/[^A-Za-z0-9]+/g, "-").toLowerCase();
    if (form === "svg") return offer(new Blob([svg], { type: "image/svg+xml" }), `${name}.svg`);
    const image = new Image();
    image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
    await image.decode();
    const canvas = document.createElement("canvas");
    Object.assign(canvas, { width: 2 * width, height: 2 * height });
    canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
    canvas.toBlob((blob) => offer(blob, `${name}.png`));
  }
}

function offer(blob, name) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

// The first act comes at once, the second when the page has rested.
function afterResizing(begins, act) {
  let waiting;
  window.addEventListener("resize", () => {
    begins();
    clearTimeout(waiting);
    waiting = setTimeout(act, 120);
  });
  wantsDark.addEventListener("change", act);
  for (const [event, onPaper] of [["beforeprint", true], ["afterprint", false]])
    window.addEventListener(event, () => {
      isOnPaper = onPaper;
      act();
    });
}
