// Layers of a panel as traces of the plotting library. Every trace remembers its layer, so that frames and the key find it.
const dashes = ["solid", "dash", "dot", "dashdot", "longdash", "longdashdot"];
const symbols = { dot: "circle", ring: "circle-open", diamond: "diamond", cross: "x-thin" };
const markerSize = 7.5; // pixels of a mark of size 1

// What a layer shows in a frame.
function spanOf(layer, frame) {
  return layer.shown ? layer.shown[Math.min(frame, layer.shown.length - 1)] : [0, layer.x.length];
}

function placesIn(layer, frame) {
  const [first, end] = spanOf(layer, frame);
  const part = (values) => (values ? values.slice(first, end) : undefined);
  return { x: part(layer.x), y: part(layer.y), z: part(layer.z), text: part(layer.pointer?.map(plain)) };
}

// What a pointer is told: the layer's own words, or its numbers by the axes' names.
function pointerOf(layer, panel) {
  const name = plain(layer.series || layer.label || "").replaceAll("%{", "% {");
  if (layer.pointer) return { hovertemplate: `${name ? name + "<br>" : ""}%{text}<extra></extra>` };
  const axis = (a, letter) => `${plain(a.label || panel.title || letter).replaceAll("%{", "% {")} %{${letter}}`;
  const height = layer.z ? `<br>${axis(panel.z, "z")}` : "";
  return { hovertemplate: `${name ? name + "<br>" : ""}${axis(panel.x, "x")}<br>${axis(panel.y, "y")}${height}<extra></extra>` };
}

const makers = {
  line(layer, panel, hasLandscape) {
    const inSpace = panel.in_space;
    const common = { type: inSpace ? "scatter3d" : "scatter", mode: "lines", connectgaps: false };
    const traces = [];
    const color = inkOn(layer.color, hasLandscape);
    if (layer.cased && hasLandscape)
      traces.push({ ...common, line: { color: "#ffffff", width: layer.width + (inSpace ? 5 : 2.5) }, hoverinfo: "skip" });
    traces.push({
      ...common,
      line: { color, width: inSpace ? 2.2 * layer.width : layer.width, dash: dashes[(layer.dash - 1) % dashes.length] },
      ...pointerOf(layer, panel),
    });
    return traces;
  },
  points(layer, panel, hasLandscape) {
    const common = { type: panel.in_space ? "scatter3d" : "scatter", mode: "markers", cliponaxis: false };
    const color = inkOn(layer.color, hasLandscape);
    const size = markerSize * layer.size * (panel.in_space ? 0.6 : 1), pointer = pointerOf(layer, panel);
    const mark = (symbol, scale, ink, width, more) => ({
      ...common, ...more,
      marker: { symbol: panel.in_space && symbol === "x-thin" ? "x" : symbol, size: scale * size, color: ink, line: { color: ink, width } },
    });
    const skip = { hoverinfo: "skip" };
    switch (layer.marker) {
      case "ring": return [mark("circle-open", 1, hasLandscape ? "#ffffff" : theme().ground, 4.5, skip), mark("circle-open", 1, color, 2, pointer)];
      case "diamond": return [mark("diamond", 1 + 0.35 / layer.size, hasLandscape ? "#ffffff" : theme().ground, 0, skip), mark("diamond", 1, color, 0, pointer)];
      case "cross": return [mark("x-thin", 1, pathColor, 3.5, skip), mark("x-thin", 1, color, 1.5, pointer)];
      default: return [mark("circle", 1, color, 0, pointer)];
    }
  },
  field(layer, panel) {
    const traces = [];
    if (layer.curves)
      traces.push({
        type: "scatter", mode: "lines", x: numbersOf(layer.curves.x), y: numbersOf(layer.curves.y), hoverinfo: "skip",
        line: { color: seeThrough("#ffffff", 0.4), width: 0.7 }, fixed: true,
      });
    if (layer.scale) traces.push(scaleOf(layer));
    return traces;
  },
  surface(layer, panel) {
    const values = numbersOf(layer.values), columns = layer.x.count;
    const rows = Array.from({ length: layer.y.count }, (_, i) => Array.from(values.slice(i * columns, (i + 1) * columns)));
    const bands = layer.levels.length + 1;
    const places = rows.map((row) => row.map((value) => placeAmong(layer.levels, value)));
    const traces = [{
      type: "surface", x: gridPlaces(layer.x), y: gridPlaces(layer.y), z: rows, surfacecolor: places, fixed: true,
      colorscale: surfacePlaces.map((place, k) => [place, surfaceColors[k]]), cmin: 0.5, cmax: bands - 0.5, showscale: false,
      lighting: { ambient: 0.8, diffuse: 0.35, specular: 0.03, roughness: 0.9 }, isSurface: true,
      hovertemplate: `${plain(panel.x.label)} %{x}<br>${plain(panel.y.label)} %{y}<br>value %{z}<extra></extra>`,
    }];
    if (layer.curves) {
      const x = numbersOf(layer.curves.x), y = numbersOf(layer.curves.y), ground = panel.z.range[0];
      traces.push({
        type: "scatter3d", mode: "lines", x: Array.from(x), y: Array.from(y), z: Array.from(x, (place) => (Number.isNaN(place) ? null : ground)),
        hoverinfo: "skip", line: { color: theme().axis, width: 1.5 }, fixed: true,
      });
    }
    return traces;
  },
  pixels: () => [],
  veil: () => [],
  band(layer) {
    const x = [], y = [];
    for (let from = 0; from < layer.x.length; ++from) {
      if (!isThere(layer.lower[from]) || !isThere(layer.upper[from])) continue;
      let end = from;
      while (end < layer.x.length && isThere(layer.lower[end]) && isThere(layer.upper[end])) ++end;
      x.push(...layer.x.slice(from, end), ...layer.x.slice(from, end).reverse(), layer.x[from], null);
      y.push(...layer.lower.slice(from, end), ...layer.upper.slice(from, end).reverse(), layer.lower[from], null);
      from = end;
    }
    return [{ type: "scatter", mode: "lines", x, y, fill: "toself", fillcolor: seeThrough(layer.color, 0.22), line: { width: 0 }, hoverinfo: "skip", fixed: true }];
  },
  text(layer, panel, hasLandscape) {
    if (layer.on_ground) return []; // words on a ground of their own are notes
    const align = { left: "middle right", right: "middle left", center: "middle center" }[layer.align];
    return [{
      type: "scatter", mode: "text", x: layer.x, y: layer.y, text: layer.texts.map(plain), textposition: align, hoverinfo: "skip", fixed: true,
      textfont: { size: layer.size + 1, color: layer.color === "#4a433b" && !hasLandscape ? theme().text : inkOn(layer.color, hasLandscape) }, cliponaxis: false,
    }];
  },
};

