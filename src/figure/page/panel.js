// One pair of axes with what is drawn on it.
function axisOf(axis, length) {
  const colors = theme();
  const made = {
    title: { text: plain(axis.label), standoff: 6 }, type: axis.logarithmic ? "log" : "linear", zeroline: false, ticks: "outside",
    ticklen: 4, linecolor: colors.axis, tickcolor: colors.axis, showline: true, gridcolor: colors.grid, color: colors.text,
    exponentformat: "power", automargin: true, nticks: Math.max(3, Math.round(length / 75)),
  };
  if (axis.range) made.range = axis.logarithmic ? axis.range.map((end) => Math.log10(end)) : axis.range;
  if (axis.logarithmic) made.dtick = decadesApart(axis, length);
  if (axis.whole_numbers && axis.range && axis.range[1] - axis.range[0] < 10) made.dtick = 1;
  if (axis.tics.length) Object.assign(made, { tickvals: axis.tics, ticktext: axis.tics.map(shortNumber) });
  if (axis.names.length) Object.assign(made, { tickvals: axis.names.map((_, k) => k + 1), ticktext: axis.names.map(plain), showgrid: false });
  if (axis.hidden) Object.assign(made, { visible: false });
  return made;
}

// Whole decades between the tics, as many as leave room for their names; the library's choice where there is no range.
function decadesApart(axis, length) {
  return axis.range ? Math.max(1, Math.ceil((32 * Math.log10(axis.range[1] / axis.range[0])) / length)) : undefined;
}

class PanelView {
  constructor(panel, index) {
    this.panel = panel;
    this.hidden = new Set();
    this.frame = 0;
    this.element = document.createElement("div");
    this.element.className = "panel";
    const title = document.createElement("h3");
    title.textContent = panel.title;
    this.plot = document.createElement("div");
    this.plot.className = "plot";
    this.plot.tabIndex = 0;
    this.plot.setAttribute("role", "img");
    this.plot.setAttribute("aria-label", this.description(index));
    this.readout = document.createElement("p");
    this.readout.className = "readout";
    this.element.append(title);
    this.element.append(this.plot, this.readout);
    this.canvas = document.createElement("canvas");
    this.canvas.className = "moving";
    this.plot.addEventListener("keydown", (event) => this.key(event));
  }

  description(index) {
    const { x, y } = this.panel;
    const axes = [x.label, y.label].filter(Boolean).join(" and ");
    return `${this.panel.title || `panel ${index + 1}`}${axes ? `: ${axes}` : ""}. Plus and minus zoom, arrows move, 0 shows all.`;
  }

  get moves() {
    return this.panel.layers.some((layer) => layer.shown);
  }

  layout() {
    const colors = theme(), { panel } = this;
    const width = this.plot.clientWidth || 600, height = this.plot.clientHeight || 400;
    const layout = {
      width, height, margin: { l: 54, r: this.rightMargin(), t: 8, b: 44 }, paper_bgcolor: "rgba(0,0,0,0)", plot_bgcolor: "rgba(0,0,0,0)",
      font: { family: "'DejaVu Sans', Verdana, sans-serif", size: 12, color: colors.text }, showlegend: false, hovermode: "closest",
      hoverlabel: { bgcolor: colors.ground, bordercolor: colors.axis, font: { color: colors.text } }, dragmode: "zoom",
      annotations: notesOf(panel, this.hidden, height - 52), images: panel.in_space ? [] : (this.images ??= imagesOf(panel)), uirevision: "kept",
    };
    if (!panel.in_space) {
      const hasGround = layout.images.length > 0;
      layout.xaxis = axisOf(panel.x, width - 120);
      layout.yaxis = axisOf(panel.y, height - 60);
      if (hasGround) layout.xaxis.showgrid = layout.yaxis.showgrid = false;
      return layout;
    }
    const { azimuth, elevation } = panel.view, turn = Math.PI / 180, far = 2.15;
    const axis = (each) => ({ ...axisOf(each, 260), backgroundcolor: colors.ground, showbackground: false });
    layout.scene = {
      xaxis: axis(panel.x), yaxis: axis(panel.y), zaxis: axis({ ...panel.z, label: panel.z.label || "value" }), aspectmode: "manual", aspectratio: { x: 1.25, y: 1.25, z: 0.85 },
      camera: { eye: {
        x: far * Math.cos(elevation * turn) * Math.cos(azimuth * turn), y: far * Math.cos(elevation * turn) * Math.sin(azimuth * turn), z: far * Math.sin(elevation * turn),
      }, center: { x: 0, y: 0, z: -0.22 } },
    };
    layout.margin = { l: 0, r: 0, t: 0, b: 0 };
    layout.dragmode = "turntable";
    return layout;
  }

  // Room for the names at the ends of curves, or for a scale.
  rightMargin() {
    const longest = Math.max(0, ...this.panel.end_labels.map((label) => label.text.length));
    return longest ? 16 + 7.4 * Math.min(longest, 24) : this.panel.layers.some((layer) => layer.scale) ? 74 : 14;
  }

  async draw() {
    this.traces = tracesOf(this.panel, this.frame);
    for (const trace of this.traces) trace.visible = !this.hidden.has(trace.series);
    await Plotly.react(this.plot, this.traces, this.layout(), { displayModeBar: false, responsive: false, doubleClick: "reset", scrollZoom: false });
    this.plot.append(this.canvas);
    this.paint(); // in its new size
    if (this.drawn) return;
    this.drawn = true;
    this.plot.on("plotly_relayout", () => this.paint());
    const field = this.panel.layers.find((layer) => layer.kind === "field");
    if (field) this.plot.addEventListener("mousemove", (event) => this.readField(field, event));
  }

  readField(field, event) {
    const { xaxis, yaxis } = this.plot._fullLayout, frame = this.plot.getBoundingClientRect();
    const x = xaxis.p2d(event.clientX - frame.left - xaxis._offset), y = yaxis.p2d(event.clientY - frame.top - yaxis._offset);
    const value = fieldValue(field, x, y);
    this.readout.textContent = value === null ? "" :
      `${this.panel.x.label} ${shortNumber(x)}, ${this.panel.y.label} ${shortNumber(y)}: ${Number.isNaN(value) ? "no value" : shortNumber(value)}`;
  }

  // Takes what is switched off out of sight at once; `hide` has the library draw it so.
  hideAtOnce(hidden) {
    if (!this.drawn || this.panel.in_space) return;
    this.traces.forEach(({ series }, k) => {
      const drawn = series && this.plot.querySelector(`.scatter${this.plot._fullData[k].uid}`);
      if (drawn) drawn.style.display = hidden.has(series) ? "none" : "";
    });
  }

  async hide(hidden) {
    const before = this.hidden;
    this.hidden = hidden;
    if (!this.drawn) return;
    this.hideAtOnce(new Set());
    const indices = [], visible = [];
    this.traces.forEach((trace, k) => {
      if (!trace.series || before.has(trace.series) === hidden.has(trace.series)) return;
      trace.visible = !hidden.has(trace.series);
      indices.push(k);
      visible.push(trace.visible);
    });
    if (indices.length) await Plotly.update(this.plot, { visible }, { annotations: notesOf(this.panel, hidden, this.plot.clientHeight - 52) }, indices);
    this.paint();
  }

  // The traces of layers that move, as lists that a restyle takes.
  moving() {
    return this.traces.map((trace, k) => ({ trace, k })).filter(({ trace }) => trace.layer.shown && !trace.fixed);
  }

  // Shows a frame for good: every mark can be pointed at.
  async settle(frame) {
    this.frame = frame;
    this.lifted = false;
    if (!this.drawn || !this.moves) return;
    const moving = this.moving(), places = moving.map(({ trace }) => placesIn(trace.layer, frame));
    const changed = { x: places.map((each) => each.x), y: places.map((each) => each.y), text: places.map((each) => each.text) };
    if (this.panel.in_space) changed.z = places.map((each) => each.z);
    await Plotly.restyle(this.plot, changed, moving.map(({ k }) => k));
    this.paint();
  }

  // Shows a frame on the way to others: what moves is painted over the axes, which costs little.
  async pass(frame) {
    if (!this.drawn || !this.moves) return;
    if (this.panel.in_space) return this.settle(frame);
    this.frame = frame;
    if (!this.lifted) {
      this.lifted = true;
      const moving = this.moving();
      await Plotly.restyle(this.plot, { x: moving.map(() => []), y: moving.map(() => []) }, moving.map(({ k }) => k));
    }
    this.paint();
  }

  paint() {
    const { canvas, plot } = this;
    if (canvas.width !== plot.clientWidth || canvas.height !== plot.clientHeight) {
      canvas.width = plot.clientWidth;
      canvas.height = plot.clientHeight;
    }
    const context = canvas.getContext("2d");
    context.clearRect(0, 0, canvas.width, canvas.height);
    if (!this.lifted) return;
    const { xaxis, yaxis } = plot._fullLayout;
    context.save();
    context.beginPath();
    context.rect(xaxis._offset, yaxis._offset, xaxis._length, yaxis._length);
    context.clip();
    for (const { trace } of this.moving())
      if (trace.visible) paintTrace(context, trace, this.frame, (x) => xaxis._offset + xaxis.d2p(x), (y) => yaxis._offset + yaxis.d2p(y));
    context.restore();
  }

  reset() {
    if (this.panel.in_space) return Plotly.relayout(this.plot, { "scene.camera": this.layout().scene.camera });
    const { x, y } = this.panel;
    const ends = (axis, name) => (axis.range ? { [`${name}.range`]: axis.logarithmic ? axis.range.map(Math.log10) : axis.range } : { [`${name}.autorange`]: true });
    return Plotly.relayout(this.plot, { ...ends(x, "xaxis"), ...ends(y, "yaxis") });
  }

  key(event) {
    if (this.panel.in_space || !this.drawn) return;
    const zoom = { "+": 0.8, "=": 0.8, "-": 1.25 }[event.key];
    const move = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] }[event.key];
    if (event.key === "0") this.reset();
    if (!zoom && !move) return;
    event.preventDefault();
    const changed = {};
    for (const [k, name] of ["xaxis", "yaxis"].entries()) {
      const [low, high] = this.plot._fullLayout[name].range, half = (high - low) / 2;
      const center = (low + high) / 2 + (move ? 2 * half * move[k] : 0);
      changed[`${name}.range`] = [center - half * (zoom ?? 1), center + half * (zoom ?? 1)];
    }
    Plotly.relayout(this.plot, changed);
  }
}