// The levels beside a field, by a trace that has nothing but its scale.
function scaleOf(layer) {
  const bands = layer.levels.length + 1, stride = Math.max(1, Math.floor(layer.levels.length / 8));
  const colors = bandColors(bands), tics = [], names = [];
  for (let k = 0; k < layer.levels.length; k += stride) {
    tics.push(k + 1);
    names.push(layer.level_names[k]);
  }
  return {
    type: "scatter", mode: "markers", x: [null], y: [null], hoverinfo: "skip", fixed: true,
    marker: {
      color: [0], cmin: 0, cmax: bands, showscale: true,
      colorscale: colors.flatMap(([r, g, b], k) => [k, k + 1].map((at) => [at / bands, `rgb(${r},${g},${b})`])),
      colorbar: { thickness: 12, outlinewidth: 0, x: 1.01, xpad: 4, tickvals: tics, ticktext: names, ticks: "", tickfont: { size: 10, color: theme().text } },
    },
  };
}

// All traces of a panel, in the order of its layers, as they are in a frame.
function tracesOf(panel, frame) {
  const hasLandscape = panel.layers.some((layer) => ["field", "surface", "pixels"].includes(layer.kind));
  return panel.layers.flatMap((layer) =>
    makers[layer.kind](layer, panel, hasLandscape).map((trace) => ({
      ...(trace.fixed ? {} : placesIn(layer, frame)), ...trace, showlegend: false, layer,
      series: layer.series || "",
    })));
}

function imagesOf(panel) {
  const images = { field: fieldImage, pixels: pixelImage, veil: veilImage };
  return panel.layers.filter((layer) => images[layer.kind]).map((layer) => images[layer.kind](layer));
}

// Notes on a logarithmic axis stand at logarithms.
const onAxis = (axis, number) => (axis.logarithmic ? Math.log10(number) : number);

// Where a number stands on an axis with a range, from 0 to 1.
function partOn({ range: [low, high], logarithmic }, number) {
  return logarithmic ? Math.log(number / low) / Math.log(high / low) : (number - low) / (high - low);
}

// Places at least a gap apart, as near to those wanted as that allows, within 0 and 1 where there is room.
function movedApart(wanted, gap) {
  const order = wanted.map((_, k) => k).sort((a, b) => wanted[a] - wanted[b]), places = [...wanted];
  for (let k = 1; k < order.length; ++k) places[order[k]] = Math.max(places[order[k]], places[order[k - 1]] + gap);
  let limit = 1;
  for (const k of order.reverse()) {
    places[k] = Math.min(places[k], limit);
    limit = places[k] - gap;
  }
  return places;
}

function notesOf(panel, hidden, height) {
  const notes = [];
  for (const layer of panel.layers) {
    if (layer.kind !== "text" || !layer.on_ground || hidden.has(layer.series)) continue;
    layer.texts.forEach((text, k) =>
      notes.push({ x: onAxis(panel.x, layer.x[k]), y: onAxis(panel.y, layer.y[k]), text: plain(text), showarrow: false, bgcolor: "rgba(255,255,255,0.85)", borderpad: 2, xanchor: layer.align, font: { size: layer.size, color: layer.color } }));
  }
  const places = movedApart(panel.end_labels.map(({ y }) => partOn(panel.y, y)), 15 / height);
  for (const [k, label] of panel.end_labels.entries()) {
    if (hidden.has(label.series)) continue;
    notes.push({ xref: "paper", x: 1.01, xanchor: "left", yref: "paper", y: places[k], yanchor: "middle", text: plain(label.text), showarrow: false, font: { size: 12, color: inkOn(label.color, false) } });
  }
  return notes;
}
